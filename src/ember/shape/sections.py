"""A piece divided into sections along curved ribs, from the middle line to the outline and orthogonal to both.

From an outline point (x, b), with s from 0 on the middle line to 1 on the face:

    x(s) = x + q (1 - s²) / (1 + √(1 + β (1 - s²))),   y(s) = s b,   q = b b′,   β = (b²)″/2 ≥ -1

Exact for flat pieces, wedges (arcs), circles (radii) and ellipses (confocal hyperbolas). Cells lie between ribs and
layers of equal s; all areas and volumes carry |y| for a piece round about its row and |x| for a disc.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import BadInput
from ..heat.grid import FloatArray, stretched
from .outline import Outline

CROWDED = 0.6  # how much closer sections stand where a piece is thin, as a share of its greatest half thickness
BESIDE_A_FACE = (0.35, 0.5)  # size of a section beside a side face: of its thickness, and of its distance from it
CLOSEST = 0.3  # neighbours in a fan count as no closer than this share of their layer's depth
FOLDS_WITHIN = 0.04  # how far the volume of the cells may be off the outline's: straight sides at two round tips


@dataclass(frozen=True)
class Sections:
    """A row of N sections of n nodes each, for one metre across (a radian of a round piece or disc).

    `nodes_m[N, n, 2]`: positions; of a flat piece from the underside to the top. `volume[N, n]`; `conduct[N, n-1]`, an
    area over distance between the nodes of a section; `face[N]`, area of each of its faces; `lateral[N-1, n]`, area
    over distance between neighbours; `end_area[2, n]` of square ends. `core`: the node on the middle line.
    """

    nodes_m: FloatArray
    thick_m: FloatArray
    volume: FloatArray
    conduct: FloatArray
    face: FloatArray
    lateral: FloatArray
    end_area: FloatArray
    core: int
    two_faces: bool

    @property
    def count(self) -> int:
        """Number of sections."""
        return len(self.face)

    @property
    def x_m(self) -> FloatArray:
        """Where each section meets the face, along the row, m."""
        return np.asarray(self.nodes_m[:, -1, 0])


def _places(outline: Outline, count: int, through: float) -> FloatArray:
    """Parameters (0 to 1 along the points of the outline) of sections, closer where thin and beside a side face, one of
    them `through` that share of their row.
    """
    x, y = outline.x_m, outline.y_m
    step = np.hypot(np.diff(x), np.diff(y))
    middle_x, middle_y = 0.5 * (x[1:] + x[:-1]), 0.5 * (y[1:] + y[:-1])
    size = middle_y + CROWDED * y.max()
    of_thickness, of_distance = BESIDE_A_FACE
    if outline.ends[0] == "square":
        size = np.minimum(size, of_thickness * y[0] + of_distance * (middle_x - x[0]))
    if outline.ends[1] == "square":
        size = np.minimum(size, of_thickness * y[-1] + of_distance * (x[-1] - middle_x))
    weight = np.concatenate([[0.0], np.cumsum(step / size)])
    pinned = round(through * (count - 1))
    share = np.linspace(0.0, 1.0, count)
    if 0 < pinned < count - 1:
        share = np.interp(np.arange(count), [0, pinned, count - 1], [0.0, through, 1.0])
    return np.asarray(np.interp(share * weight[-1], weight, np.linspace(0.0, 1.0, len(x))))


class _Ribs:
    """Points of the ribs of an outline."""

    def __init__(self, outline: Outline) -> None:
        self._outline = outline
        self._u = np.linspace(0.0, 1.0, len(outline.x_m))
        x, y = outline.x_m, outline.y_m
        ascending = np.concatenate([[True], np.diff(x) > 1e-9 * x[-1]])
        self._x = np.linspace(x[0], x[-1], 2001)
        squared = np.interp(self._x, x[ascending], y[ascending] ** 2)
        slope = 0.5 * np.gradient(squared, self._x)
        # Smoothed over half a thickness, so that a kink folds no rib.
        reach = max(int(0.25 * np.sqrt(squared.max()) / (self._x[1] - self._x[0])), 1)
        if "round" not in outline.ends:
            padded = np.pad(slope, reach, mode="edge")
            slope = np.convolve(padded, np.ones(2 * reach + 1) / (2 * reach + 1), "valid")
        half = np.sqrt(np.maximum(squared, 1e-12))
        for end, distance in zip(outline.ends, (self._x - self._x[0], self._x[-1] - self._x), strict=True):
            if end == "square":
                slope = slope * np.clip(distance / half, 0.0, 1.0)
        curve = np.maximum(np.gradient(slope, self._x), -1.0)
        if outline.ends[0] == "round":
            curve[:3] = curve[3]
        if outline.ends[1] == "round":
            curve[-3:] = curve[-4]
        self._slope, self._curve = slope, curve

    def __call__(self, u: FloatArray, s: FloatArray) -> FloatArray:
        """Points [len(u), len(s), 2]."""
        outline = self._outline
        x, y = np.interp(u, self._u, outline.x_m), np.interp(u, self._u, outline.y_m)
        slope, curve = np.interp(x, self._x, self._slope), np.interp(x, self._x, self._curve)
        inside = 1.0 - s[None] ** 2
        root = np.sqrt(np.maximum(1.0 + curve[:, None] * inside, 0.0))
        along = x[:, None] + slope[:, None] * inside / (1.0 + root)
        along = np.maximum.accumulate(np.clip(along, outline.x_m[0], outline.x_m[-1]), axis=0)
        return np.stack([along, y[:, None] * s[None]], -1)


def _length(vectors: FloatArray) -> FloatArray:
    return np.asarray(np.linalg.norm(vectors, axis=-1))


def _cross(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _volume_of(outline: Outline) -> float:
    """Volume of half the outline's section, with its weights."""
    x, y = outline.x_m, outline.y_m
    middle_x, middle_y = 0.5 * (x[1:] + x[:-1]), 0.5 * (y[1:] + y[:-1])
    area = middle_y**2 / 2 if outline.is_round else middle_y
    return float((np.diff(x) * area * (middle_x if outline.is_disc else 1.0)).sum())


def make_sections(outline: Outline, count: int, half_intervals: int, finest_m: float, through: float = 0.0) -> Sections:
    """Divide a piece. `half_intervals`: layers from the middle line to a face, the outermost `finest_m` thick at the
    thickest place. `through`: a place that has its own section, as a share of the row's sections from its first end.

    Raises BadInput for an outline whose ribs fold.
    """
    ribs = _Ribs(outline)
    u = _places(outline, count, through)
    between = np.concatenate([[u[0]], 0.5 * (u[1:] + u[:-1]), [u[-1]]])
    s = stretched(1.0, half_intervals, min(finest_m / float(outline.y_m.max()), 1.0 / half_intervals))
    s_middle = 0.5 * (s[1:] + s[:-1])
    s_edge = np.concatenate([[0.0], s_middle, [1.0]])
    s_cell = 0.5 * (s_edge[1:] + s_edge[:-1])

    def weight(points: FloatArray) -> FloatArray:
        across = np.abs(points[..., 1]) if outline.is_round else 1.0
        around = np.abs(points[..., 0]) if outline.is_disc else 1.0
        return np.asarray(across * around * np.ones(points.shape[:-1]))

    corner = ribs(between, s_edge)
    a, b, c, d = corner[:-1, :-1], corner[1:, :-1], corner[1:, 1:], corner[:-1, 1:]
    volume = 0.5 * np.abs(_cross(c - a, d - b)) * weight(0.25 * (a + b + c + d))
    nodes = ribs(u, s)

    def layer(at: FloatArray) -> FloatArray:
        """Arc of a layer across each section, through its rib."""
        sides, middle = ribs(between, at), ribs(u, at)
        left, right = _length(middle - sides[:-1]), _length(sides[1:] - middle)
        return left * weight(0.5 * (middle + sides[:-1])) + right * weight(0.5 * (sides[1:] + middle))

    conduct = layer(s_middle) / np.maximum(_length(np.diff(nodes, axis=1)), 1e-9)
    face = layer(np.array([1.0]))[:, 0]
    cell, wall, edge = ribs(u, s_cell), ribs(between[1:-1], s_cell), ribs(between[1:-1], s_edge)
    deep = _length(np.diff(edge, axis=1))
    apart = _length(wall - cell[:-1]) + _length(cell[1:] - wall)
    lateral = deep * weight(wall) / np.maximum(apart, CLOSEST * np.maximum(deep, 0.02 * float(outline.y_m.max())))
    end_area = np.zeros((2, len(s)))
    for end, place in ((0, 0), (1, -1)):
        if outline.ends[end] == "square":
            end_area[end] = _length(np.diff(corner[place], axis=0)) * weight(ribs(between[[place]], s_cell)[0])
    off = float(volume.sum()) / _volume_of(outline) - 1.0
    if float(volume.min()) <= 0.0 or abs(off) > FOLDS_WITHIN:
        raise BadInput("This outline turns too sharply: give fewer or smoother thicknesses.", "piece.outline")
    thick = _length(np.diff(nodes, axis=1)).sum(1)
    if outline.is_round:
        return Sections(nodes, thick, volume, conduct, face, lateral, end_area, 0, False)
    return Sections(
        nodes_m=np.concatenate([nodes[:, :0:-1] * [1.0, -1.0], nodes], axis=1),
        thick_m=2.0 * thick,
        volume=_glued(volume),
        conduct=np.concatenate([conduct[:, ::-1], conduct], axis=1),
        face=face, lateral=_glued(lateral), end_area=_glued(end_area), core=half_intervals, two_faces=True,
    )  # fmt: skip


def _glued(half: FloatArray) -> FloatArray:
    """Both halves of a flat piece: cells on the middle line are one."""
    return np.concatenate([half[..., :0:-1], 2.0 * half[..., :1], half[..., 1:]], axis=-1)
