"""Browning of a dry surface: an index that doubles every 10 °C.

dB/dt = (1/240 s) · 2^((T − 150)/10). 0.3 pale, 1 golden, 2 to 3 deep brown, 5 very dark, 8 charred. The doubling is
the Q10 of about 2 of Maillard browning in the literature; the reference time is fitted to common practice (fair).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

WORDS = ((0.0, "none"), (0.1, "pale"), (0.5, "golden"), (1.5, "brown"), (3.5, "dark"), (6.5, "charred"))


def browning_index(time_s: FloatArray, face_c: FloatArray) -> FloatArray:
    """Index reached; `face_c[n]` or `[n, face]`."""
    rate = 2.0 ** ((np.asarray(face_c, dtype=float) - 150.0) / 10.0) / 240.0
    return np.asarray(np.trapezoid(rate, np.asarray(time_s, dtype=float), axis=0))


def browning_word(index: float) -> str:
    """The index as a word."""
    return next(word for low, word in reversed(WORDS) if index >= low)
