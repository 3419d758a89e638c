"""Firmness of fish: an index from raw (0) to dry and fibrous (1), of the hottest it has been.

F = 0.25 σ(T; 42, 2) + 0.35 σ(T; 52, 3) + 0.40 σ(T; 66, 5): myosin, the sarcoplasm's proteins and collagen, actin.
Fitted to published transitions (Hastings et al. 1985, J Food Sci 50:503; Skipnes et al. 2008, J Food Eng 85:51; from
memory), unsure.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

STEPS = ((0.25, 42.0, 2.0), (0.35, 52.0, 3.0), (0.40, 66.0, 5.0))


def firmness(hottest_c: FloatArray | float) -> FloatArray:
    """The index at each temperature.

    >>> float(firmness(20.0)) < 0.01 < 0.2 < float(firmness(48.0)) < 0.4 < float(firmness(60.0)) < 0.75
    True
    """
    T = np.asarray(hottest_c, dtype=float)
    return np.asarray(sum(share / (1.0 + np.exp(-(T - middle) / width)) for share, middle, width in STEPS))
