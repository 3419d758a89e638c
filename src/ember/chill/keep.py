"""How many days a standard lets chilled food keep."""

from __future__ import annotations

from dataclasses import dataclass

from ..files.chill import BarrierOut, BarriersIn, KeepOut, Packed
from ..judge.phases import FROZEN_C
from ..judge.standards import Barriers, PhaseRule, Standard
from ..judge.storage import barriers_there, fish_without_air

NEAR = 1e-6
NO_AIR: Packed = "reduced-oxygen"


def barrier_of(rule: Barriers, given: BarriersIn | None) -> BarrierOut:
    """Whether one of a rule's barriers is present, and what follows."""
    there = list(barriers_there(rule, given or BarriersIn()))
    if not there:
        return BarrierOut(met=False, words=f"{rule.otherwise}.", section=rule.section)
    then = "" if rule.needed else "; its days are then your own, shown to hold, and your authority sees them"
    return BarrierOut(met=True, words=f"{there[0]}{then}.", section=rule.section)


def _none(packed: Packed, section: str, text: str, barrier: BarrierOut | None = None) -> KeepOut:
    return KeepOut(packed=packed, at_c=None, days=None, section=section, text=text, warmer="", barrier=barrier)


@dataclass(frozen=True)
class Stored:
    """Food in storage: packaging, temperature, category, and what keeps spores from growing in it."""

    packed: Packed
    kept_c: float
    category: str = ""
    barriers: BarriersIn | None = None

    @property
    def frozen(self) -> bool:
        """Frozen before it was packed, and kept frozen."""
        return self.kept_c <= FROZEN_C + NEAR and self.barriers is not None and self.barriers.frozen


def keep_of(rules: Standard, stored: Stored) -> KeepOut:
    """The longest row of the standard that the storage meets; `warmer`: what the next warmer row allows."""
    rule, packed = rules.phases.get("store"), stored.packed
    rows = rule.kept.get(packed, ()) if rule else ()
    if rule is None or not rows:
        how = packed.replace("-", " ")
        return _none(packed, "", f"{rules.name} gives no shelf life for food stored {how}: ask your local authority.")
    why = fish_without_air(rule, stored.category, packed, stored.frozen)
    if why and rule.barriers is not None:
        return _none(packed, rule.barriers.fish_section, f"{why[0].upper()}{why[1:]}.")
    if stored.frozen:
        text = "Frozen before, during and after packing: no limit of days while it stays frozen."
        return _none(packed, rule.section, text)
    barrier = barrier_of(rule.barriers, stored.barriers) if rule.barriers and packed == NO_AIR else None
    if barrier is not None and not barrier.met and rule.barriers is not None and rule.barriers.needed:
        return _none(packed, barrier.section, barrier.words, barrier)
    return _row(rule, packed, stored.kept_c, barrier)


def _row(rule: PhaseRule, packed: Packed, kept_c: float, barrier: BarrierOut | None) -> KeepOut:
    days_by_limit = sorted(((rule.most_c(at), days) for at, days in rule.kept[packed]), key=lambda limit: limit[1])
    fits = [limit for limit in days_by_limit if kept_c <= limit[0] + NEAR]
    if not fits:
        warmest = max(at for at, _ in days_by_limit)
        text = f"Stored at {kept_c:g} °C it is warmer than the {warmest:.0f} °C of the rule: no days are given."
        return _none(packed, rule.section, text, barrier).model_copy(update={"too_warm": True})
    at, days = fits[-1]
    shorter = [limit for limit in days_by_limit if limit[0] > at + NEAR]
    warmer = f"Once above {at:.0f} °C: {shorter[-1][1]:g} days." if shorter else f"Once above {at:.0f} °C: none."
    wants = rule.wants.get(packed, "") if days == days_by_limit[-1][1] else ""
    return KeepOut(
        packed=packed, at_c=round(at, 1), days=days, section=rule.section, text=rule.texts.get(packed, rule.text),
        warmer=warmer, wants=wants, barrier=barrier,
    )  # fmt: skip
