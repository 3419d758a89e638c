"""A measure by week: the interquartile range as a bar, the median as a mark, the plan as a line at zero."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

WIDTH_PX, HEIGHT_PX = 560.0, 150.0
LEFT_PX, RIGHT_PX, TOP_PX, BOTTOM_PX = 44.0, 8.0, 12.0, 26.0
STEPS = (0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 30.0, 60.0)
MOST_LABELS = 8
MOST_TICKS = 6


@dataclass(frozen=True)
class TrendMark:
    """A week's bar from `top_y` to `low_y`, px, its median, and its words."""

    x: float
    width: float  # of its half
    top_y: float
    low_y: float
    middle_y: float
    says: str
    is_few: bool


@dataclass(frozen=True)
class TrendStrip:
    """Marks, ticks of the scale as (px, number), Mondays as (px, day), and the plan's line."""

    marks: tuple[TrendMark, ...]
    ticks: tuple[tuple[float, float], ...]
    labels: tuple[tuple[float, dt.date], ...]
    plan_y: float
    width: float = WIDTH_PX
    height: float = HEIGHT_PX


def trend_strip(
    weeks: Sequence[tuple[dt.date, tuple[float, float, float], bool]], unit: str, within: float
) -> TrendStrip | None:
    """The drawing of (Monday, quartiles, whether there are few cooks); shows at least ±`within`. None without weeks."""
    if not weeks:
        return None
    values = [q for _, three, _ in weeks for q in three]
    low, high = min(min(values), -within), max(max(values), within)
    step = next((s for s in STEPS if (high - low) / s <= MOST_TICKS), (high - low) / MOST_TICKS)
    low, high = step * np.floor(low / step), step * np.ceil(high / step)
    first = weeks[0][0]
    count = (weeks[-1][0] - first).days // 7 + 1
    wide = (WIDTH_PX - LEFT_PX - RIGHT_PX) / count

    def y(value: float) -> float:
        return float(TOP_PX + (HEIGHT_PX - TOP_PX - BOTTOM_PX) * (high - value) / (high - low))

    def x(monday: dt.date) -> float:
        return LEFT_PX + wide * ((monday - first).days // 7 + 0.5)

    bar = min(wide * 0.3, 13.0)
    marks = tuple(
        TrendMark(
            x(monday), bar, y(three[2]), y(three[0]), y(three[1]),
            f"{monday:%-d %b}: {three[1]:+.1f} {unit}, half of them from {three[0]:+.1f} to {three[2]:+.1f}", few,
        )
        for monday, three, few in weeks
    )  # fmt: skip
    every = -(-count // MOST_LABELS)
    labels = tuple(
        (x(first + dt.timedelta(days=7 * i)), first + dt.timedelta(days=7 * i)) for i in range(0, count, every)
    )
    ticks = tuple((y(float(v)), float(v)) for v in np.arange(low, high + step / 2, step))
    return TrendStrip(marks, ticks, labels, y(0.0))
