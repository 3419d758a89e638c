"""From a plan's piece to its outline, and to its volume."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..files.outline import MIRRORED, ROUND
from ..files.outline import Outline as OutlineIn
from ..files.piece import Cylinder, Piece, Slab
from . import outline as shapes
from .outline import End, Outline

NEAR = 1.5  # two sizes in plan that differ by less are taken as a disc of the same area
KEEP = {"breast": 0.3, "tail": shapes.TAPERS_FROM, "fillet": 0.0}


def size_m(piece: Piece) -> float:
    """Greatest thickness or diameter, m."""
    match piece.shape:
        case Cylinder(diameter_mm=size) | Slab(thickness_mm=size):
            return size * 1e-3
    raise ValueError("the format allows an outline for slabs and cylinders only")


def given_of(piece: Piece) -> OutlineIn:
    """The outline in the plan. Raises ValueError for a piece without."""
    if piece.outline is None:
        raise ValueError("this piece has no outline")
    return piece.outline


def outline_of(piece: Piece) -> Outline:
    """The outline of a piece that has one, m. Raises ValueError for one without."""
    return made_from(given_of(piece), size_m(piece), isinstance(piece.shape, Cylinder))


@lru_cache(maxsize=64)
def made_from(given: OutlineIn, thick: float, is_round: bool = False) -> Outline:
    """The outline in a plan at its greatest thickness, m; `is_round`: one that was traced along a roll."""
    row = (given.row_mm or 0.0) * 1e-3
    ends: tuple[End, End] = given.ends or ("square", "square")
    edge = ends[1]
    match given.family:
        case "steak" | "medallion" | "chunk":
            disc = given.family == "medallion" or _is_near(given)
            return shapes.flat(thick, _across_m(given) if disc else row, edge, disc)
        case "lump":
            return shapes.domed(thick, _across_m(given) if _is_near(given) else row, _is_near(given))
        case "roll":
            return shapes.roll(thick, row, edge)
        case "dome":
            return shapes.domed(thick, row)
        case "chop":
            return shapes.taper(thick, thick, row, ends=ends)
        case "traced":
            places, deep = np.array(given.trace).T * 1e-3
            return shapes.traced(places, deep, ends, is_round)
        case _:
            keep = given.keep if given.keep is not None else KEEP[given.family]
            return shapes.taper(thick, (given.thin_mm or 0.0) * 1e-3, row, keep, given.family in ROUND, ends)


def _is_near(given: OutlineIn) -> bool:
    """Whether the two sizes in plan are near enough for a disc."""
    row, other = given.row_mm or 0.0, given.other_mm
    return given.family in ("chunk", "lump") and (other is None or max(row, other) < NEAR * min(row, other))


def _across_m(given: OutlineIn) -> float:
    """Diameter of the disc of the same area in plan, m."""
    row = given.row_mm or 0.0
    if given.family == "medallion" or given.other_mm is None:
        return row * 1e-3
    return float(np.sqrt(row * given.other_mm * (4.0 / np.pi if given.family == "chunk" else 1.0))) * 1e-3


def times_m(piece: Piece, volume_m3: float | None = None) -> float:
    """By how much the half or radian of `Sections` is multiplied to give the whole piece, m (a disc or roll: 1).

    The size across is the outline's own, the piece's length, or what the volume makes it; else as long as the row.
    """
    given, made = given_of(piece), outline_of(piece)
    halves = 2.0 if given.family in MIRRORED or made.ends[0] == "cut" else 1.0
    if made.is_round:
        return 2.0 * np.pi * halves
    if made.is_disc:
        return 2.0 * np.pi
    if given.other_mm is not None:
        return halves * given.other_mm * 1e-3
    if piece.length_mm is not None:
        return halves * piece.length_mm * 1e-3
    if volume_m3 is not None:
        return volume_m3 / area_m2(made)
    return halves * (given.row_mm or 1e3 * float(made.x_m[-1])) * 1e-3


def area_m2(made: Outline) -> float:
    """Area of the outline's section, both sides of the middle line; for a disc or a round piece volume a radian, m³."""
    x, y = made.x_m, made.y_m
    middle_x, middle_y = 0.5 * (x[1:] + x[:-1]), 0.5 * (y[1:] + y[:-1])
    if made.is_round:
        return float((np.diff(x) * middle_y * 0.5 * middle_y).sum())
    return 2.0 * float((np.diff(x) * middle_y * (middle_x if made.is_disc else 1.0)).sum())


def volume_m3(piece: Piece) -> float:
    """Volume by its sizes, m³."""
    return area_m2(outline_of(piece)) * times_m(piece)


def plan_area_m2(piece: Piece, volume_m3: float) -> float:
    """Area of one face, m²; of a piece round about its row that of its outside."""
    made, times = outline_of(piece), times_m(piece, volume_m3)
    x, y = made.x_m, made.y_m
    if made.is_round:
        return times * float((np.hypot(np.diff(x), np.diff(y)) * 0.5 * (y[1:] + y[:-1])).sum())
    if made.is_disc:
        return times * float(x[-1] ** 2 - x[0] ** 2) / 2
    return times * float(x[-1] - x[0])
