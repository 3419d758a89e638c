"""The same salt in the meat by another method, for comparing methods side by side."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .mixing import PICKUP_PCT

STRONG_PCT = 5.0  # of a strong brine, at least; common practice
STRONGER = 2.5  # a strong brine against the salt wanted in the meat; common practice
LONGEST_H = 240.0  # long enough to reach the wanted salt in any piece that a brine suits
WATER_SHARE = 0.8  # water for the meat's mass where none is stated: it covers the meat; common practice
SATURATED_PCT = 36.0  # salt that 100 g of cold water dissolves; CRC Handbook of Chemistry and Physics, from memory


def with_method(request: Mapping[str, Any], school: str, wanted_pct: float) -> dict[str, Any]:
    """An `open-ember/brine` request in JSON by another method, for `wanted_pct` of salt in the meat.

    An injected brine of s % in its water leaves 100 p s / (100 + s) per cent in the meat at a pick-up p, so that
    s = 100 w / (100 p - w); where that is impossible it is saturated.

    >>> with_method({"meat_g": 1000.0, "water_g": 800.0}, "injected", 2.0)["salt_pct"]  # 10 % pick-up
    25.0
    """
    other = {**request, "school": school, "salt_pct": wanted_pct}
    if school != "dry" and not other.get("water_g"):
        other["water_g"] = WATER_SHARE * request["meat_g"]
    if school == "gradient":
        return other | {"salt_pct": max(STRONG_PCT, STRONGER * wanted_pct), "hours": LONGEST_H}
    if school == "injected":
        pickup_pct = request.get("pickup_pct") or PICKUP_PCT
        if pickup_pct <= wanted_pct:
            return other | {"salt_pct": SATURATED_PCT}
        return other | {"salt_pct": min(100.0 * wanted_pct / (pickup_pct - wanted_pct), SATURATED_PCT)}
    return other
