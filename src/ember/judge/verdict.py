"""Verdicts on cooking: which rule was met by what was measured or planned, and by how much. Never the word "safe"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from ..files.base import House
from .record import (
    NEAR,
    Curve,
    FloatArray,
    TemperatureRecord,
    cut_off,
    held_c,
    longest_above_s,
    outside_s,
    stretches_above,
)
from .roast_ovens import OvenUse, oven_refusal
from .standards import ComeUp, PhaseRule, Rule, Standard, house_rule
from .states import State
from .words import MOST_LOGS, verdict_sentence

__all__ = ["MOST_LOGS", "JudgedFood", "Verdict", "against", "judge", "table_share"]

MOST_PARTS = 400  # of one interval
LEAST_MISS_K = 0.05  # what a miss of a hold that was hot enough, but too short, is shown as
WHOLE = 1.0 - 1e-9


@dataclass(frozen=True)
class Verdict:
    """One rule judged on one temperature history.

    `margin` is in log10 of the table's organism for a table, in °C for a held or surface temperature, in minutes for a
    time; negative if not met. `reason`: what the figures do not show.
    """

    rule: Rule | PhaseRule
    state: State
    margin: float
    margin_unit: str
    needed: dict[str, float]
    reached: dict[str, float]
    cautions: tuple[str, ...] = field(default=())
    needs_probe: bool = True
    advisory_allowed: bool = False
    reason: str = ""

    @property
    def met(self) -> bool | None:
        """Whether the rule is met; None without a verdict."""
        return self.state.met

    @property
    def organism(self) -> str:
        """The organism a table counts; empty for other rules."""
        return self.rule.organism if isinstance(self.rule, Rule) and self.rule.kind == "table" else ""

    def fields(self) -> dict[str, Any]:
        """The values for its sentence."""
        return {
            "state": self.state.value, "kind": self.rule.kind, "needed": self.needed, "reached": self.reached,
            "organism": self.organism, "reason": self.reason,
        }  # fmt: skip

    @property
    def words(self) -> str:
        """The verdict as a sentence, in °C."""
        return verdict_sentence(self.fields())


@dataclass(frozen=True)
class JudgedFood:
    """What a standard needs to know of a piece besides temperatures.

    `fat_pct`: per cent of the raw mass. `advisory`: the menu carries one. `ovens`: what it was heated in, None if
    unknown.
    """

    category: str
    species: str = ""
    fat_pct: float = 100.0
    mass_g: float | None = None
    susceptible: bool = False
    advisory: bool = False
    house: House | None = None
    ovens: Sequence[OvenUse] | None = None

    def rules(self, standard: Standard) -> list[Rule]:
        """Rules of a standard of which one must be met."""
        return standard.rules_for(self.category, self.susceptible, self.species, self.fat_pct)


def table_share(rule: Rule, curve: Curve) -> float:
    """Multiples of the table's time: Σ dt / needed(T). No credit below its first row."""
    time_s, temperature_c = curve
    rows = [(t, s) for t, s in rule.points_c if s > 0]
    at_once = [t for t, s in rule.points_c if s <= 0]
    # The last row asks for no time: touching it is the whole table.
    floor = 1.0 if at_once and float(temperature_c.max()) >= at_once[0] - NEAR else 0.0
    return max(float(table_steps(rows, time_s, temperature_c).sum()), floor)


def table_steps(rows: Sequence[tuple[float, float]], time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
    """Share of a table's time within each interval, [n - 1], or [n - 1, place] of temperatures [n, place]; between
    `rows` (°C, s) the time is interpolated by its logarithm.
    """
    temperatures = np.array([t for t, _ in rows])
    logs = np.log10([s for _, s in rows])

    def share_rate(T: FloatArray) -> FloatArray:
        needed = 10 ** np.interp(T, temperatures, logs)
        return np.where(temperatures[0] - NEAR <= T, 1.0 / needed, 0.0)

    # Split intervals finely: the rate changes tenfold in 5 K. The part below the first row is cut off exactly.
    low = np.minimum(temperature_c[:-1], temperature_c[1:]).ravel()
    high = np.maximum(temperature_c[:-1], temperature_c[1:]).ravel()
    places = 1 if temperature_c.ndim == 1 else temperature_c.shape[1]
    warm = np.flatnonzero(high >= temperatures[0] - NEAR)
    begin = np.maximum(low[warm], temperatures[0])
    rise = np.maximum(high[warm] - begin, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        counted = np.where(low[warm] >= temperatures[0] - NEAR, 1.0, rise / (high[warm] - low[warm]))
    parts = np.minimum(np.maximum(1, np.ceil(rise / 0.25)).astype(int), MOST_PARTS)
    whole = np.repeat(np.arange(len(warm)), parts)
    part = np.arange(len(whole)) - np.repeat(np.cumsum(parts) - parts, parts)
    share = 1.0 / np.repeat(parts, parts)
    rates = [share_rate(begin[whole] + rise[whole] * (part + end) * share) for end in (0.0, 1.0)]
    mean = np.bincount(whole, weights=0.5 * (rates[0] + rates[1]) * share, minlength=len(warm))
    log10_steps = np.zeros(len(low))
    log10_steps[warm] = mean * counted * np.diff(time_s)[warm // places]
    return log10_steps.reshape((max(len(time_s) - 1, 0), *temperature_c.shape[1:]))


def _against_table(rule: Rule, curve: Curve) -> Verdict:
    share, log10 = table_share(rule, curve), rule.log10 or 0.0
    first_c, first_s = rule.points_c[0]
    met = share >= WHOLE
    margin = max(log10 * (share - 1.0), 0.0) if met else log10 * (share - 1.0)
    return Verdict(
        rule, State.of(met), margin, "log10",
        {"log10": log10, "from_c": round(first_c, 1), "from_min": first_s / 60.0},
        {"log10": round(log10 * share, 3), "highest_c": round(float(curve[1].max()), 2)},
    )  # fmt: skip


def _against_hold(rule: Rule, curve: Curve) -> Verdict:
    by_row: list[tuple[bool, float, float, float, float, float]] = []
    for needed_c, seconds in rule.points_c:
        spent = longest_above_s(curve, needed_c)
        met = spent >= seconds - NEAR
        held = held_c(curve, seconds)
        held = float(curve[1].min()) if held == float("-inf") else held
        margin = max(held - needed_c, 0.0) if met else min(held - needed_c, -LEAST_MISS_K)
        by_row.append((met, margin, needed_c, seconds, held, spent))
    met, margin, needed_c, seconds, held, spent = max(by_row)
    return Verdict(
        rule, State.of(met), margin, "c", {"c": round(needed_c, 1), "seconds": seconds},
        {
            "c": round(held, 2), "seconds": seconds, "held_s": round(max(spent, 0.0), 1),
            "highest_c": round(float(curve[1].max()), 2),
        },
    )  # fmt: skip


def against(rule: Rule, coldest: TemperatureRecord, surface_c: FloatArray | None = None) -> Verdict:
    """One rule judged at the coldest point, or at the colder face if the rule says so.

    `surface_c`: that face at the record's times; None if unknown, and then a rule for faces is not met.
    """
    if rule.kind == "table":
        return _against_table(rule, coldest.colder)
    if rule.kind != "surface":
        return _against_hold(rule, coldest.colder)
    needed_c, seconds = rule.points_c[0]
    needed = {"c": round(needed_c, 1), "seconds": seconds}
    if surface_c is None:
        return Verdict(rule, State.NOT_MET, float("-inf"), "c", needed, {})
    return replace(_against_hold(rule, (coldest.time_s, surface_c)), needed=needed)


def _come_up(condition: ComeUp, coldest: TemperatureRecord) -> Verdict | None:
    """The verdict of the condition itself if the coldest point took too long on its way up; else None.

    Across a gap the way begins as early and ends as late as possible.
    """
    low, high = condition.least_c(condition.start), condition.least_c(condition.to)
    arrives = stretches_above(coldest.colder, high)
    until = arrives[0][0] if arrives else float(coldest.time_s[-1])
    spent, _ = outside_s(cut_off(coldest.warmer, until), low, above=True)
    margin = 60.0 * condition.hours - spent / 60.0
    if margin >= -1e-6:
        return None
    rule = Rule(
        id="come-up", section=condition.section, text=condition.text, kind="come-up", points=(), unit=condition.unit
    )
    needed = {"from_c": round(low, 1), "to_c": round(high, 1), "minutes": 60.0 * condition.hours}
    return Verdict(rule, State.NOT_MET, margin, "min", needed, {"minutes": round(spent / 60.0, 1)})


def _no_rule(standard: Standard) -> Verdict:
    text = "no rule here: ask the authority"
    rule = Rule(id="none", section="", text=f"{standard.name} has {text}", kind="none", points=())
    return Verdict(rule, State.NO_VERDICT, 0.0, "c", {}, {}, reason=text)


def _first_met(standard: Standard, food: JudgedFood, tried: list[Verdict], coldest: TemperatureRecord) -> Verdict:
    """The first rule met with its conditions, else the usual one."""
    refused: list[Verdict] = []
    for verdict in tried:
        if verdict.state is not State.MET or not isinstance(verdict.rule, Rule):
            continue
        why = oven_refusal(verdict.rule, food.ovens, food.mass_g)
        if not why:
            return verdict
        refused.append(replace(verdict, state=State.NOT_MET, margin=-verdict.margin, reason=why))
    return refused[0] if refused else tried[0]


def judge(
    standard: Standard,
    food: JudgedFood,
    coldest: TemperatureRecord,
    surface_c: FloatArray | None = None,
    measured: bool = False,
) -> Verdict:
    """The verdict of a standard on a cook: the first of the category's rules that is met, else the usual one.

    `measured`: the temperatures are readings, not a plan; then no further reading is asked for, except of a surface.
    """
    rules = [rule for rule in food.rules(standard) if rule.kind != "surface" or surface_c is not None]
    if not rules:
        return replace(_no_rule(standard), cautions=(standard.cautions["always"],), needs_probe=True)
    chosen = _first_met(standard, food, [against(rule, coldest, surface_c) for rule in rules], coldest)
    slow = None
    if chosen.met:
        chosen = _by_the_house(chosen, food, coldest)
    if chosen.met and standard.come_up is not None:
        slow = _come_up(standard.come_up, coldest)
    chosen = slow or chosen
    allowed = not chosen.met and slow is None and standard.allows_advisory(food.category, food.susceptible)
    return replace(
        chosen, cautions=_cautions(standard, food, chosen, allowed),
        needs_probe=not measured or chosen.rule.kind == "surface", advisory_allowed=allowed,
        state=State.ADVISORY if allowed and food.advisory else chosen.state,
    )  # fmt: skip


def _by_the_house(met: Verdict, food: JudgedFood, coldest: TemperatureRecord) -> Verdict:
    """A verdict that is met, unless the house's own limit is not: then that one."""
    if food.house is None or food.category not in food.house.core_c:
        return met
    own = against(house_rule(food.category, food.house.core_c[food.category]), coldest)
    return met if own.met else own


def _cautions(standard: Standard, food: JudgedFood, verdict: Verdict, advisory_allowed: bool) -> tuple[str, ...]:
    """Cautions of a verdict: guests, requirements of its rule and food, and general ones."""
    rule = verdict.rule
    said = []
    if not verdict.met and food.susceptible:
        said.append("Not for highly susceptible guests: cook to the rule.")
    if advisory_allowed and standard.advisory is not None:
        said.append(f"{standard.advisory.text} ({standard.advisory.section}).")
    if rule.caution:
        said.append(rule.caution)
    if verdict.met and food.ovens is None and isinstance(rule, Rule) and rule.ovens:
        said.append("This table stands only in an oven it allows: the readings do not say which one it was.")
    if food.category in standard.cautions:
        said.append(standard.cautions[food.category])
    return (*said, standard.cautions["always"])
