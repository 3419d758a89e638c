"""Between two steps of the solver: cubic Hermite interpolation of values with their slopes."""

from __future__ import annotations

import numpy as np

from .grid import FloatArray

CALM_K = 0.5  # within it an extreme between two rows is believed


def _calmed(rise: FloatArray, step: FloatArray) -> FloatArray:
    """A slope over a step, K, or the step itself where it does not bear the slope out.

    The outermost cells answer in hundredths of a second: over a long step their slope is noise.
    """
    borne_out = (np.abs(rise) <= np.maximum(3.0 * np.abs(step), CALM_K)) & (
        (rise * step >= 0) | (np.abs(rise) <= CALM_K)
    )
    return np.where(borne_out, rise, step)


def between(t_s: FloatArray, value: FloatArray, slope: FloatArray, at_s: FloatArray) -> FloatArray:
    """Values at `at_s`, from rows of `value[row]` or `[row, place]` at `t_s` with their slopes per second.

    Rows may share a time; outside of the rows the ends hold.
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
