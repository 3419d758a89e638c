"""Isotherms of a temperature map: columns are times, positions run from the underside (0) to the top (1)."""

from __future__ import annotations

import numpy as np

from .axis import FloatArray, path

LABEL_PX = 28.0
FLAT_K = 0.1  # where the middle is so near to a level, its contour would wander
FRAGMENT_PX = 16.0  # what is shorter says nothing
JUMP_PX = 18.0  # a contour does not move further than this from one column to the next


def _crossings(x: FloatArray, T: FloatArray, level: float) -> tuple[FloatArray, FloatArray]:
    """Where each row crosses a level below and above its middle, going outwards; NaN where it does not."""
    middle = len(x) // 2
    flat = np.abs(T[:, middle] - level) <= FLAT_K
    crossings = []
    for order in (np.arange(middle, -1, -1), np.arange(middle, len(x))):
        d, at = T[:, order] - level, x[order]
        passes = (d[:, :-1] < 0) != (d[:, 1:] < 0)
        i = np.argmax(passes, axis=1)
        rows = np.arange(len(T))
        a, b = d[rows, i], d[rows, i + 1]
        none = flat | ~passes[rows, i]
        share = a / np.where(none, 1.0, a - b)
        crossings.append(np.where(none, np.nan, at[i] + share * (at[i + 1] - at[i])))
    return crossings[0], crossings[1]


def contour(px: FloatArray, x: FloatArray, T: FloatArray, level: float, height_px: float) -> list[str]:
    """SVG paths of a level through `T[column, position]`: one below the middle, one above, broken where it is not
    crossed.
    """
    paths = []
    for places in _crossings(x, T, level):
        run: list[tuple[float, float]] = []
        for at, y in zip(px.tolist(), ((1.0 - places) * height_px).tolist(), strict=True):
            gone = y != y  # not a number
            if run and (gone or abs(y - run[-1][1]) > JUMP_PX):  # gone, or another place took over
                paths.append(run)
                run = []
            if not gone:
                run.append((at, y))
        paths.append(run)
    return [
        path(np.array([p[0] for p in r]), np.array([p[1] for p in r]))
        for r in paths
        if len(r) > 1 and r[-1][0] - r[0][0] > FRAGMENT_PX
    ]


def tip(px: FloatArray, rows: FloatArray, level: float, height_px: float) -> tuple[float, float, float] | None:
    """Where the middle crosses a level, for its label: px, px, °C. None if it never does, or too near an edge."""
    middle = rows[:, rows.shape[1] // 2]
    i = int(np.argmax(middle >= level))
    if middle[0] >= level or middle[i] < level or not 20 < px[i] < px[-1] - 20:
        return None
    return float(px[i]), height_px / 2, level


def apart(labels: list[tuple[float, float, float] | None]) -> tuple[tuple[float, float, float], ...]:
    """Labels that do not overlap; of two that would, the first."""
    separate: list[tuple[float, float, float]] = []
    for label in labels:
        if label is not None and all(abs(label[0] - other[0]) > LABEL_PX for other in separate):
            separate.append(label)
    return tuple(separate)
