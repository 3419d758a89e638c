"""Rules beside cooking, on a record of the coldest (or, of cold food, the warmest) place: cooling, reheating, holding,
time as the control, freezing against parasites, keeping.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..errors import BadInput
from ..files.house import House
from .standards import PhaseRule, Standard
from .verdict import FloatArray, Verdict, held_temperature

PHASES = ("cool", "reheat", "hold-hot", "hold-cold", "time-control", "freeze", "store")
NEAR = 1e-6
BY_MINUTES = 60.0
UNFINISHED_MIN = -0.1  # the margin of a record that ends before it has reached anything


def _first(time_s: FloatArray, T: FloatArray, level_c: float, rising: bool, after_s: float = 0.0) -> float | None:
    """When a level is first reached from `after_s` on, s, straight between samples; None when never."""
    reached = (level_c - NEAR <= T) if rising else (level_c + NEAR >= T)
    for i in np.flatnonzero(reached & (time_s >= after_s)):
        if i == 0 or reached[i - 1]:
            return float(max(time_s[i], after_s))
        share = (level_c - T[i - 1]) / (T[i] - T[i - 1])
        return float(max(time_s[i - 1] + share * (time_s[i] - time_s[i - 1]), after_s))
    return None


def _outside_s(time_s: FloatArray, T: FloatArray, level_c: float, above: bool) -> tuple[float, int]:
    """Seconds spent above (or below) a level, and in how many stretches."""
    d = (T - level_c) if above else (level_c - T)
    total, stretches, out = 0.0, 0, False
    for i in range(len(T) - 1):
        a, b, h = d[i], d[i + 1], time_s[i + 1] - time_s[i]
        if a > NEAR or b > NEAR:
            inside = 1.0 if min(a, b) >= 0 else max(a, b) / (max(a, b) - min(a, b))
            total += inside * h
            stretches += not out
        out = b > NEAR
    return float(total), stretches


def _verdict(
    rule: PhaseRule, margin: float, unit: str, needed: dict[str, float], reached: dict[str, float], *cautions: str
) -> Verdict:
    return Verdict(rule, margin >= -NEAR, margin, unit, needed, reached, cautions, needs_probe=False)


@dataclass(frozen=True)
class CoolingStep:
    """One stage of a cooling: when it began and ended (None: not yet), s, and what it took and may take, min."""

    from_c: float
    to_c: float
    allowed_min: float
    begins_s: float | None
    ends_s: float | None
    spent_min: float

    @property
    def minutes(self) -> float | None:
        """What it took, where it is over."""
        return self.spent_min if self.ends_s is not None else None

    @property
    def margin_min(self) -> float:
        """Minutes to spare; below zero where it is late, or not over."""
        spare = self.allowed_min - self.spent_min
        return spare if self.ends_s is not None else min(spare, UNFINISHED_MIN)

    @property
    def met(self) -> bool:
        """Whether it was over in time."""
        return self.margin_min >= -NEAR


def cooling_steps(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> list[CoolingStep]:
    """Each stage of a rule; its clock runs from when the food falls below its upper temperature."""
    found = []
    for start, end, hours in rule.steps:
        begins = _first(time_s, T, rule.c(start), rising=False)
        ends = None if begins is None else _first(time_s, T, rule.c(end), rising=False, after_s=begins)
        until = ends if ends is not None else float(time_s[-1])
        spent = 0.0 if begins is None else (until - begins) / BY_MINUTES
        found.append(CoolingStep(rule.c(start), rule.c(end), 60.0 * hours, begins, ends, spent))
    return found


def cooling(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """The stage with the least to spare decides."""
    steps = cooling_steps(rule, time_s, T)
    if not steps:
        raise BadInput("This standard has no steps for cooling.", "standard")
    cautions = []
    for step in steps:
        if step.begins_s is None:
            cautions.append(f"The record never falls to {step.from_c:.0f} °C: nothing to judge yet.")
        elif step.ends_s is None:
            cautions.append(f"The record ends at {T[-1]:.1f} °C, before {step.to_c:.0f} °C.")
    worst = min(steps, key=lambda step: step.margin_min)
    needed = {"from_c": round(worst.from_c, 1), "to_c": round(worst.to_c, 1), "minutes": worst.allowed_min}
    reached = {"minutes": round(worst.spent_min, 1), "end_c": round(float(T[-1]), 1)}
    return _verdict(rule, worst.margin_min, "min", needed, reached, *cautions)


def reheating(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """Up to a temperature, held, and within a time."""
    to_c = rule.c(rule.to or 0.0)
    held = held_temperature(time_s, T, rule.seconds)
    held = float(T.min()) if held == float("-inf") else held
    needed = {"c": round(to_c, 1), "seconds": rule.seconds}
    reached = {"c": round(held, 1), "seconds": rule.seconds}
    if rule.within_h is not None and held >= to_c - NEAR:
        leaves = _first(time_s, T, rule.c(rule.start or 0.0), rising=True) if rule.start is not None else None
        arrives = _first(time_s, T, to_c, rising=True)
        if arrives is not None:
            spent = (arrives - (leaves if leaves is not None else float(time_s[0]))) / BY_MINUTES
            needed["minutes"], reached["minutes"] = 60.0 * rule.within_h, round(spent, 1)
            return _verdict(rule, 60.0 * rule.within_h - spent, "min", needed, reached)
    return _verdict(rule, held - to_c, "c", needed, reached)


def _holding(rule: PhaseRule, time_s: FloatArray, T: FloatArray, hot: bool) -> Verdict:
    limit_c = rule.c(rule.limit or 0.0)
    worst = float(T.min() if hot else T.max())
    margin = (worst - limit_c) if hot else (limit_c - worst)
    needed = {"c": round(limit_c, 1)}
    reached = {"c": round(worst, 1)}
    if margin >= -NEAR or rule.allowed_h <= 0:
        return _verdict(rule, margin, "c", needed, reached)
    outside_s, stretches = _outside_s(time_s, T, limit_c, above=not hot)
    needed["minutes"], reached["minutes"] = 60.0 * rule.allowed_h, round(outside_s / BY_MINUTES, 1)
    spare = 60.0 * rule.allowed_h - outside_s / BY_MINUTES
    if stretches > 1:
        return _verdict(rule, margin, "c", needed, reached, f"Outside {stretches} times; only one period is allowed.")
    return _verdict(rule, spare, "min", needed, reached, "Its one period outside is used: do not hold it again.")


def hold_hot(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """Never below, but for one allowed period where the standard has one."""
    return _holding(rule, time_s, T, hot=True)


def hold_cold(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """Never above, but for one allowed period where the standard has one."""
    return _holding(rule, time_s, T, hot=False)


def time_control(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """Time alone as the control, from a start that was cold or hot enough."""
    hours = rule.hours or 0.0
    if rule.between is not None:
        low, high = (rule.c(value) for value in rule.between)
        inside = (float(time_s[-1] - time_s[0]) - _outside_s(time_s, T, high, True)[0]) - _outside_s(
            time_s, T, low, False
        )[0]
        spent = inside / BY_MINUTES
        note = "Between 2 and 4 h: use it now, do not chill it again." if 120 <= spent <= 60 * hours else ""
        notes = (note,) if note else ()
        return _verdict(
            rule, 60.0 * hours - spent, "min", {"minutes": 60.0 * hours}, {"minutes": round(spent, 1)}, *notes
        )
    spent = float(time_s[-1] - time_s[0]) / BY_MINUTES
    reached = {"minutes": round(spent, 1), "start_c": round(float(T[0]), 1), "highest_c": round(float(T.max()), 1)}
    cold = rule.starts_at_most is None or float(T[0]) <= rule.c(rule.starts_at_most) + NEAR
    hot = rule.starts_at_least is not None and float(T[0]) >= rule.c(rule.starts_at_least) - NEAR
    if not (cold or hot):
        at = rule.c(rule.starts_at_most or 0.0)
        return _verdict(rule, at - float(T[0]), "c", {"start_c": round(at, 1)}, reached)
    stays_cool = rule.cool_at_most is not None and float(T.max()) <= rule.c(rule.cool_at_most) + NEAR
    if rule.cool_hours is not None and cold and stays_cool:
        hours = rule.cool_hours
    return _verdict(rule, 60.0 * hours - spent, "min", {"minutes": 60.0 * hours}, reached)


def freezing(rule: PhaseRule, time_s: FloatArray, T: FloatArray) -> Verdict:
    """One of the options held without a break."""
    best: Verdict | None = None
    for at, hours in rule.options:
        below = held_temperature(time_s, -T, 3600.0 * hours)
        reached_c = -below if below != float("-inf") else float(T.max())
        margin = rule.c(at) - reached_c
        if below == float("-inf"):
            margin = min(margin, -0.05)
        needed = {"c": round(rule.c(at), 1), "hours": hours}
        found = _verdict(
            rule, margin, "c", needed, {"c": round(reached_c, 1), "hours": round(float(np.ptp(time_s)) / 3600.0, 1)}
        )
        if best is None or (found.met and not best.met) or (found.met == best.met and margin > best.margin):
            best = found
    if best is None:
        raise BadInput("This standard has no rule for freezing.", "standard")
    return best


def storing(rule: PhaseRule, time_s: FloatArray, T: FloatArray, packed: str) -> Verdict:
    """Days kept against how cold it was kept."""
    options = rule.kept.get(packed)
    if not options:
        raise BadInput(f"This standard says nothing of food kept {packed.replace('-', ' ')}.", "kept")
    days = float(np.ptp(time_s)) / 86_400.0
    warmest = float(T.max())
    fitting = [(at, allowed) for at, allowed in options if warmest <= rule.c(at) + NEAR]
    if not fitting:
        at = max(rule.c(at) for at, _ in options)
        return _verdict(rule, at - warmest, "c", {"c": round(at, 1)}, {"c": round(warmest, 1), "days": round(days, 2)})
    at, allowed = max(fitting, key=lambda row: row[1])
    needed = {"c": round(rule.c(at), 1), "days": allowed}
    return _verdict(
        rule, (allowed - days) * 1440.0, "min", needed, {"c": round(warmest, 1), "days": round(days, 2)}
    )  # fmt: skip


_JUDGES: dict[str, Callable[[PhaseRule, FloatArray, FloatArray], Verdict]] = {
    "cool": cooling, "reheat": reheating, "hold-hot": hold_hot, "hold-cold": hold_cold, "time-control": time_control,
    "freeze": freezing,
}  # fmt: skip


def _in_this_house(rule: PhaseRule, house: House | None) -> PhaseRule:
    """The rule with the kitchen's own limit, where that is stricter."""
    if house is None or rule.limit is None:
        return rule
    own = house.hold_hot_c if rule.id == "hold-hot" else house.hold_cold_c
    stricter = own is not None and (own > rule.c(rule.limit) if rule.id == "hold-hot" else own < rule.c(rule.limit))
    if own is None or not stricter:
        return rule
    way = "above" if rule.id == "hold-hot" else "below"
    text = f"House rule: {own:g} °C or {way}"
    return rule.model_copy(update={"limit": own, "unit": "C", "section": "House rule", "text": text, "allowed_h": 0.0})


def judge_phase(
    standard: Standard, phase: str, time_s: FloatArray, T: FloatArray, packed: str, house: House | None = None
) -> Verdict:
    """The verdict of a standard on one phase of a record.

    Raises BadInput where the standard has no rule for it.
    """
    rule = standard.phases.get(phase)
    if rule is None:
        raise BadInput(f"{standard.name} has no rule here for {phase.replace('-', ' ')}.", "phase")
    rule = _in_this_house(rule, house)
    found = storing(rule, time_s, T, packed) if phase == "store" else _JUDGES[phase](rule, time_s, T)
    return Verdict(
        found.rule, found.met, found.margin, found.margin_unit, found.needed, found.reached,
        (*found.cautions, standard.cautions["always"]), needs_probe=False,
    )  # fmt: skip
