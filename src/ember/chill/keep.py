"""How many days a standard lets chilled food keep."""

from __future__ import annotations

from ..files.chill import KeepOut, Packed
from ..judge.standards import Standard

NEAR = 1e-6
FROZEN_C = -18.0


def keep_of(rules: Standard, packed: Packed, kept_c: float) -> KeepOut:
    """The longest row that food kept at `kept_c` (°C) fulfils; `warmer` says what the next warmer row gives."""
    rule = rules.phases.get("store")
    rows = rule.kept.get(packed, ()) if rule else ()
    if rule is None or not rows:
        text = f"{rules.name} says nothing here of food kept {packed.replace('-', ' ')}: ask your local authority."
        return KeepOut(packed=packed, at_c=None, days=None, section="", text=text, warmer="")
    told = sorted(((rule.c(at), days) for at, days in rows), key=lambda row: row[1])
    fits = [row for row in told if kept_c <= row[0] + NEAR]
    if not fits:
        warmest = max(at for at, _ in told)
        text = f"Kept at {kept_c:g} °C it is warmer than the {warmest:.0f} °C of the rule: no days are given."
        return KeepOut(packed=packed, at_c=None, days=None, section=rule.section, text=text, warmer="")
    at, days = fits[-1]
    shorter = [row for row in told if row[0] > at + NEAR]
    warmer = f"Once above {at:.0f} °C: {shorter[-1][1]:g} days." if shorter else f"Once above {at:.0f} °C: none."
    return KeepOut(packed=packed, at_c=round(at, 1), days=days, section=rule.section, text=rule.text, warmer=warmer)
