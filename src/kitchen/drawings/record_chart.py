"""A record's picture: planned beside measured, with the checks where they were made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .axis import FloatArray, path, tick_step

TINTS, RINGS = 3, 12

WIDTH = 560.0
HEIGHT = 220.0


@dataclass(frozen=True)
class RecordChart:
    """px, top left 0 0; ticks as (px, value)."""

    width: float
    height: float
    plan: str
    measured: str
    dots: tuple[tuple[float, float], ...]
    x_ticks: tuple[tuple[float, float], ...]
    y_ticks: tuple[tuple[float, float], ...]
    band: tuple[float, float] | None
    checks: tuple[tuple[float, float, int], ...]
    strips: tuple[tuple[str, tuple[tuple[str, float, float], ...]], ...]
    tints: tuple[str, ...] = ()
    ahead: str = ""
    now_x: float | None = None
    rings: tuple[tuple[float, float], ...] = ()
    estimated: str = ""


def record_chart(
    planned: list[tuple[float, float]],
    measured: list[tuple[float, float]],
    band_c: tuple[float, float] | None,
    checks: list[tuple[float, float | None]],
    planned_stages: list[tuple[str, float, float]],
    done_stages: list[tuple[str, float, float]],
    fan: tuple[FloatArray, FloatArray] | None = None,
    doubted_from_s: float | None = None,
    estimated: list[tuple[float, float]] | None = None,
) -> RecordChart:
    """All times in s from the start, temperatures °C; stages as (kind, start, end).

    `fan`: a forecast (times, °C [quantile, time]); `doubted_from_s`: from when on readings are not believed;
    `estimated`: the core by the times tapped, where nobody read it.
    """
    doubted = [m for m in measured if doubted_from_s is not None and m[0] >= doubted_from_s]
    measured = measured[: len(measured) - len(doubted)]
    ends = [s for s, _ in planned] + [s for s, _ in measured] + [e for _, _, e in done_stages] + [60.0]
    ends += [float(fan[0][-1])] if fan is not None else []
    last = max(ends)
    temperatures = [c for _, c in (*planned, *measured, *(estimated or []))] + list(band_c or ())
    low = min(0.0, *temperatures)
    high = 10 * np.ceil((max(temperatures) + 3) / 10)

    def x(s: float) -> float:
        return WIDTH * s / last

    def y(c: float) -> float:
        return float(HEIGHT * (high - c) / (high - low))

    # A long log drawn point by point would only thicken the line.
    every = max(len(measured) // 600, 1)
    shown = measured[::every] + ([measured[-1]] if measured and (len(measured) - 1) % every else [])
    step = tick_step(last, 6)
    marks = []
    for number, (s, c) in enumerate(checks, 1):
        if c is None:
            c = float(np.interp(s, [m[0] for m in measured], [m[1] for m in measured])) if measured else low
        marks.append((x(s), y(min(max(c, low), high)), number))
    return RecordChart(
        width=WIDTH,
        height=HEIGHT,
        plan=path(np.array([x(s) for s, _ in planned]), np.array([y(c) for _, c in planned])),
        measured=path(np.array([x(s) for s, _ in shown]), np.array([y(c) for _, c in shown])),
        estimated=path(np.array([x(s) for s, _ in estimated]), np.array([y(c) for _, c in estimated]))
        if estimated
        else "",
        dots=tuple((x(s), y(c)) for s, c in measured) if len(measured) <= 12 else (),
        x_ticks=tuple((x(k * step), k * step) for k in range(int(last / step) + 1)),
        y_ticks=tuple((y(c), float(c)) for c in np.arange(20 * np.ceil(low / 20), high + 0.1, 20)),
        band=None if band_c is None else (y(min(band_c[1], high)), y(band_c[0]) - y(min(band_c[1], high))),
        checks=tuple(marks),
        strips=tuple(
            (name, tuple((kind, x(a), max(x(b) - x(a), 1.0)) for kind, a, b in stages))
            for name, stages in (("plan", planned_stages), ("done", done_stages))
        ),
        tints=() if fan is None else tuple(_tint(fan, i, x, y) for i in range(TINTS)),
        ahead=""
        if fan is None
        else path(np.array([x(s) for s in fan[0]]), np.array([y(c) for c in fan[1][len(fan[1]) // 2]])),
        now_x=None if fan is None else x(float(fan[0][0])),
        rings=tuple((x(s), y(min(max(c, low), high))) for s, c in doubted[:: max(len(doubted) // RINGS, 1)]),
    )


def _tint(fan: tuple[FloatArray, FloatArray], i: int, x: Callable[[float], float], y: Callable[[float], float]) -> str:
    """The area between a quantile and its opposite."""
    there = [f"{x(s):.1f} {y(c):.1f}" for s, c in zip(fan[0], fan[1][-1 - i], strict=True)]
    back = [f"{x(s):.1f} {y(c):.1f}" for s, c in zip(fan[0], fan[1][i], strict=True)]
    return "M" + "L".join(there + back[::-1]) + "Z"
