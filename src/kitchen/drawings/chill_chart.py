"""A cooling curve: the warmest point falling through the stages of its rule, each with its gate; readings as dots."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .axis import path, tick_step

WIDTH, HEIGHT = 560.0, 250.0
LOW_C = 0.0


@dataclass(frozen=True)
class Gate:
    """The curve must be below `y` px by `x` px: `words` names the temperature, `by` the time."""

    x: float
    y: float
    to_c: float
    by: str


@dataclass(frozen=True)
class ChillChart:
    """px, top left 0 0. Ticks as (px, words) and (px, °C); dots (px, px)."""

    width: float
    height: float
    warmest: str
    coldest: str
    gates: tuple[Gate, ...]
    dots: tuple[tuple[float, float], ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, float], ...]


def reckoned_gates(
    t_s: Sequence[float], warmest_c: Sequence[float], stages: Sequence[tuple[float | None, float, float | None]]
) -> list[tuple[float, float]]:
    """(s, °C) by when each stage must be finished; where it has no limit of its own, when it is.

    `stages`: (start of its clock, min; to °C; minutes allowed).
    """
    return [
        (_falls(t_s, warmest_c, to_c) if begins is None or minutes is None else 60.0 * (begins + minutes), to_c)
        for begins, to_c, minutes in stages
    ]


def chill_chart(
    t_s: Sequence[float], warmest_c: Sequence[float], coldest_c: Sequence[float], gates: Sequence[tuple[float, float]],
    readings: Sequence[tuple[float, float]] = (),
) -> ChillChart:  # fmt: skip
    """Times in s from leaving the heat, temperatures in °C; `gates` and `readings` as (s, °C)."""
    end = max([float(t_s[-1]), *(s for s, _ in gates), *(s for s, _ in readings)]) * 1.04
    top = float(np.ceil(max([*warmest_c, *(c for _, c in readings), 60.0]) / 10.0) * 10.0)

    def x(s: float) -> float:
        return float(np.clip(s / end, 0.0, 1.0) * WIDTH)

    def y(c: float) -> float:
        return float(HEIGHT * (1.0 - np.clip((c - LOW_C) / (top - LOW_C), 0.0, 1.0)))

    xs = np.array([x(s) for s in t_s])
    lines = [
        path(xs[: len(curve)], np.array([y(c) for c in curve])) if len(curve) else ""
        for curve in (warmest_c, coldest_c)
    ]
    apart = tick_step(end, 8)
    levels = np.arange(LOW_C, top + 1e-6, 20.0 if top > 60 else 10.0)
    return ChillChart(
        WIDTH, HEIGHT, lines[0], lines[1],
        tuple(Gate(x(s), y(to_c), to_c, _span(s)) for s, to_c in gates),
        tuple((x(s), y(c)) for s, c in readings),
        tuple((x(s), _span(s)) for s in np.arange(0.0, end + 1e-6, apart)),
        tuple((y(float(c)), float(c)) for c in levels),
    )  # fmt: skip


def _falls(t_s: Sequence[float], warmest_c: Sequence[float], level_c: float) -> float:
    """When the warmest point first reaches a level, s; the end of the curve if it never does."""
    under = np.flatnonzero(np.array(warmest_c) <= level_c)
    return float(t_s[under[0]]) if len(under) else float(t_s[-1])


def _span(seconds: float) -> str:
    hours, rest = divmod(int(seconds / 60.0), 60)
    return f"{hours}:{rest:02d}"
