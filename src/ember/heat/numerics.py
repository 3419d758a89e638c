"""A bracketed root, and interpolation between the steps of the solver.

The root of a monotone function whose every call is a simulation: Illinois false position (Dahlquist & Björck, Numerical
Methods, section 6.2). SciPy's brentq would do as well, but importing scipy.optimize costs every command most of a
second. Between two steps: cubic Hermite interpolation of values with their slopes.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from .grid import FloatArray


def bracketed_root(
    f: Callable[[float], float],
    low: float,
    high: float,
    f_tolerance: float,
    x_tolerance: float,
    calls: int = 60,
) -> float:
    """x in [low, high] with |f(x)| ≤ `f_tolerance`, or within `x_tolerance` of the sign change.

    Raises ValueError if f(low) and f(high) have the same sign.

    >>> round(bracketed_root(lambda x: x * x - 2.0, 0.0, 2.0, 1e-9, 1e-9), 6)
    1.414214
    """
    a, b = low, high
    fa, fb = f(a), f(b)
    if abs(fa) <= f_tolerance:
        return a
    if abs(fb) <= f_tolerance:
        return b
    if (fa > 0) == (fb > 0):
        raise ValueError("no sign change between the ends")
    x = a
    for _ in range(calls):
        x = (a * fb - b * fa) / (fb - fa)
        if not min(a, b) < x < max(a, b):
            x = 0.5 * (a + b)
        fx = f(x)
        if abs(fx) <= f_tolerance or abs(b - a) <= x_tolerance:
            return x
        if (fx > 0) != (fb > 0):
            a, fa = b, fb
        else:
            fa *= 0.5
        b, fb = x, fx
    return x


CALM_K = 0.5  # within it an extreme between two rows is believed


def _calmed(rise: FloatArray, step: FloatArray) -> FloatArray:
    """A slope over a step, K, or the step itself if they disagree.

    The outermost cells respond in hundredths of a second: over a long step their slope is noise.
    """
    borne_out = (np.abs(rise) <= np.maximum(3.0 * np.abs(step), CALM_K)) & (
        (rise * step >= 0) | (np.abs(rise) <= CALM_K)
    )
    return np.where(borne_out, rise, step)


def between(t_s: FloatArray, value: FloatArray, slope: FloatArray, at_s: FloatArray) -> FloatArray:
    """Values at `at_s`, from rows of `value[row]` or `[row, place]` at `t_s` with their slopes per second.

    Rows may share a time; beyond the rows the ends are constant.
    """
    end_s = float(t_s[-1])
    t = np.clip(np.asarray(at_s, dtype=float), 0.0, end_s)
    if end_s <= 0:  # it was where it was to be before it began
        return np.broadcast_to(value[0], (len(t), *value.shape[1:])).copy()
    index = np.clip(np.searchsorted(t_s, t, side="right") - 1, 0, len(t_s) - 2)
    # Of rows that share a time keep the interval that has a length.
    while np.any(empty := (t_s[index + 1] - t_s[index] <= 0) & (index > 0)):
        index = index - empty
    t0, h = t_s[index], t_s[index + 1] - t_s[index]
    s = (t - t0) / h
    if value.ndim > 1:
        s, h = s[:, None], h[:, None]
    a, b = value[index], value[index + 1]
    da, db = _calmed(slope[index] * h, b - a), _calmed(slope[index + 1] * h, b - a)
    return np.asarray(
        a * (1 + 2 * s) * (1 - s) ** 2 + da * s * (1 - s) ** 2 + b * s**2 * (3 - 2 * s) + db * s**2 * (s - 1)
    )
