"""The course of an egg: yolk, white and water over time, with the medium along the top."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from .axis import path, tick_step

WIDTH, HEIGHT = 420.0, 262.0
TOP_C = 100.0
STRIP = 16.0


@dataclass(frozen=True)
class EggChart:
    """px, top left 0 0, the plot's floor at `height`. Ticks as (px, value); the strip as (name, kind, x, width)."""

    width: float
    height: float
    lines: dict[str, str]
    band: tuple[float, float] | None
    strip: tuple[tuple[str, str, float, float], ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, float], ...]
    mark: tuple[float, float] | None
    peak: tuple[float, float] | None


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:g}" if seconds < 7200 else f"{seconds / 3600:g} h"


def egg_chart(
    t_s: Sequence[float], lines: Mapping[str, Sequence[float]], strip: Sequence[tuple[str, str, float, float]],
    mark: tuple[float, float] | None = None, peak: tuple[float, float] | None = None,
    band_c: tuple[float, float] | None = None, low_c: float = 0.0, top_c: float = TOP_C, in_seconds: bool = False,
    step: float | None = None,
) -> EggChart:  # fmt: skip
    """A chart; times in s, temperatures in °C. A line may end before the others.

    `mark`: end of heating; `peak`: the hottest after it.
    """
    end = max(float(t_s[-1]), 1.0)

    def x(s: float) -> float:
        return float(np.clip(s / end, 0.0, 1.0) * WIDTH)

    def y(c: float) -> float:
        return float(STRIP + (HEIGHT - STRIP) * (1.0 - np.clip((c - low_c) / (top_c - low_c), 0.0, 1.0)))

    xs = np.array([x(s) for s in t_s])
    drawn = {name: path(xs[: len(values)], np.array([y(c) for c in values])) for name, values in lines.items()}
    apart = tick_step(end, 7)
    ticks = tuple((x(s), f"{s:g}" if in_seconds else _minutes(s)) for s in np.arange(0.0, end + 1e-6, apart))
    span = step or (20.0 if top_c - low_c > 60 else 10.0)
    levels = np.arange(np.ceil(low_c / span) * span, top_c + 1e-6, span)
    return EggChart(
        WIDTH, HEIGHT, drawn, None if band_c is None else (y(band_c[1]), y(band_c[0]) - y(band_c[1])),
        tuple((name, kind, x(a), x(b) - x(a)) for name, kind, a, b in strip), ticks,
        tuple((y(float(c)), float(c)) for c in levels),
        None if mark is None else (x(mark[0]), y(mark[1])), None if peak is None else (x(peak[0]), y(peak[1])),
    )  # fmt: skip
