"""Prediction errors of single cooks before and after calibration: two rows of dots on one axis of degrees."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

WIDTH_PX, HEIGHT_PX = 360.0, 92.0
MARGIN_PX, BEFORE_Y, AFTER_Y, DOT_PX = 16.0, 26.0, 62.0, 7.0
LEAST_K, MOST_K = 3.0, 15.0


@dataclass(frozen=True)
class Dot:
    """A cook; `says`: its name and error; `is_off`: beyond the axis."""

    x: float
    y: float
    says: str
    is_off: bool


@dataclass(frozen=True)
class BeforeAfter:
    """Dots above and below, ticks as (px, degrees), and the means, px."""

    before: tuple[Dot, ...]
    after: tuple[Dot, ...]
    ticks: tuple[tuple[float, float], ...]
    nought_x: float
    width: float = WIDTH_PX
    height: float = HEIGHT_PX


def before_after(errors: Sequence[tuple[str, float, float]]) -> BeforeAfter:
    """The drawing of (name, error before, error after) in degrees; errors beyond the axis are drawn at its end."""
    values = np.abs([value for _, *both in errors for value in both] or [0.0])
    wide = float(np.clip(np.ceil(np.percentile(values, 95)), LEAST_K, MOST_K))

    def x(value: float) -> float:
        held = float(np.clip(value, -wide, wide))
        return MARGIN_PX + (held + wide) / (2 * wide) * (WIDTH_PX - 2 * MARGIN_PX)

    def row(which: int, y: float) -> tuple[Dot, ...]:
        dots: list[Dot] = []
        for name, *both in sorted(errors, key=lambda error: error[1 + which]):
            at = x(both[which])
            on = sum(abs(dot.x - at) < DOT_PX for dot in dots[-3:])
            says = f"{name}: {both[which]:+.1f}"
            dots.append(Dot(at, y - DOT_PX * on, says, abs(both[which]) > wide))
        return tuple(dots)

    ticks = tuple((x(share * wide), share * wide) for share in (-1.0, -0.5, 0.0, 0.5, 1.0))
    return BeforeAfter(row(0, BEFORE_Y), row(1, AFTER_Y), ticks, x(0.0))
