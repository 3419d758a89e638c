"""Checks of a thermometer in melting ice and boiling water."""

from __future__ import annotations

from dataclasses import dataclass

ICE_C = 0.0
ALTITUDE_M = (-400.0, 5000.0)
# US FDA Food Code 2022, 4-203.11(A): food thermometers in °C are to be right to ±1 °C. From memory.
PROBE_LIMIT_K = 1.0
PROBE_RULE = "US FDA Food Code 2022, 4-203.11"


def boiling_point_c(altitude_m: float) -> float:
    """Boiling point of water at an altitude, °C, -400 to 5000 m: 1 K lower every 300 m.

    A line through the steam tables at the pressures of the standard atmosphere (ICAO), accurate to 0.3 K up to 3000 m.
    Raises ValueError outside.

    >>> round(boiling_point_c(1524.0), 1)  # 5000 ft; handbooks give 94.9 to 95.0
    94.9
    """
    if not ALTITUDE_M[0] <= altitude_m <= ALTITUDE_M[1]:
        raise ValueError(f"altitude must be from {ALTITUDE_M[0]:g} to {ALTITUDE_M[1]:g} m")
    return 100.0 - altitude_m / 300.0


@dataclass(frozen=True)
class ThermometerVerdict:
    """Whether a thermometer is accurate enough: its error at the worst point, and the margin, K."""

    met: bool
    off_k: float
    margin_k: float

    @property
    def limit_k(self) -> float:
        """Largest error the rule allows, K."""
        return abs(self.off_k) + self.margin_k


def judge_thermometer(offs_k: list[float], limit_k: float = PROBE_LIMIT_K) -> ThermometerVerdict:
    """The verdict on a thermometer's errors, K, at the points where it was checked.

    Raises ValueError without a check.
    """
    if not offs_k:
        raise ValueError("nothing was checked")
    worst = max(offs_k, key=abs)
    margin = limit_k - abs(worst)
    return ThermometerVerdict(margin >= -1e-9, worst, margin)
