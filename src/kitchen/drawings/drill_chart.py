"""The core of a drill over time, the target band, and a mark for every action."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .axis import path

WIDTH_PX, HEIGHT_PX = 600.0, 220.0
LEFT_PX, RIGHT_PX, TOP_PX, BOTTOM_PX = 40.0, 12.0, 26.0, 24.0
STEPS_MIN = (1, 2, 5, 10, 20, 30)
MOST_TICKS = 8


@dataclass(frozen=True)
class DrillChart:
    """The curve as a path, the band as (px, px high), marks as (px, action), ticks as (px, min) and (px, degrees)."""

    curve: str
    band: tuple[float, float]
    marks: tuple[tuple[float, str], ...]
    minutes: tuple[tuple[float, int], ...]
    degrees: tuple[tuple[float, int], ...]
    width: float = WIDTH_PX
    height: float = HEIGHT_PX


def drill_chart(
    t_s: Sequence[float], core: Sequence[float], band: tuple[float, float], moves: Sequence[tuple[str, float]]
) -> DrillChart:
    """The chart of times, s, and degrees in display units; moves as (action, s)."""
    t, values = np.asarray(t_s, dtype=float), np.asarray(core, dtype=float)
    end = max(float(t[-1]), 60.0)
    high = float(max(values.max(), band[0]) + 8.0)
    low = float(min(values.min(), band[0] - 20.0))

    def x(seconds: float) -> float:
        return LEFT_PX + (WIDTH_PX - LEFT_PX - RIGHT_PX) * min(max(seconds / end, 0.0), 1.0)

    def y(value: float) -> float:
        held = min(max(value, low), high)
        return TOP_PX + (HEIGHT_PX - TOP_PX - BOTTOM_PX) * (high - held) / (high - low)

    step = next((s for s in STEPS_MIN if end / 60.0 / s <= MOST_TICKS), STEPS_MIN[-1])
    minutes = tuple((x(60.0 * m), m) for m in range(0, int(end / 60.0) + 1, step))
    degrees = tuple(
        (y(float(v)), v) for v in range(int(low // 10 + 1) * 10, int(high) + 1, 10 if high - low < 90 else 20)
    )
    curve = path(np.array([x(s) for s in t]), np.array([y(v) for v in values]))
    top = y(band[1])
    return DrillChart(curve, (top, y(band[0]) - top), tuple((x(s), what) for what, s in moves), minutes, degrees)
