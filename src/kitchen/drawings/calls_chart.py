"""Errors of doneness calls by sense: a dot a call on one axis of degrees, the bias as a diamond with its spread."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

WIDTH_PX, ROW_PX, HEAD_PX = 640.0, 92.0, 26.0
LEFT_PX, RIGHT_PX = 150.0, 20.0
WIDE = 8.0  # degrees shown either side; what is off stands at the end
STACK_PX, MOST_HIGH = 10.5, 5
NEAR = 2.0


@dataclass(frozen=True)
class CallDot:
    """One call: its place, and its error in words."""

    x: float
    y: float
    says: str


@dataclass(frozen=True)
class CallRow:
    """A sense: its line, dots, bias and spread, px (None for fewer than two calls), and the bias of its first calls."""

    key: str
    name: str
    base_y: float
    dots: tuple[CallDot, ...]
    bias_x: float
    low_x: float
    high_x: float
    first_x: float | None


@dataclass(frozen=True)
class CallsChart:
    """Rows, ticks as (px, degrees), and the band of good calls as (px, px wide)."""

    rows: tuple[CallRow, ...]
    ticks: tuple[tuple[float, float], ...]
    near: tuple[float, float]
    nought_x: float
    width: float
    height: float


def calls_chart(
    senses: Sequence[tuple[str, str, Sequence[float]]], near: float = NEAR, wide: float = WIDE
) -> CallsChart:
    """The chart of (key, name, errors in degrees in order of time) of each sense."""

    def x(value: float) -> float:
        held = float(np.clip(value, -wide, wide))
        return LEFT_PX + (held + wide) / (2 * wide) * (WIDTH_PX - LEFT_PX - RIGHT_PX)

    rows = []
    for number, (key, name, off) in enumerate(senses):
        base = HEAD_PX + ROW_PX * (number + 1) - 28.0
        high: dict[int, int] = {}
        dots = []
        for value in off:
            column = round(float(np.clip(value, -wide, wide)) * 2)
            level = high.get(column, 0)
            high[column] = level + 1
            dots.append(CallDot(x(column / 2), base - 7.0 - STACK_PX * min(level, MOST_HIGH), f"{value:+.1f}"))
        bias = float(np.mean(off))
        spread = float(np.std(off, ddof=1)) if len(off) > 1 else 0.0
        third = len(off) // 3
        first = x(float(np.mean(off[:third]))) if third >= 4 else None
        rows.append(CallRow(key, name, base, tuple(dots), x(bias), x(bias - spread), x(bias + spread), first))
    ticks = tuple((x(value), value) for value in np.arange(-wide, wide + 0.1, wide / 4))
    height = HEAD_PX + ROW_PX * len(rows) + 4.0
    return CallsChart(tuple(rows), ticks, (x(-near), x(near) - x(-near)), x(0.0), WIDTH_PX, height)
