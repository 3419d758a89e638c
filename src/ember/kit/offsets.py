"""How far a piece of equipment is off its setting, from its checks."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np


def off_at(checks_k: Mapping[float, float], setting_c: float) -> float:
    """How much hotter it is than it is set to, K: from {setting °C: K} linear between checked settings, level outside.

    0 without a check.

    >>> off_at({110.0: -3.0, 190.0: -9.0}, 150.0)
    -6.0
    """
    if not checks_k:
        return 0.0
    settings = sorted(checks_k)
    return float(np.interp(setting_c, settings, [checks_k[c] for c in settings]))
