"""How many days a standard lets chilled food keep."""

from __future__ import annotations

from collections.abc import Iterator

from ..files.chill import BarrierOut, BarriersIn, KeepOut, Packed
from ..judge.standards import Barriers, PhaseRule, Standard

NEAR = 1e-6
NO_AIR: Packed = "reduced-oxygen"


def heat_needed_min(rule: Barriers, at_c: float) -> float | None:
    """Minutes at `at_c` that are worth the rule's heat; None where it names none.

    t = t_ref · 10^((T_ref − T) / z), with z = 9 °C for the UK's 90 °C for 10 min (ACMSF 1992, its table: 80 °C 129 min,
    85 °C 36, 95 °C 3).

    >>> from ember.judge.standards import standard
    >>> rule = standard("uk-fsa").phases["store"].barriers
    >>> [round(heat_needed_min(rule, at)) for at in (80, 85, 90, 95)]
    [129, 36, 10, 3]
    """
    if rule.heat is None:
        return None
    at_ref, minutes = rule.heat
    return float(minutes * 10.0 ** ((at_ref - at_c) / rule.z_c))


def _there(rule: Barriers, told: BarriersIn) -> Iterator[str]:
    """The barriers of a rule that were measured, in words."""
    if rule.ph_max is not None and told.ph is not None and told.ph <= rule.ph_max + NEAR:
        yield f"pH {told.ph:g}, {rule.ph_max:g} or less"
    if rule.aw_max is not None and told.aw is not None and told.aw <= rule.aw_max + NEAR:
        yield f"aw {told.aw:g}, {rule.aw_max:g} or less"
    least = rule.salt_water_min_pct
    if least is not None and told.salt_water_pct is not None and told.salt_water_pct >= least - NEAR:
        yield f"{told.salt_water_pct:g} % salt in its water, {least:g} or more"
    if rule.cured and told.cured:
        yield "a cured meat"
    if told.heat_c is not None and told.heat_min is not None:
        needed = heat_needed_min(rule, told.heat_c)
        if needed is not None and told.heat_min >= needed - NEAR:
            yield f"{told.heat_c:g} °C for {told.heat_min:g} min, {needed:.0f} needed"


def barrier_of(rule: Barriers, told: BarriersIn | None) -> BarrierOut:
    """Whether one of a rule's barriers is there, and what follows."""
    there = list(_there(rule, told or BarriersIn()))
    if not there:
        return BarrierOut(met=False, words=f"{rule.otherwise}.", section=rule.section)
    then = "" if rule.needed else "; its days are then your own, shown to hold, and your authority sees them"
    return BarrierOut(met=True, words=f"{there[0]}{then}.", section=rule.section)


def _none(packed: Packed, section: str, text: str, barrier: BarrierOut | None = None) -> KeepOut:
    return KeepOut(packed=packed, at_c=None, days=None, section=section, text=text, warmer="", barrier=barrier)


def keep_of(rules: Standard, packed: Packed, kept_c: float, barriers: BarriersIn | None = None) -> KeepOut:
    """The longest row that food kept at `kept_c` (°C) fulfils; `warmer` says what the next warmer row gives."""
    rule = rules.phases.get("store")
    rows = rule.kept.get(packed, ()) if rule else ()
    if rule is None or not rows:
        how = packed.replace("-", " ")
        return _none(packed, "", f"{rules.name} says nothing here of food kept {how}: ask your local authority.")
    barrier = barrier_of(rule.barriers, barriers) if rule.barriers and packed == NO_AIR else None
    if barrier is not None and not barrier.met and rule.barriers is not None and rule.barriers.needed:
        return _none(packed, barrier.section, barrier.words, barrier)
    return _row(rule, packed, kept_c, barrier)


def _row(rule: PhaseRule, packed: Packed, kept_c: float, barrier: BarrierOut | None) -> KeepOut:
    told = sorted(((rule.c(at), days) for at, days in rule.kept[packed]), key=lambda row: row[1])
    fits = [row for row in told if kept_c <= row[0] + NEAR]
    if not fits:
        warmest = max(at for at, _ in told)
        text = f"Kept at {kept_c:g} °C it is warmer than the {warmest:.0f} °C of the rule: no days are given."
        return _none(packed, rule.section, text, barrier)
    at, days = fits[-1]
    shorter = [row for row in told if row[0] > at + NEAR]
    warmer = f"Once above {at:.0f} °C: {shorter[-1][1]:g} days." if shorter else f"Once above {at:.0f} °C: none."
    wants = rule.wants.get(packed, "") if days == told[-1][1] else ""
    return KeepOut(
        packed=packed, at_c=round(at, 1), days=days, section=rule.section, text=rule.text, warmer=warmer, wants=wants,
        barrier=barrier,
    )  # fmt: skip
