"""Impossible readings: a value that jumps off and back is limited to what heat could do in that time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .record import FloatArray

# K a minute where no size is known; both are more than any whole piece does. Set by this project.
COOLING_K_MIN, HEATING_K_MIN = 5.0, 20.0
HEATING = frozenset({"cook", "reheat"})
HOT_WANTED = frozenset({"cook", "reheat", "hold-hot"})
MOST_STRAY = 3  # readings in a row; a longer stretch is somebody moving the probe
# The middle of a body follows a step of its faces: θ = 1 - Σ a_n exp(-b_n² Fo) (Carslaw & Jaeger 1959, §3.3, 7.6, 9.3).
# The steepest its middle ever rises, dθ/dFo by the half-thickness: of a slab, a long cylinder, a ball, from the series.
STEEPEST = (1.85, 3.80, 5.92)
DIFFUSIVITY_M2_S = 1.5e-7  # the upper end for moist food; handbook tables, from memory
TINY = 1e-9
STEP_K = 105.0  # from just above freezing to boiling water at a wet face, or back


def bound_k_s(phase: str, size_mm: float | None = None, exponent: float = 0.0) -> float:
    """Fastest possible change of a piece's middle, K/s; by its thickness or diameter if known.

    >>> round(60 * bound_k_s("cook", 38.0), 1)
    4.8
    """
    if size_mm is None:
        return (HEATING_K_MIN if phase in HEATING else COOLING_K_MIN) / 60.0
    steepest = float(np.interp(exponent, (0.0, 1.0, 2.0), STEEPEST))
    return steepest * DIFFUSIVITY_M2_S * STEP_K / (size_mm * 0.5e-3) ** 2


def clamped(
    time_s: FloatArray, temperature_c: FloatArray, by_hand: NDArray[np.bool_], bound: float, hot_wanted: bool
) -> tuple[FloatArray, int]:
    """Temperatures with every outlier limited to `bound` (K/s), and how many there were.

    A single reading is an outlier if it differs from both neighbours, to the same side, by more than the bound. Up to
    three in a row are if they would help to meet the rule (`hot_wanted`: up). A typed reading is never changed.
    """
    T = np.array(temperature_c, dtype=float)
    sides = (1.0, -1.0) if hot_wanted else (-1.0, 1.0)
    touched: set[int] = set()
    for side in sides:
        for many in range(MOST_STRAY if side == sides[0] else 1, 0, -1):
            touched |= _hold_back(time_s, T, by_hand, bound, side, many)
    return T, len(touched)


def _hold_back(
    t: FloatArray, T: FloatArray, by_hand: NDArray[np.bool_], bound: float, side: float, many: int
) -> set[int]:
    """Clamp, in place, runs of that many readings that differ from both neighbours to one side; returns the changed
    ones.
    """
    n = len(T) - many - 1
    if n < 1:
        return set()
    before, after = slice(0, n), slice(many + 1, None)
    likely = np.ones(n, dtype=bool)
    for k in range(1, many + 1):
        reading = slice(k, n + k)
        likely &= ~by_hand[reading]
        likely &= side * (T[reading] - T[before]) > bound * (t[reading] - t[before])
        likely &= side * (T[reading] - T[after]) > bound * (t[after] - t[reading])
    touched = set()
    for i in np.flatnonzero(likely).tolist():
        inner, end = np.arange(i + 1, i + many + 1), i + many + 1
        from_before = side * T[i] + bound * (t[inner] - t[i])
        from_after = side * T[end] + bound * (t[end] - t[inner])
        # A reading before it may have been held back since: then this one is stray no more.
        if (side * T[inner] > np.maximum(from_before, from_after) + TINY).all():
            T[inner] = side * np.minimum(from_before, from_after)
            touched |= set(inner.tolist())
    return touched
