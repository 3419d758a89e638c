"""How a prediction moved: when it was made across, its error in minutes up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .axis import path, tick_step

WIDTH, HEIGHT = 560.0, 120.0
LEAST_SPAN_S = 240.0
MOST_SPAN_SHARE = 1.2  # of the last prediction: the first ones may be anywhere


@dataclass(frozen=True)
class ForecastChart:
    """Geometry in px, top left at 0 0. `band`: tenth to ninetieth percentile; ticks as (px, s)."""

    width: float
    height: float
    band: str
    middle: str
    planned_y: float | None
    actual_y: float | None
    x_ticks: tuple[tuple[float, float], ...]
    y_ticks: tuple[tuple[float, float], ...]


def forecast_chart(
    rows: Sequence[tuple[float, float, float, float]], planned_s: float | None, actual_s: float | None
) -> ForecastChart | None:
    """Rows of (made at, p10, p50, p90), s from the cook's start, in order; None for fewer than two."""
    if len(rows) < 2:
        return None
    made, low, middle, high = np.array(rows, dtype=float).T
    known = [s for s in (planned_s, actual_s) if s is not None]
    about = actual_s if actual_s is not None else float(middle[-1])
    far = np.percentile(np.concatenate([low, high]), [5, 95])
    half = max(float(np.abs(np.array([*far, *known]) - about).max()) * 1.1, LEAST_SPAN_S)
    half = min(half, max(about * MOST_SPAN_SHARE, LEAST_SPAN_S))
    top, bottom = about + half, about - half
    last = max(float(made[-1]), 60.0)

    def y(s: np.ndarray | float) -> np.ndarray:
        return HEIGHT * (top - np.clip(s, bottom, top)) / (top - bottom)

    x = WIDTH * made / last
    there = [f"{a:.1f} {b:.1f}" for a, b in zip(x, y(high), strict=True)]
    back = [f"{a:.1f} {b:.1f}" for a, b in zip(x[::-1], y(low)[::-1], strict=True)]
    step = tick_step(last, 6)
    rungs = tick_step(2 * half, 4)
    first = int(np.ceil(bottom / rungs))
    return ForecastChart(
        WIDTH, HEIGHT, "M" + "L".join(there + back) + "Z", path(x, y(middle)),
        float(y(planned_s)) if planned_s is not None and bottom <= planned_s <= top else None,
        float(y(actual_s)) if actual_s is not None else None,
        tuple((WIDTH * k * step / last, k * step) for k in range(int(last / step) + 1)),
        tuple((float(y(k * rungs)), k * rungs) for k in range(first, int(top / rungs) + 1)),
    )  # fmt: skip
