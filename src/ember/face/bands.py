"""From a profile of colours to bands: the heat each depth looks as if it had seen, the coldest place, and the edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import isotonic_regression

from .palette import Palette

FloatArray = NDArray[np.float64]

RAWEST_C = 38.0  # below it all flesh looks the same
COARSE = 8  # the coldest place is looked for at every so many depths, then at each
LEAST_MM = 0.3  # of a band that is told


@dataclass(frozen=True)
class Band:
    """A band of the face: its word, how thick it is, mm, and the spread of that from left to right."""

    word: str
    mm: float
    spread_mm: float


def looks_of(lab: FloatArray, palette: Palette) -> tuple[FloatArray, FloatArray]:
    """The heat that each colour `[n, 3]` looks as if it had seen, °C, and how far it is from any flesh, ΔE."""
    usable = palette.looks_c >= RAWEST_C
    curve = palette.lab[usable]
    away = np.linalg.norm((lab[:, None] - curve[None]) * palette.weights, axis=-1)
    nearest = away.argmin(axis=1)
    return palette.looks_c[usable][nearest], away.min(axis=1)


def valley(looks: FloatArray, sure: FloatArray | None, coldest: int | None = None) -> tuple[int, FloatArray]:
    """The profile nearest to the one given that falls to one coldest place and rises from it; and that place."""
    sure = np.ones_like(looks) if sure is None else sure

    def fitted(place: int) -> tuple[float, FloatArray]:
        down = isotonic_regression(looks[: place + 1], weights=sure[: place + 1], increasing=False).x
        up = isotonic_regression(looks[place:], weights=sure[place:], increasing=True).x
        both = np.concatenate([down[:-1], [min(down[-1], up[0])], up[1:]])
        return float(np.sum(sure * (both - looks) ** 2)), both

    if coldest is not None:
        return coldest, fitted(coldest)[1]
    low, high = len(looks) // 8, len(looks) - len(looks) // 8 - 1
    near = min(range(low, high, COARSE), key=lambda place: fitted(place)[0])
    place = min(range(max(near - COARSE, low), min(near + COARSE, high) + 1), key=lambda place: fitted(place)[0])
    best = fitted(place)[1]
    flat = np.flatnonzero(best <= best.min() + 0.5)
    return int(flat.mean().round()), best


def one_colour(looks: FloatArray, coldest: int, palette: Palette, noise: float) -> tuple[int, int]:
    """The first and last depth about the coldest place whose colour cannot be told from its own, within this ΔE."""
    lab = np.stack([np.interp(looks, palette.looks_c, palette.lab[:, i]) for i in range(3)], axis=-1)
    unlike = np.flatnonzero(np.linalg.norm((lab - lab[coldest]) * palette.weights, axis=1) > noise)
    before, after = unlike[unlike < coldest], unlike[unlike > coldest]
    return int(before[-1]) + 1 if len(before) else 0, int(after[0]) - 1 if len(after) else len(looks) - 1


def bands_in(
    depth: FloatArray, looks: FloatArray, by_strip: Sequence[FloatArray], palette: Palette
) -> list[Band]:  # fmt: skip
    """Bands from a face in to the coldest place, the last one that of the middle; `depth` from that face, mm, `looks`
    °C. `by_strip`: looks of strips side by side, for the spread; there may be none.
    """
    edges = [edge_mm(depth, looks, celsius) for celsius, _ in palette.bands[:-1]]
    strips = [[edge_mm(depth, strip, celsius) for strip in by_strip] for celsius, _ in palette.bands[:-1]]
    spreads = [float(np.std(places)) if places else 0.0 for places in strips]
    inner = float(depth[-1])
    bands: list[Band] = []
    last = 0.0
    for (_, word), edge, spread in zip(palette.bands[:-1], edges, spreads, strict=True):
        edge = min(max(edge, last), inner)
        if edge - last >= LEAST_MM:
            bands.append(Band(word, round(edge - last, 2), round(spread, 2)))
            last = edge
        if edge >= inner:
            return bands
    if inner - last >= LEAST_MM or not bands:
        bands.append(Band(palette.bands[-1][1], round(inner - last, 2), 0.0))
    return bands


def edge_mm(depth: FloatArray, looks: FloatArray, celsius: float) -> float:
    """How deep from the face it looks hotter than this, mm."""
    hot = looks >= celsius
    if not hot[0]:
        return 0.0
    if hot.all():
        return float(depth[-1])
    i = int(np.argmin(hot))
    a, b = looks[i - 1], looks[i]
    share = (a - celsius) / (a - b) if a > b else 0.5
    return float(depth[i - 1] + share * (depth[i] - depth[i - 1]))


def word_of(celsius: float, palette: Palette) -> str:
    """The word of the band that looks as if it had seen this heat, °C."""
    return next(word for floor, word in palette.bands if celsius >= floor)
