"""What burns on a hot face before the meat does: the browning law with a faster clock.

Each is burnt when its index passes 5 (very dark). Rate factors fitted to common practice: ground spice blooms for half
a minute to a minute at 150 °C and is burnt in two at 170; minced garlic is golden after a minute at 135, bitter at 155.
"""

from __future__ import annotations

from .browning import FloatArray, browning_index

BURNT, BLOOMED = 5.0, 0.5
FACTORS = {"butter": 4.0, "garlic": 4.0, "pepper": 3.0, "ground spice": 3.0, "paprika": 6.0, "sugar": 3.0}


def indices(time_s: FloatArray, face_c: FloatArray) -> dict[str, float]:
    """How far each is on a face with this history: bloomed from 0.5, burnt from 5."""
    index = float(browning_index(time_s, face_c))
    return {name: factor * index for name, factor in FACTORS.items()}


def burnt(time_s: FloatArray, face_c: FloatArray) -> dict[str, float]:
    """What would be burnt on a face with this history, and its index.

    >>> import numpy as np
    >>> t = np.linspace(0, 120, 25)
    >>> sorted(burnt(t, np.full(25, 120.0))), "paprika" in burnt(t, np.full(25, 190.0))
    ([], True)
    """
    return {name: index for name, index in indices(time_s, face_c).items() if index >= BURNT}
