"""Methods side by side: each through the piece and at its core, on one time scale that ends when all are sliced."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.files.result import Result

from .axis import FloatArray, path
from .contours import contour
from .heat_strip import through
from .raster import data_uri, rgb

WIDE_PX, STRIP_PX, CORE_PX = 320.0, 44.0, 76.0
ROWS = 36
STEP_PX = 2.5
EVEN_UP_TO = 6.0  # the longest may take so much more than the shortest on an even scale
EASED_POWER = 0.45
TICK_APART_PX = 56.0
TICKS_S = (60, 300, 600, 1800, 3600, 7200, 14_400, 28_800, 43_200, 86_400, 172_800, 345_600, 604_800)
HEADROOM_K = 8.0
OPEN_FROM_C = 95.0  # a word with so high an upper end has none to draw


@dataclass(frozen=True)
class BackFromEnd:
    """Time before the end to px; `power` 1 is linear, less gives the last minutes more room."""

    longest_s: float
    power: float

    def px(self, before_s: float | FloatArray) -> FloatArray:
        """px of times before the end."""
        share = np.clip(np.asarray(before_s, dtype=float) / self.longest_s, 0.0, 1.0)
        return np.asarray(WIDE_PX * (1.0 - share**self.power))

    def before(self, px: FloatArray) -> FloatArray:
        """Times before the end of px."""
        return np.asarray(self.longest_s * (1.0 - np.clip(px / WIDE_PX, 0.0, 1.0)) ** (1.0 / self.power))

    @property
    def ticks(self) -> tuple[tuple[float, float], ...]:
        """(px, seconds before the end), not crowded, nearest to the end first."""
        ticks: list[tuple[float, float]] = []
        last = WIDE_PX
        for seconds in TICKS_S:
            at = float(self.px(float(seconds)))
            if seconds <= self.longest_s and last - at >= TICK_APART_PX and at > 14:
                ticks.append((at, float(seconds)))
                last = at
        return tuple(ticks)


@dataclass(frozen=True)
class Lane:
    """One method, px; `begins`: where it starts. Before that the piece waits."""

    begins: float
    strip: str
    strip_width: float
    target_lines: tuple[str, ...]
    core: str
    outside: str


@dataclass(frozen=True)
class CompareChart:
    """What the template draws."""

    lanes: tuple[Lane, ...]
    ticks: tuple[tuple[float, float], ...]
    eased: bool
    band: tuple[float, float] | None
    width: float = WIDE_PX
    strip_px: float = STRIP_PX
    core_px: float = CORE_PX


def _lane(result: Result, axis: BackFromEnd, top_c: float, floor_c: float, level_c: float | None) -> Lane:
    t, x, T = through(result)
    end_s = float(t[-1])
    begins = float(axis.px(end_s))
    px = np.arange(begins + STEP_PX / 2, WIDE_PX, STEP_PX)
    moments = np.clip(end_s - axis.before(px), 0.0, end_s)
    rows = np.array([np.interp(moments, t, T[:, j]) for j in range(T.shape[1])]).T
    places = (np.arange(ROWS) + 0.5) / ROWS
    picture = np.array([np.interp(places[::-1], x, row) for row in rows]).T
    curve = result.curves
    at = axis.px(end_s - np.array(curve.t_s))

    def y(celsius: Sequence[float]) -> FloatArray:
        return CORE_PX * (1.0 - np.clip((np.array(celsius) - floor_c) / (top_c - floor_c), 0.0, 1.0))

    return Lane(
        begins=begins,
        strip=data_uri(rgb(picture)),
        strip_width=WIDE_PX - begins,
        target_lines=tuple(contour(px, x, rows, level_c, STRIP_PX)) if level_c is not None else (),
        core=path(at, y(curve.core_c)),
        outside=path(at, y(curve.surface_c)),
    )


def _target(results: Sequence[Result]) -> tuple[float, float] | None:
    """The target's range of core temperatures, °C; None without one."""
    words = (result.doneness for result in results)
    ranges = ((word.target_low_c, word.target_high_c) for word in words)
    return next(((low, high) for low, high in ranges if low is not None and high is not None), None)


def compare_chart(results: Sequence[Result]) -> CompareChart:
    """Draw results that include depth maps.

    Raises ValueError if none does.
    """
    if not results:
        raise ValueError("nothing to compare")
    totals = [result.stages[-1].end_s for result in results]
    eased = max(totals) / max(min(totals), 1.0) > EVEN_UP_TO
    axis = BackFromEnd(max(totals), EASED_POWER if eased else 1.0)
    target = _target(results)
    highest = max(result.core.peak_c for result in results)
    floor = min(0.0, *(min(result.curves.core_c) for result in results))
    top, level, band = highest + HEADROOM_K, None, None
    if target is not None:
        low, high = target
        top = max(highest, high if high < OPEN_FROM_C else 0.0) + HEADROOM_K
        level = 0.5 * (low + min(high, low + 10.0))
        ends = [CORE_PX * (1.0 - (min(c, top) - floor) / (top - floor)) for c in (high, low)]
        band = (ends[0], ends[1] - ends[0])
    lanes = tuple(_lane(result, axis, top, floor, level) for result in results)
    return CompareChart(lanes=lanes, ticks=axis.ticks, eased=eased, band=band)
