"""A cut egg: white and yolk in rings coloured by the hottest each depth has been, and signs that need no colour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

# By the hottest °C at that depth, carryover in; the design's own tables.
WHITE = (
    (54.0, "B9C7C8"), (62.0, "DDE2DC"), (65.0, "EEF0E8"), (70.0, "FAF8F1"), (80.0, "FFFFFF"), (97.0, "F6F1E4"),
)  # fmt: skip
YOLK = (
    (35.0, "BF5A0A"), (48.0, "CF6B0E"), (55.0, "DD8118"), (60.0, "E7982C"), (64.0, "EDAB42"), (68.0, "F1BC5C"),
    (72.0, "F3CA7A"), (76.0, "F3D697"), (82.0, "EFDDB2"),
)  # fmt: skip
RX, RY = 40.0, 52.0  # px of the egg's half-breadth and half-length
BARE_RX, BARE_RY = 43.0, 36.0  # of a poached one
SHELL_PX = 2.6
BLUNT = 0.12  # how much further from its middle an egg reaches above than below, of its half-length
YOLK_RINGS, WHITE_RINGS = 9, 7
NOT_SET = 0.1


@dataclass(frozen=True)
class Ring:
    """A ring around the middle as a path, with its colour."""

    path: str
    colour: str


@dataclass(frozen=True)
class CutEggDrawing:
    """Geometry in px around 0 0, outermost ring first. `yolk_r`: the yolk; the signs mark what is runny, set or
    green.
    """

    outline: str
    rings: tuple[Ring, ...]
    yolk_r: float
    runs_r: float
    gloss: bool
    stipple: tuple[tuple[float, float], ...]
    green: bool
    loose: bool


def colour_of(table: Sequence[tuple[float, str]], celsius: float) -> str:
    """A colour between its table's rows.

    >>> colour_of(YOLK, 55.0)
    '#dd8118'
    """
    at = [c for c, _ in table]
    rgb = [[int(text[i : i + 2], 16) for i in (0, 2, 4)] for _, text in table]
    mixed = [round(float(np.interp(celsius, at, [colour[i] for colour in rgb]))) for i in range(3)]
    return "#" + "".join(f"{value:02x}" for value in mixed)


def egg_outline(rx: float, ry: float, blunt: float = BLUNT) -> str:
    """An egg's outline as a path around 0 0: rounder at the bottom, narrower at the top."""
    up, down = ry * (1 + blunt), ry * (1 - blunt)
    k = 0.5523
    return (
        f"M{-rx:.1f} 0C{-rx:.1f} {-up * k:.1f} {-rx * 0.48:.1f} {-up:.1f} 0 {-up:.1f}"
        f"C{rx * 0.48:.1f} {-up:.1f} {rx:.1f} {-up * k:.1f} {rx:.1f} 0"
        f"C{rx:.1f} {down * k:.1f} {rx * k:.1f} {down:.1f} 0 {down:.1f}"
        f"C{-rx * k:.1f} {down:.1f} {-rx:.1f} {down * k:.1f} {-rx:.1f} 0Z"
    )


def _stipple(radius: float, cell: float = 6.0) -> tuple[tuple[float, float], ...]:
    n = int(radius // cell) + 1
    return tuple(
        (x * cell + (cell / 2 if y % 2 else 0.0), y * cell * 0.87)
        for y in range(-n, n + 1)
        for x in range(-n, n + 1)
        if (x * cell + (cell / 2 if y % 2 else 0.0)) ** 2 + (y * cell * 0.87) ** 2 < (radius - 2.5) ** 2
    )


def cut_egg(
    depth: Sequence[float], hottest_c: Sequence[float], set_fraction: Sequence[float], edge: float, yolk_word: str,
    green: bool, bare: bool = False,
) -> CutEggDrawing:  # fmt: skip
    """The drawing; `depth` runs from the middle (0) to the shell (1), `edge` is where yolk meets white.

    `bare`: without its shell, a flattened ball.
    """
    half_x, half_y, blunt = (BARE_RX, BARE_RY, 0.0) if bare else (RX, RY, BLUNT)
    d, T, X = (np.array(values) for values in (depth, hottest_c, set_fraction))
    # The yolk of a long egg is a ball: its share of the half-breadth, not of the length.
    yolk_r = min(half_x, half_y) * edge
    rings = []
    for i in range(WHITE_RINGS):
        share = 1.0 - i / WHITE_RINGS
        at = edge + (1.0 - edge) * (share - 0.5 / WHITE_RINGS)
        colour = colour_of(WHITE, float(np.interp(at, d[d >= edge], T[d >= edge])))
        rx = yolk_r + (half_x - SHELL_PX - yolk_r) * share
        ry = yolk_r + (half_y - SHELL_PX - yolk_r) * share
        rings.append(Ring(egg_outline(rx, ry, blunt * share), colour))
    inner = d < edge
    for i in range(YOLK_RINGS):
        share = 1.0 - i / YOLK_RINGS
        at = edge * (share - 0.5 / YOLK_RINGS)
        colour = colour_of(YOLK, float(np.interp(at, d[inner], T[inner])))
        rings.append(Ring(egg_outline(yolk_r * share, yolk_r * share, 0.0), colour))
    runs = d[inner][X[inner] < 0.2]
    runs_r = yolk_r * (float(runs.max()) / edge if len(runs) else 0.0)
    white = X[~inner]
    return CutEggDrawing(
        egg_outline(half_x, half_y, blunt), tuple(rings), yolk_r, runs_r, yolk_word in ("runny", "syrupy"),
        _stipple(yolk_r) if yolk_word in ("fudgy", "set", "chalky") else (), green, bool(white[0] < NOT_SET),
    )  # fmt: skip
