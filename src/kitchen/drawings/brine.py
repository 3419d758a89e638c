"""A piece in its brine, and salt through its depth: geometry only."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .axis import FloatArray, path
from .egg_pot import waves

WIDTH, HEIGHT = 520.0, 190.0
DEEP_PX = 104.0
BANDS = 24
# Pale where there is little salt, teal where there is much: salt came from the water.
FRESH, SALTED = (247, 236, 222), (42, 93, 105)
PLOT_W, PLOT_H = 420.0, 150.0


@dataclass(frozen=True)
class Band:
    """A layer of the piece: px from the top, height, colour."""

    y: float
    height: float
    colour: str


@dataclass(frozen=True)
class BrineDrawing:
    """Geometry in px, top left at 0 0; no water is drawn if `dry`."""

    width: float
    height: float
    x: float
    piece_width: float
    bands: tuple[Band, ...]
    water: str
    surface: str
    wall: str
    turned: bool


@dataclass(frozen=True)
class SaltPlot:
    """Salt through the depth: px; ticks as (px, words)."""

    width: float
    height: float
    line: str
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    even_y: float | None


def salt_colour(pct: float, most: float) -> str:
    """The colour of a share of salt."""
    share = min(max(pct / most, 0.0), 1.0) * 0.85
    return "#" + "".join(f"{round(a + (b - a) * share):02x}" for a, b in zip(FRESH, SALTED, strict=True))


def brine_drawing(profile_pct: Sequence[float], most_pct: float, dry: bool) -> BrineDrawing:
    """The piece in its vessel; layers coloured by salt, top side up."""
    top = 54.0
    values = (
        np.interp(np.linspace(0, len(profile_pct) - 1, BANDS), np.arange(len(profile_pct)), profile_pct)
        if len(profile_pct)
        else np.zeros(BANDS)
    )
    high = DEEP_PX / BANDS
    bands = tuple(
        Band(top + i * high, high + 0.4, salt_colour(float(v), max(most_pct, 0.1))) for i, v in enumerate(values)
    )
    x, wide = 120.0, WIDTH - 240.0
    y = 26.0
    water = "" if dry else f"M20 {y:.0f}H{WIDTH - 20:.0f}V{HEIGHT - 20:.0f}q0 10 -10 10H30q-10 0 -10 -10z"
    wall = f"M18 14V{HEIGHT - 18:.0f}q0 12 12 12H{WIDTH - 30:.0f}q12 0 12 -12V14"
    return BrineDrawing(WIDTH, HEIGHT, x, wide, bands, water, waves(WIDTH - 40, y) if not dry else "", wall, False)


def salt_plot(mm: Sequence[float], pct: Sequence[float], even_pct: float | None) -> SaltPlot | None:
    """Salt across the piece, from one side to the other; None without a profile."""
    if not mm:
        return None
    x, y = np.array(mm), np.array(pct)
    top = max(float(y.max()), even_pct or 0.0, 0.5) * 1.15

    def px(values: FloatArray) -> FloatArray:
        return np.asarray((values - x[0]) / (x[-1] - x[0]) * PLOT_W)

    def py(value: float) -> float:
        return PLOT_H * (1.0 - value / top)

    step = next(s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0) if top / s <= 5)
    ticks = tuple((py(v), f"{v:g}") for v in np.arange(0.0, top, step))
    depth = tuple(
        (float(px(np.array(v))), words) for v, words in ((x[0], "outside"), (0.0, "middle"), (x[-1], "outside"))
    )
    return SaltPlot(
        PLOT_W, PLOT_H, path(px(x), np.array([py(float(v)) for v in y])), depth, ticks,
        None if even_pct is None else py(even_pct),
    )  # fmt: skip
