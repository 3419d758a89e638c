"""Rules besides cooking: cooling, reheating, holding, thawing, freezing against parasites, storage, time as the
control.

Each judges a record of the coldest point, or for cold food the warmest.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ..errors import BadInput
from ..files.base import House
from ..files.chill import BarriersIn, Packed
from .cooling import cooling
from .record import NEAR, TemperatureRecord, first_above_s, held_c, longest_above_s, outside_s, stretches_above
from .standards import PhaseRule, Standard
from .states import State
from .storage import fish_without_air, missing_barrier
from .verdict import LEAST_MISS_K, Verdict
from .words import marked

PHASES = ("cool", "reheat", "hold-hot", "hold-cold", "time-control", "thaw", "freeze", "store")
FROZEN_C = -18.0  # 0 °F, what freezers are kept at; common practice
Figures = dict[str, float]


@dataclass(frozen=True)
class PhaseFood:
    """What a rule besides cooking needs to know of a piece: category, packaging, barriers to spores."""

    category: str = ""
    packed: Packed = "open"
    barriers: BarriersIn | None = None
    frozen_before: bool = False
    house: House | None = None


def _verdict(
    rule: PhaseRule, margin: float, unit: str, needed: Figures, reached: Figures, *cautions: str, reason: str = ""
) -> Verdict:
    return Verdict(
        rule, State.of(margin >= -NEAR), margin, unit, needed, reached, cautions, needs_probe=False, reason=reason
    )  # fmt: skip


def reheating(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """To a temperature, held, and reached within a time from chilled."""
    to_c = rule.least_c(rule.to or 0.0)
    curve = record.colder
    held_s = longest_above_s(curve, to_c)
    needed = {"c": round(to_c, 1), "seconds": rule.seconds}
    held = held_c(curve, rule.seconds)
    held = float(curve[1].min()) if held == float("-inf") else held
    reached = {
        "c": round(held, 2), "seconds": rule.seconds, "held_s": round(max(held_s, 0.0), 1),
        "highest_c": round(float(curve[1].max()), 2),
    }  # fmt: skip
    if held_s < rule.seconds - NEAR:
        return _verdict(rule, min(held - to_c, -LEAST_MISS_K), "c", needed, reached)
    if rule.within_h is None:
        return _verdict(rule, max(held - to_c, 0.0), "c", needed, reached)
    arrives = next(a for a, b in stretches_above(curve, to_c) if b - a >= rule.seconds - NEAR)
    leaves = None if rule.start is None else first_above_s(record.warmer, rule.most_c(rule.start))
    spent = (arrives - (leaves if leaves is not None else float(record.time_s[0]))) / 60.0
    needed["minutes"], reached["minutes"] = 60.0 * rule.within_h, round(spent, 1)
    return _verdict(rule, 60.0 * rule.within_h - spent, "min", needed, reached)


def _holding(rule: PhaseRule, record: TemperatureRecord, hot: bool) -> Verdict:
    """Never past a limit, except for one period if the standard allows it, and measured often enough to know."""
    limit_c = (rule.least_c if hot else rule.most_c)(rule.limit or 0.0)
    curve = record.colder if hot else record.warmer
    worst = float(curve[1].min() if hot else curve[1].max())
    margin = (worst - limit_c) if hot else (limit_c - worst)
    needed, reached = {"c": round(limit_c, 1)}, {"c": round(worst, 2), "hot": float(hot)}
    unread = record.longest_gap_s / 3600.0
    if rule.unread_h and unread > rule.unread_h + NEAR:
        return _verdict(
            rule, 60.0 * (rule.unread_h - unread), "min", needed, reached,
            reason=f"not read for {unread:.1f} h (at most {rule.unread_h:g} h between two readings)",
        )  # fmt: skip
    if margin >= -NEAR or rule.allowed_h <= 0:
        return _verdict(rule, margin, "c", needed, reached)
    spent_s, stretches = outside_s(curve, limit_c, above=not hot)
    needed["minutes"], reached["minutes"] = 60.0 * rule.allowed_h, round(spent_s / 60.0, 1)
    if stretches > 1:
        return _verdict(
            rule, margin, "c", needed, reached,
            reason=f"{'below' if hot else 'above'} {marked(limit_c)} {stretches} times; only one period is allowed",
        )  # fmt: skip
    spare = 60.0 * rule.allowed_h - spent_s / 60.0
    return _verdict(rule, spare, "min", needed, reached, "The one period outside is used: do not hold it again.")


def hold_hot(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """Never below, except for one allowed period if the standard has one."""
    return _holding(rule, record, hot=True)


def hold_cold(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """Never above, except for one allowed period if the standard has one."""
    return _holding(rule, record, hot=False)


def time_control(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """Time alone as the control, from a start that was cold or hot enough."""
    hours = rule.hours or 0.0
    if rule.between is not None:
        low, high = rule.most_c(rule.between[0]), rule.least_c(rule.between[1])
        # A gap counts whole unless both its ends are on one side: colder and warmer each take one side away.
        cold = record.duration_s - outside_s(record.warmer, low, above=True)[0]
        hot = record.duration_s - outside_s(record.colder, high, above=False)[0]
        spent = (record.duration_s - cold - hot) / 60.0
        notes = ["Between 2 and 4 h: use it now, and do not chill it again."] if 120 <= spent <= 60 * hours else []
        return _verdict(
            rule, 60.0 * hours - spent, "min", {"minutes": 60.0 * hours}, {"minutes": round(spent, 1)}, *notes
        )
    T = record.temperature_c
    first, highest, spent = float(T[0]), float(T.max()), record.duration_s / 60.0
    reached = {"minutes": round(spent, 1), "start_c": round(first, 1), "highest_c": round(highest, 1)}
    cold_start = rule.starts_at_most is None or first <= rule.most_c(rule.starts_at_most) + NEAR
    hot_start = rule.starts_at_least is not None and first >= rule.least_c(rule.starts_at_least) - NEAR
    if not (cold_start or hot_start):
        at = rule.most_c(rule.starts_at_most or 0.0)
        return _verdict(rule, at - first, "c", {"start_c": round(at, 1)}, reached)
    stays_cool = rule.cool_at_most is not None and highest <= rule.most_c(rule.cool_at_most) + NEAR
    if rule.cool_hours is not None and cold_start and stays_cool:
        hours = rule.cool_hours
    return _verdict(rule, 60.0 * hours - spent, "min", {"minutes": 60.0 * hours}, reached)


def freezing(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """One of the options held without a break at the warmest point."""
    best: Verdict | None = None
    t, T = record.warmer
    for option in rule.options:
        at, seconds, begin = rule.most_c(option.at), 3600.0 * option.hours, 0
        if option.after is not None:
            solid = np.flatnonzero(rule.most_c(option.after) + NEAR >= T)
            begin = int(solid[0]) if len(solid) else len(t) - 1
        curve = (t[begin:], -T[begin:])
        below = held_c(curve, seconds)
        reached_c = -below if below != float("-inf") else float(T.max())
        met = longest_above_s(curve, -at) >= seconds - NEAR
        margin = max(at - reached_c, 0.0) if met else min(at - reached_c, -LEAST_MISS_K)
        needed = {"c": round(at, 1), "hours": option.hours}
        verdict = _verdict(
            rule, margin, "c", needed, {"c": round(reached_c, 1), "hours": round(record.duration_s / 3600.0, 1)}
        )
        if best is None or (verdict.met and not best.met) or (verdict.met == best.met and margin > best.margin):
            best = verdict
    if best is None:
        raise BadInput("This standard has no rule for freezing.", "standard")
    return best


def storing(rule: PhaseRule, record: TemperatureRecord, food: PhaseFood) -> Verdict:
    """Days stored, by temperature and packaging."""
    options = rule.kept.get(food.packed)
    if not options:
        raise BadInput(f"This standard gives no shelf life for food stored {food.packed.replace('-', ' ')}.", "kept")
    days, warmest = record.duration_s / 86_400.0, float(record.temperature_c.max())
    reached = {"c": round(warmest, 1), "days": round(days, 2)}
    frozen = food.frozen_before and warmest <= FROZEN_C + NEAR
    why = fish_without_air(rule, food.category, food.packed, frozen)
    why = why or missing_barrier(rule, food.packed, food.barriers)
    if why:
        return _verdict(rule, -LEAST_MISS_K, "c", {"c": round(rule.most_c(options[0][0]), 1)}, reached, reason=why)
    fitting = [(at, allowed) for at, allowed in options if warmest <= rule.most_c(at) + NEAR]
    if not fitting:
        at_c = max(rule.most_c(at) for at, _ in options)
        return _verdict(rule, at_c - warmest, "c", {"c": round(at_c, 1)}, reached)
    at, allowed = max(fitting, key=lambda limit: limit[1])
    needed = {"c": round(rule.most_c(at), 1), "days": allowed}
    return _verdict(rule, (allowed - days) * 1440.0, "min", needed, reached)


_JUDGES: dict[str, Callable[[PhaseRule, TemperatureRecord], Verdict]] = {
    "cool": cooling, "reheat": reheating, "hold-hot": hold_hot, "hold-cold": hold_cold, "time-control": time_control,
    "thaw": hold_cold, "freeze": freezing,
}  # fmt: skip


def _reheated_in_this_house(rule: PhaseRule, own_c: float) -> PhaseRule:
    if own_c <= rule.least_c(rule.to or 0.0):
        return rule
    text = f"House rule: reheat to {own_c:g} °C, held for {rule.seconds:g} s"
    return rule.model_copy(update={"to": own_c, "unit": "C", "start": None, "within_h": None, "section": "House rule",
                                   "text": text})  # fmt: skip


def in_this_house(rule: PhaseRule, house: House | None) -> PhaseRule:
    """The rule with the kitchen's own limit, if that is stricter."""
    if house is not None and rule.id == "reheat" and house.reheat_c is not None and rule.to is not None:
        return _reheated_in_this_house(rule, house.reheat_c)
    if house is None or rule.limit is None or rule.id not in ("hold-hot", "hold-cold"):
        return rule
    hot = rule.id == "hold-hot"
    own = house.hold_hot_c if hot else house.hold_cold_c
    if own is None or not (own > rule.least_c(rule.limit) if hot else own < rule.most_c(rule.limit)):
        return rule
    text = f"House rule: {own:g} °C or {'above' if hot else 'below'}"
    return rule.model_copy(update={"limit": own, "unit": "C", "section": "House rule", "text": text, "allowed_h": 0.0})


def judge_phase(standard: Standard, phase: str, record: TemperatureRecord, food: PhaseFood | None = None) -> Verdict:
    """The verdict of a standard on one phase of a record.

    Raises BadInput if the standard has no rule for it.
    """
    food = food or PhaseFood()
    rule = in_this_house(standard.phase_rule(phase, food.category), food.house)
    verdict = storing(rule, record, food) if phase == "store" else _JUDGES[phase](rule, record)
    notes = [rule.caution] if rule.caution else []
    return replace(verdict, cautions=(*verdict.cautions, *notes, standard.cautions["always"]), needs_probe=False)
