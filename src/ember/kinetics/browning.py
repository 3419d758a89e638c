"""Browning of a dry surface, an index that doubles every 10 °C; and what on it burns before the meat does.

dB/dt = (1/240 s) · 2^((T − 150)/10). 0.3 pale, 1 golden, 2 to 3 deep brown, 5 very dark, 8 charred. The doubling is the
Q10 of about 2 of Maillard browning in the literature; the reference time is fitted to common practice (fair).

Burning follows the same law with a faster clock, and is complete when its index passes 5 (very dark). Rate factors
fitted to common practice: ground spice blooms for half a minute to a minute at 150 °C and is burnt in two at 170;
minced garlic is golden after a minute at 135, bitter at 155.
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


BURNT, BLOOMED = 5.0, 0.5
FACTORS = {"butter": 4.0, "garlic": 4.0, "pepper": 3.0, "ground spice": 3.0, "paprika": 6.0, "sugar": 3.0}


def indices(time_s: FloatArray, face_c: FloatArray) -> dict[str, float]:
    """Index of each on a face with this history: bloomed from 0.5, burnt from 5."""
    index = float(browning_index(time_s, face_c))
    return {name: factor * index for name, factor in FACTORS.items()}


def burnt(time_s: FloatArray, face_c: FloatArray) -> dict[str, float]:
    """What burns on a face with this history, and its index.

    >>> import numpy as np
    >>> t = np.linspace(0, 120, 25)
    >>> sorted(burnt(t, np.full(25, 120.0))), "paprika" in burnt(t, np.full(25, 190.0))
    ([], True)
    """
    return {name: index for name, index in indices(time_s, face_c).items() if index >= BURNT}
