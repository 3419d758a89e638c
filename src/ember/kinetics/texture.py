"""Tenderness of tough cuts, and firmness of fish.

Tough cuts, collagen to gelatin: t(T) = exp(−18.838 + 7571.4/T_K) h to fork-tender for tough beef: fitted to points of
the trade (57 °C 60 h, 62 42, 70 24, 85 12, 95 5), an apparent activation energy of 63 kJ/mol, accurate to a factor of
1.35; animals vary by another 1.3 (unsure). Dose D = ∫ dt/t: 1 is fork-tender, 0.6 can be sliced, 1.4 shreds. No credit
below 55 °C.

Fish, an index from raw (0) to dry and fibrous (1), by the hottest it has been: F = 0.25 σ(T; 42, 2) + 0.35 σ(T; 52, 3)
+ 0.40 σ(T; 66, 5): myosin, sarcoplasmic proteins and collagen, actin. Fitted to published transitions (Hastings et al.
1985, J Food Sci 50:503; Skipnes et al. 2008, J Food Eng 85:51; from memory), unsure.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

FLOOR_C = 55.0
BAND = 1.35 * 1.3
# Share of beef's time, by species or cut; fitted to the trade's times, unsure.
FACTORS = {
    "pork": 0.72, "ham": 0.72, "boar": 0.8, "lamb": 0.75, "goat": 0.8, "venison": 0.9, "veal": 0.7, "duck": 0.6,
    "goose": 0.7, "hare": 0.8, "rabbit": 0.4, "chicken": 0.18, "turkey": 0.3, "octopus": 0.32, "beef/oxtail": 1.1,
}  # fmt: skip
WORDS = ((0.0, "tough"), (0.3, "firm"), (0.6, "sliceable"), (1.0, "fork-tender"), (1.4, "shreds"))


def hours_to_tender(temperature_c: float, factor: float = 1.0) -> float:
    """Hours at one temperature to fork-tender.

    >>> round(hours_to_tender(70.0))
    25
    """
    return float(factor * np.exp(-18.838 + 7571.4 / (temperature_c + 273.15)))


def factor_of(cut_id: str) -> float:
    """The cut's time relative to beef."""
    return FACTORS.get(cut_id, FACTORS.get(cut_id.split("/")[0], 1.0))


def dose(time_s: FloatArray, temperature_c: FloatArray, factor: float = 1.0) -> FloatArray:
    """Dose over time at each place, `temperature_c[n]` or `[n, place]`."""
    T = np.asarray(temperature_c, dtype=float)
    rate = np.where(T >= FLOOR_C, 1.0 / (factor * np.exp(-18.838 + 7571.4 / (np.maximum(T, FLOOR_C) + 273.15))), 0.0)
    return np.asarray(np.trapezoid(rate, np.asarray(time_s, dtype=float) / 3600.0, axis=0))


def word_of(value: float) -> str:
    """The dose as a word."""
    return next(word for low, word in reversed(WORDS) if value >= low)


STEPS = ((0.25, 42.0, 2.0), (0.35, 52.0, 3.0), (0.40, 66.0, 5.0))


def firmness(hottest_c: FloatArray | float) -> FloatArray:
    """Firmness index at each temperature.

    >>> float(firmness(20.0)) < 0.01 < 0.2 < float(firmness(48.0)) < 0.4 < float(firmness(60.0)) < 0.75
    True
    """
    T = np.asarray(hottest_c, dtype=float)
    return np.asarray(sum(share / (1.0 + np.exp(-(T - middle) / width)) for share, middle, width in STEPS))
