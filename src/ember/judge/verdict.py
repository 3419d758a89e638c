"""Verdicts: which rule was met by what was measured or planned, and by how much. Never the word "safe"."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..files.house import House
from .standards import PhaseRule, Rule, Standard, house_rule

FloatArray = NDArray[np.float64]

MOST_LOGS = 20  # beyond this a log reduction only means "all of them"
MOST_PARTS = 400  # of one interval


@dataclass(frozen=True)
class Verdict:
    """One rule against one temperature history.

    `margin` is in log10 of the table's organism for a table, in °C for a held or a surface temperature, in minutes for
    a time; negative when not met.
    """

    rule: Rule | PhaseRule
    met: bool
    margin: float
    margin_unit: str
    needed: dict[str, float]
    reached: dict[str, float]
    cautions: tuple[str, ...] = field(default=())
    needs_probe: bool = True
    advisory_allowed: bool = False

    @property
    def words(self) -> str:
        """The verdict as a screen says it."""
        return say(self.met, self.margin, self.margin_unit, self.rule.kind)


def say(met: bool, margin: float, unit: str, kind: str) -> str:
    """ "Rule met, 2.6 log over" or "Not met: middle 5.1 under"."""
    part = "outside" if kind == "surface" else "middle"
    if unit == "min":
        if not met and margin > -1.0:
            return "Not met: not there yet"
        spent = f"{abs(margin):.0f} min" if abs(margin) < 180 else f"{abs(margin) / 60:.1f} h"
        return f"Rule met, {spent} to spare" if met else f"Not met: {spent} over"
    if unit == "log10" and margin > MOST_LOGS:
        return f"Rule met, more than {MOST_LOGS} log over"
    if unit == "log10":
        return f"Rule met, {margin:.1f} log over" if met else f"Not met: {part} {-margin:.1f} log under"
    return f"Rule met, {margin:.1f}° to spare" if met else f"Not met: {part} {max(-margin, 0.05):.1f} under"


def held_temperature(time_s: FloatArray, temperature_c: FloatArray, seconds: float) -> float:
    """The highest temperature that was held without a break for `seconds`, °C; linear between samples."""
    if seconds <= 0:
        return float(temperature_c.max())
    if time_s[-1] - time_s[0] < seconds:
        return float("-inf")
    low, high = float(temperature_c.min()), float(temperature_c.max())
    if _longest_above(time_s, temperature_c, low) < seconds:
        return float("-inf")
    while high - low > 0.005:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if _longest_above(time_s, temperature_c, middle) >= seconds else (low, middle)
    return low


def _longest_above(time_s: FloatArray, temperature_c: FloatArray, level_c: float) -> float:
    """Longest unbroken time at or above a level, s."""
    above = temperature_c >= level_c - 1e-9
    if above.all():
        return float(time_s[-1] - time_s[0])
    best = 0.0
    starts = np.flatnonzero(above & ~np.concatenate([[False], above[:-1]]))
    ends = np.flatnonzero(above & ~np.concatenate([above[1:], [False]]))
    for first, last in zip(starts, ends, strict=True):
        begin, end = time_s[first], time_s[last]
        if first > 0:
            T0, T1 = temperature_c[first - 1], temperature_c[first]
            begin -= (T1 - level_c) / (T1 - T0) * (time_s[first] - time_s[first - 1])
        if last < len(time_s) - 1:
            T0, T1 = temperature_c[last], temperature_c[last + 1]
            end += (T0 - level_c) / (T0 - T1) * (time_s[last + 1] - time_s[last])
        best = max(best, float(end - begin))
    return best


def table_share(rule: Rule, time_s: FloatArray, temperature_c: FloatArray) -> float:
    """How many times over the table's time was kept: Σ dt / needed(T). No credit below its first row."""
    rows = [(t, s) for t, s in rule.points_c if s > 0]
    at_once = [t for t, s in rule.points_c if s <= 0]
    temperatures = np.array([t for t, _ in rows])
    logs = np.log10([s for _, s in rows])

    def share_rate(T: FloatArray) -> FloatArray:
        needed = 10 ** np.interp(T, temperatures, logs)
        return np.where(temperatures[0] - 1e-9 <= T, 1.0 / needed, 0.0)

    # The last row asks for no time: touching it is the whole table.
    floor = 1.0 if at_once and float(temperature_c.max()) >= at_once[0] - 1e-9 else 0.0
    # Split intervals finely: the rate changes tenfold in 5 K.
    steps = np.maximum(1, np.ceil(np.abs(np.diff(temperature_c)) / 0.25)).astype(int)
    warm = np.flatnonzero(np.maximum(temperature_c[:-1], temperature_c[1:]) >= temperatures[0] - 1e-9)
    parts = np.minimum(steps[warm], MOST_PARTS)
    whole = np.repeat(warm, parts)  # the interval of each part
    part = np.arange(len(whole)) - np.repeat(np.cumsum(parts) - parts, parts)
    share = 1.0 / np.repeat(parts, parts)
    rise = temperature_c[whole + 1] - temperature_c[whole]
    rates = [share_rate(temperature_c[whole] + rise * (part + end) * share) for end in (0.0, 1.0)]
    total = float(np.sum(0.5 * (rates[0] + rates[1]) * share * (time_s[whole + 1] - time_s[whole])))
    return max(total, floor)


def against(rule: Rule, time_s: FloatArray, coldest_c: FloatArray, surface_c: FloatArray | None) -> Verdict:
    """One rule against the temperature of the coldest point (and of the coldest face, where the rule asks for it)."""
    if rule.kind == "table":
        share = table_share(rule, time_s, coldest_c)
        log10 = rule.log10 or 0.0
        first_c, first_s = rule.points_c[0]
        return Verdict(
            rule, share >= 1.0 - 1e-6, log10 * (share - 1.0), "log10",
            {"log10": log10, "from_c": round(first_c, 1), "from_min": first_s / 60.0},
            {"log10": round(log10 * share, 2), "highest_c": round(float(coldest_c.max()), 1)},
        )  # fmt: skip
    series = surface_c if rule.kind == "surface" else coldest_c
    if series is None:
        needed_c, seconds = rule.points_c[0]
        needed = {"c": round(needed_c, 1), "seconds": seconds}
        return Verdict(rule, False, float("-inf"), "c", needed, {})
    best = None
    for needed_c, seconds in rule.points_c:
        held = held_temperature(time_s, series, seconds)
        margin = held - needed_c
        if best is None or margin > best[0]:
            best = (margin, needed_c, seconds, held)
    assert best is not None  # noqa: S101  (a rule has points)
    margin, needed_c, seconds, held = best
    if margin == float("-inf"):  # shorter than any hold asked for
        margin, held = float(series.min()) - needed_c, float(series.min())
        margin = min(margin, -0.05)
    return Verdict(
        rule, margin >= -1e-6, margin, "c",
        {"c": round(needed_c, 1), "seconds": seconds}, {"c": round(held, 1), "seconds": seconds},
    )  # fmt: skip


def judge(
    standard: Standard,
    category: str,
    susceptible: bool,
    time_s: FloatArray,
    coldest_c: FloatArray,
    surface_c: FloatArray | None = None,
    measured: bool = False,
    species: str = "",
    fat_pct: float = 100.0,
    house: House | None = None,
) -> Verdict:
    """The verdict of a standard: the first of the category's rules that is met, else the one it asks for first.

    `measured`: the temperatures are readings, not a plan; then no further reading is asked for, except of a surface.
    `species`, `fat_pct`: some tables go by bird and fat. `house`: the kitchen's own limits; a rule that is met yields
    to one of them that is not.
    """
    rules = [
        rule
        for rule in standard.rules_for(category, susceptible, species, fat_pct)
        if rule.kind != "surface" or surface_c is not None
    ]
    tried = [against(rule, time_s, coldest_c, surface_c) for rule in rules]
    chosen = next((verdict for verdict in tried if verdict.met), tried[0])
    if chosen.met and house is not None and category in house.core_c:
        own = against(house_rule(category, house.core_c[category]), time_s, coldest_c, None)
        chosen = chosen if own.met else own
    cautions = [standard.cautions[key] for key in (category,) if key in standard.cautions]
    if chosen.rule.caution:
        cautions.insert(0, chosen.rule.caution)
    advisory = not chosen.met and not susceptible and standard.advisory is not None
    if advisory and standard.advisory is not None:
        cautions.insert(0, f"{standard.advisory.text} ({standard.advisory.section}).")
    if not chosen.met and susceptible:
        cautions.insert(0, "Not for highly susceptible guests: cook to the rule.")
    cautions.append(standard.cautions["always"])
    return Verdict(
        chosen.rule, chosen.met, chosen.margin, chosen.margin_unit, chosen.needed, chosen.reached,
        tuple(cautions), needs_probe=not measured or chosen.rule.kind == "surface", advisory_allowed=advisory,
    )  # fmt: skip
