"""A record's picture: planned and measured curves, with the checks where they were made."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from .axis import FloatArray, Plot, every, tick_step

TINTS, RINGS = 3, 12
MOST_DRAWN, MOST_DOTS = 600, 12

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


Points = list[tuple[float, float]]
Stages = list[tuple[str, float, float]]


def record_chart(
    planned: Points, measured: Points, band_c: tuple[float, float] | None, checks: list[tuple[float, float | None]],
    planned_stages: Stages, done_stages: Stages, fan: tuple[FloatArray, FloatArray] | None = None,
    doubted_from_s: float | None = None, estimated: Points | None = None,
) -> RecordChart:  # fmt: skip
    """All times in s from the start, temperatures in °C; stages as (kind, start, end).

    `fan`: a forecast (times, °C [quantile, time]); `doubted_from_s`: when readings stopped being trusted; `estimated`:
    the core by the steps as tapped, if nobody measured it.
    """
    believed, doubted = _split(measured, doubted_from_s)
    last_s = max(60.0, *(s for s, _ in planned + believed), *(end for _, _, end in done_stages), _end_of(fan))
    plot = _plot(last_s, planned + believed + (estimated or []), band_c)
    step = tick_step(last_s, 6)
    return RecordChart(
        width=WIDTH,
        height=HEIGHT,
        plan=plot.line(planned),
        measured=plot.line(_thinned(believed)),
        estimated=plot.line(estimated or []),
        dots=tuple((plot.x(s), plot.y(c)) for s, c in believed) if len(believed) <= MOST_DOTS else (),
        x_ticks=tuple((plot.x(k * step), k * step) for k in range(int(last_s / step) + 1)),
        y_ticks=_degrees(plot),
        band=_band(plot, band_c),
        checks=tuple(_checks(plot, checks, believed)),
        strips=(("plan", _strip(plot, planned_stages)), ("done", _strip(plot, done_stages))),
        rings=tuple((plot.x(s), plot.inside(c)) for s, c in every(doubted, RINGS)),
        **_ahead(plot, fan),
    )


def _split(measured: Points, doubted_from_s: float | None) -> tuple[Points, Points]:
    """Trusted readings, and the others."""
    if doubted_from_s is None:
        return measured, []
    return [m for m in measured if m[0] < doubted_from_s], [m for m in measured if m[0] >= doubted_from_s]


def _end_of(fan: tuple[FloatArray, FloatArray] | None) -> float:
    return 0.0 if fan is None else float(fan[0][-1])


def _plot(last_s: float, points: Points, band_c: tuple[float, float] | None) -> Plot:
    """An axis with room for all of these, from 0 °C or lower to the next ten degrees."""
    temperatures = [c for _, c in points] + list(band_c or ())
    high_c = float(10 * np.ceil((max(temperatures) + 3) / 10))
    return Plot(WIDTH / last_s, -np.inf, np.inf, min(0.0, *temperatures), high_c, HEIGHT)


def _thinned(points: Points) -> Points:
    """Every n-th point of a long log, always with the last reading."""
    shown = list(every(points, MOST_DRAWN))
    return shown if not points or shown[-1] == points[-1] else [*shown, points[-1]]


def _degrees(plot: Plot) -> tuple[tuple[float, float], ...]:
    first = 20 * np.ceil(plot.low_c / 20)
    return tuple((plot.y(c), float(c)) for c in np.arange(first, plot.high_c + 0.1, 20))


def _band(plot: Plot, band_c: tuple[float, float] | None) -> tuple[float, float] | None:
    """Top and height of the target band."""
    if band_c is None:
        return None
    top = plot.y(min(band_c[1], plot.high_c))
    return top, plot.y(band_c[0]) - top


def _checks(
    plot: Plot, checks: list[tuple[float, float | None]], measured: Points
) -> Iterator[tuple[float, float, int]]:
    """Each check at its time: at the value typed, else at what the probe showed then."""
    for number, (s, c) in enumerate(checks, 1):
        if c is None and measured:
            c = float(np.interp(s, [at for at, _ in measured], [shown for _, shown in measured]))
        yield plot.x(s), plot.inside(plot.low_c if c is None else c), number


def _strip(plot: Plot, stages: Stages) -> tuple[tuple[str, float, float], ...]:
    return tuple((kind, plot.x(a), max(plot.x(b) - plot.x(a), 1.0)) for kind, a, b in stages)


def _ahead(plot: Plot, fan: tuple[FloatArray, FloatArray] | None) -> dict[str, Any]:
    """The forecast: median, tints, and the place of now."""
    if fan is None:
        return {}
    seconds, quantiles = fan
    return {
        "tints": tuple(plot.area(seconds, quantiles[i], quantiles[-1 - i]) for i in range(TINTS)),
        "ahead": plot.line(zip(seconds.tolist(), quantiles[len(quantiles) // 2].tolist(), strict=True)),
        "now_x": plot.x(float(seconds[0])),
    }
