"""Whether new readings bear a forecast out, so that it stands and need not be estimated anew."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .fit import MODEL_K, NOISE_K

DEVIATIONS = 2.0  # of the mean of the readings from what was foretold
ONE_READING = 4.0  # deviations of a single reading: beyond it something happened to the probe or the piece


def confirms(
    t_s: Sequence[float], probe_c: Sequence[float], readings: Sequence[tuple[float, float]], lag_s: float = 5.0
) -> bool:
    """Whether readings (s, °C) since a forecast agree with what it foretold of them, `probe_c` at `t_s`.

    They do when none lies beyond the foretold times, none is further off than four deviations of a reading's noise,
    and their mean is no further off than two deviations of the noise of so many and of the model. A posterior that
    foretold its next readings is hardly moved by them.
    """
    if not readings or not len(t_s):
        return False
    at, celsius = np.array(readings, dtype=float).T
    if at.max() > t_s[-1] or at.min() < t_s[0] - lag_s:
        return False
    off = celsius - np.interp(at - lag_s, t_s, probe_c)
    sigma = np.sqrt(NOISE_K**2 / len(off) + MODEL_K**2)
    return bool(np.abs(off).max() <= ONE_READING * NOISE_K and abs(off.mean()) <= DEVIATIONS * sigma)
