"""Setting of white and yolk: first order, dX/dt = (1 − X) A exp(−Ea/RT), X the set fraction from 0 to 1.

White A = 4.85e60 1/s, Ea = 418 kJ/mol; yolk A = 2.7e53 1/s, Ea = 370 kJ/mol: as used by Di Lorenzo et al. 2025 (Commun
Eng 4:5), from memory, digits unsure. The isothermal yolk curves at 60 to 67 °C are from Vega & Mercadé-Prieto 2011
(Food Biophys 6:152). The green edge is iron sulphide where white meets yolk: a dose that is complete after 14 min at 70
°C or four at 90 °C (common practice: a medium egg boiled for 12 min shows it).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

GAS_J_MOLK = 8.314
KELVIN = 273.15
GREEN_S, GREEN_AT_C, GREEN_Z_K = 840.0, 70.0, 35.0
GREEN_FLOOR_C = 68.0
CHALKY_FROM_C = 77.0


@dataclass(frozen=True)
class Gel:
    """A protein that sets: A in 1/s, Ea in J/mol, and the words of its set fraction, (from, word)."""

    a_per_s: float
    ea_j_mol: float
    words: tuple[tuple[float, str], ...]

    def rate(self, temperature_c: FloatArray | float) -> FloatArray:
        """Rate constant, 1/s, at °C of any shape.

        >>> round(1 / 60 / float(YOLK.rate(62.0)))  # minutes; 288 in the table of the sources
        288
        """
        # Above 110 °C it sets at once, and must not overflow.
        T = np.minimum(np.asarray(temperature_c, dtype=float), 110.0) + KELVIN
        return np.asarray(self.a_per_s * np.exp(-self.ea_j_mol / (GAS_J_MOLK * T)))

    def set_fraction(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """X at the end, at each place: `time_s[n]`, `temperature_c[n]` or `[n, place]`."""
        return np.asarray(self.set_course(time_s, temperature_c)[-1])

    def set_course(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """X at every time, of the shape of `temperature_c`.

        Between samples the logarithm of the rate is linear, which is nearly true where temperature is.
        """
        rate = self.rate(temperature_c)
        a, b = rate[:-1], rate[1:]
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.log(b / a)
            mean = np.where(np.abs(ratio) > 1e-6, (b - a) / ratio, 0.5 * (a + b))
        seconds = np.diff(np.asarray(time_s, dtype=float))
        if rate.ndim > 1:
            seconds = seconds[:, None]
        dose = np.concatenate([np.zeros((1, *rate.shape[1:])), np.cumsum(mean * seconds, axis=0)])
        return np.asarray(1.0 - np.exp(-dose))

    def word(self, fraction: float) -> str:
        """The set fraction as a word."""
        return next(word for low, word in reversed(self.words) if fraction >= low)

    def range_of(self, word: str) -> tuple[float, float]:
        """Range of set fractions of a word. Raises ValueError for an unknown word."""
        names = [name for _, name in self.words]
        i = names.index(word)
        return self.words[i][0], (self.words[i + 1][0] if i + 1 < len(self.words) else 1.0)


WHITE = Gel(4.85e60, 418e3, ((0.0, "loose"), (0.1, "soft"), (0.5, "set"), (0.9, "firm")))
YOLK = Gel(2.7e53, 370e3, ((0.0, "runny"), (0.05, "syrupy"), (0.2, "jammy"), (0.5, "fudgy"), (0.75, "set")))
ALL_SET = 0.97  # a yolk beyond this that stays hot turns chalky
CHALKY_S = 60.0  # for so long; common practice


def green_dose(time_s: FloatArray, temperature_c: FloatArray) -> float:
    """Extent of a green edge where white meets yolk; visible from 1 on."""
    T = np.asarray(temperature_c, dtype=float)
    rate = np.where(T >= GREEN_FLOOR_C, 10 ** ((np.minimum(T, 105.0) - GREEN_AT_C) / GREEN_Z_K) / GREEN_S, 0.0)
    return float(np.trapezoid(rate, np.asarray(time_s, dtype=float)))


def seconds_above(time_s: FloatArray, temperature_c: FloatArray, level_c: float) -> float:
    """Time at or above a temperature, s; linear between samples."""
    a, b = temperature_c[:-1], temperature_c[1:]
    low, high = np.minimum(a, b), np.maximum(a, b)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip((high - level_c) / (high - low), 0.0, 1.0)
    share = np.where(high - low < 1e-12, (low >= level_c).astype(float), share)
    return float((share * np.diff(time_s)).sum())


def yolk_word(fraction: float, chalky_s: float) -> str:
    """A yolk's word by its set fraction, and by how long its middle was above CHALKY_FROM_C."""
    if fraction >= ALL_SET and chalky_s >= CHALKY_S:
        return "chalky"
    return YOLK.word(fraction)
