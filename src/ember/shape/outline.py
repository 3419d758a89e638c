"""The outline of a piece across its row of sections: half its thickness, from one end of the row to the other.

A row runs across a steak, along a breast or down a tail. The piece is taken as symmetric about the row's middle line,
or round about it; in plan it is straight, or a disc about its first end.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..heat.grid import FloatArray

End = Literal["cut", "square", "round"]
POINTS = 2401
TAPERS_FROM = 0.45  # share of a tail's length that keeps its full thickness; handbook drawings, from memory


@dataclass(frozen=True)
class Outline:
    """Points along the outline: `x_m` along the row, `y_m` half the thickness or the radius, m.

    `ends`: "cut" is a plane of symmetry (the other half is its mirror image), "square" a side face, "round" a tip.
    `is_round`: round about the row; `is_disc`: round in plan about its first end.
    """

    x_m: FloatArray
    y_m: FloatArray
    ends: tuple[End, End]
    is_round: bool = False
    is_disc: bool = False

    def mirrored(self) -> tuple[FloatArray, FloatArray]:
        """The outline with the half beyond a cut end, for drawing."""
        if self.ends[0] != "cut":
            return self.x_m, self.y_m
        return np.concatenate([-self.x_m[:0:-1], self.x_m]), np.concatenate([self.y_m[:0:-1], self.y_m])


def flat(thick_m: float, width_m: float, edge: End = "round", is_disc: bool = False) -> Outline:
    """Half of a piece of even thickness; its edge a half circle or square. A disc's `width_m` is its diameter."""
    half, radius = width_m / 2, thick_m / 2
    if edge == "square":
        x = np.linspace(0.0, half, POINTS)
        return Outline(x, np.full(POINTS, radius), ("cut", "square"), is_disc=is_disc)
    straight = max(half - radius, 0.0)
    along = np.linspace(0.0, straight + np.pi / 2 * radius, POINTS)
    angle = np.clip((along - straight) / radius, 0.0, np.pi / 2)
    x = np.where(along < straight, along, straight + radius * np.sin(angle))
    return Outline(x, radius * np.cos(angle), ("cut", "round"), is_disc=is_disc)


def domed(thick_m: float, width_m: float, is_disc: bool = False, power: float = 2.0) -> Outline:
    """Half of a piece that rounds off all the way: a superellipse, of power 2 an ellipse."""
    angle = np.linspace(0.0, np.pi / 2, POINTS)
    x = width_m / 2 * np.sin(angle) ** (2.0 / power)
    y = thick_m / 2 * np.cos(angle) ** (2.0 / power)
    return Outline(x, y, ("cut", "round"), is_disc=is_disc)


def roll(diameter_m: float, length_m: float, edge: End = "square") -> Outline:
    """Half of a roll; its ends half balls or square."""
    whole = flat(diameter_m, length_m, edge)
    return Outline(whole.x_m, whole.y_m, whole.ends, is_round=True)


def taper(
    thick_m: float, thin_m: float, length_m: float, keep: float = 0.0, is_round: bool = False,
    ends: tuple[End, End] = ("square", "square"),
) -> Outline:  # fmt: skip
    """From thick to thin: straight, or the full thickness for a share `keep` and then a smooth run out. A round end
    closes in a half circle as thick as the piece is there.
    """
    u = _closer_at_round_ends(ends)
    v = np.clip((u - keep) / (1.0 - keep), 0.0, 1.0)
    fall = v * v * (1.5 - 0.5 * v) if keep > 0.0 else v
    x, half = length_m * u, 0.5 * (thick_m + (thin_m - thick_m) * fall)
    for end, distance, thick in zip(ends, (x, length_m - x), (thick_m, thin_m), strict=True):
        radius = min(thick / 2.0, length_m / 2.0)
        if end == "round":
            half = half * np.sqrt(1.0 - np.clip(1.0 - distance / radius, 0.0, 1.0) ** 2)
    return Outline(x, half, ends, is_round)


def _closer_at_round_ends(ends: tuple[End, End]) -> FloatArray:
    """Places from 0 to 1, closer where the outline turns through a quarter circle."""
    u = np.linspace(0.0, 1.0, POINTS)
    match ends[0] == "round", ends[1] == "round":
        case True, True:
            return np.asarray(0.5 - 0.5 * np.cos(np.pi * u))
        case True, False:
            return np.asarray(1.0 - np.cos(np.pi / 2 * u))
        case False, True:
            return np.asarray(np.sin(np.pi / 2 * u))
        case _:
            return u


def traced(places_m: FloatArray, thick_m: FloatArray, ends: tuple[End, End], is_round: bool = False) -> Outline:
    """Through measured thicknesses, without overshoot (monotone cubic of y²: a round end comes out round)."""
    from scipy.interpolate import PchipInterpolator  # half a second, which only a traced piece need wait for

    through: Callable[[FloatArray], FloatArray] = PchipInterpolator(places_m, (thick_m / 2) ** 2)
    first, last = float(places_m[0]), float(places_m[-1])
    x = first + (last - first) * _closer_at_round_ends(ends)
    y = np.sqrt(np.maximum(through(x), 0.0))
    for end, place in zip(ends, (0, -1), strict=True):
        if end == "round":
            y[place] = 0.0
    return Outline(x - first, y, ends, is_round)
