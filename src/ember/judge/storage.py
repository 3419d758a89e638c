"""Storage without air: barriers to spores, and fish, which may only be packed so frozen."""

from __future__ import annotations

from collections.abc import Iterator

from ..files.chill import BarriersIn, Packed
from .standards import Barriers, PhaseRule

NEAR = 1e-6
WITHOUT_AIR = frozenset({"reduced-oxygen", "cook-chill"})
FISH = frozenset({"fish", "shellfish", "molluscs", "molluscs-stuffed"})


def heat_needed_min(rule: Barriers, at_c: float) -> float | None:
    """Minutes at `at_c` equivalent to the rule's heat; None if it names none.

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


def barriers_there(rule: Barriers, barriers: BarriersIn) -> Iterator[str]:
    """The measured barriers of a rule, in words."""
    for name, value, most in (("pH", barriers.ph, rule.ph_max), ("aw", barriers.aw, rule.aw_max)):
        if most is not None and value is not None and value <= most + NEAR:
            yield f"{name} {value:g}, {most:g} or less"
    least = rule.salt_water_min_pct
    if least is not None and barriers.salt_water_pct is not None and barriers.salt_water_pct >= least - NEAR:
        yield f"{barriers.salt_water_pct:g} % salt in its water, {least:g} or more"
    if rule.cured and barriers.cured:
        yield "a cured meat"
    if barriers.heat_c is not None and barriers.heat_min is not None:
        needed = heat_needed_min(rule, barriers.heat_c)
        if needed is not None and barriers.heat_min >= needed - NEAR:
            yield f"{barriers.heat_c:g} °C for {barriers.heat_min:g} min, {needed:.0f} needed"


def fish_without_air(rule: PhaseRule, category: str, packed: Packed, frozen: bool) -> str:
    """Why fish may not be stored so; empty if it may."""
    only_frozen = rule.barriers is not None and rule.barriers.fish_frozen_only
    if not only_frozen or category not in FISH or packed not in WITHOUT_AIR or frozen or rule.barriers is None:
        return ""
    return rule.barriers.fish_text


def missing_barrier(rule: PhaseRule, packed: Packed, told: BarriersIn | None) -> str:
    """The barrier that the rule requires and the food lacks; empty if none."""
    barriers = rule.barriers
    if barriers is None or packed != "reduced-oxygen" or not barriers.needed:
        return ""
    return "" if any(barriers_there(barriers, told or BarriersIn())) else barriers.otherwise
