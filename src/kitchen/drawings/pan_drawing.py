"""The pan from above with its handle: pieces clockwise from the handle, and the chart of its temperature."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .axis import FloatArray, path, tick_step

PAN_PX = 236.0
MOST_PIECE_PX, LEAST_PIECE_PX = 52.0, 26.0
LABEL_PX = 296.0
CHART_PX, CHART_HIGH_PX = 240.0, 200.0
LOWEST_C = 140.0


@dataclass(frozen=True)
class PieceSpot:
    """A piece: its place and size, and where its words stand; px from the pan's middle."""

    number: int
    x: float
    y: float
    r: float
    label_x: float
    label_y: float


def spots(numbers: Sequence[int]) -> list[PieceSpot]:
    """Places of the pieces, clockwise from just left of the handle, which points down."""
    count = max(len(numbers), 1)
    ring = PAN_PX * (0.62 if count > 2 else 0.45)
    r = min(MOST_PIECE_PX, max(LEAST_PIECE_PX, 0.78 * ring * math.sin(math.pi / max(count, 2))))
    places = []
    for i, number in enumerate(numbers):
        angle = math.pi / 2 + 2 * math.pi * (i + 0.5) / count  # y points down, so growing angles go clockwise
        x, y = math.cos(angle), math.sin(angle)
        places.append(PieceSpot(number, ring * x, ring * y, r, LABEL_PX * x, LABEL_PX * y * 0.98))
    return places


@dataclass(frozen=True)
class PanChart:
    """The pan's temperature so far, if a piece is added now, and if it waits; px."""

    past: str
    now: str
    wait: str
    now_x: float
    sears_y: float
    x_ticks: tuple[tuple[float, float], ...]
    y_ticks: tuple[tuple[float, float], ...]

    @property
    def sears_rest(self) -> float:
        """Distance from the searing line to the foot, px."""
        return max(CHART_HIGH_PX - self.sears_y, 0.0)


Curve = tuple[FloatArray, FloatArray]


def pan_chart(past: Curve, now: Curve | None, wait: Curve | None, sears_c: float) -> PanChart:
    """Curves of (s, °C) on one scale."""
    curves = [curve for curve in (past, now, wait) if curve is not None]
    first, last = past[0][0], max(curve[0][-1] for curve in curves)
    top = 10 * math.ceil(max(float(curve[1].max()) for curve in curves) / 10) + 10
    low = min(LOWEST_C, 10 * math.floor(min(float(curve[1].min()) for curve in curves) / 10))
    span = max(float(last - first), 60.0)

    def x(t: FloatArray | float) -> FloatArray:
        return np.asarray((np.asarray(t) - first) / span * CHART_PX)

    def y(c: FloatArray | float) -> FloatArray:
        return np.asarray((top - np.asarray(c)) / (top - low) * CHART_HIGH_PX)

    def drawn(curve: Curve | None) -> str:
        return "" if curve is None else path(x(curve[0][::4]), y(curve[1][::4]))

    step = tick_step(span, 3)
    return PanChart(
        drawn(past), drawn(now), drawn(wait), float(x(past[0][-1])), float(y(sears_c)),
        tuple((float(x(first + k * step)), k * step) for k in range(int(span / step) + 1)),
        tuple((float(y(c)), c) for c in np.arange(low, top + 1, 20)),
    )  # fmt: skip
