"""The cut face: the cross-section as it would look when sliced at any moment of the plan.

The face is a stack of outlines, each further in than the one before and filled with the colour of its depth. A flat
piece has two stacks, for its top and its underside, which blend at half height.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np

from ember.face.palette import Colours

from .axis import FloatArray, TimeColumns, path
from .meat import Flesh

Body = Literal["steak", "fillet", "round"]
Inside = Literal["", "bone", "rib", "stuffing"]

LEVELS = 22
CLOSER_TO_FACE = 1.5  # levels crowd where the colour changes: at the outside
FRAMES = 48
POINTS = 72
BOX_PX = (204.0, 112.0)
CORNER = {"steak": 3.0, "fillet": 2.4, "round": 2.0}  # superellipse: 2 is an ellipse, more is boxier
TAPER = {"steak": 0.10, "fillet": 0.45, "round": 0.0}  # a fillet thins out towards its belly
FLAT_MOST, FLAT_LEAST = 3.4, 1.25  # width over thickness as drawn
LEAST_MM = 0.5
FAT_MOST = 0.9  # of half the thickness
FIBRES = 26


@dataclass(frozen=True)
class Section:
    """What is sliced: its body, sizes in mm, and what lies inside; `inside_share` of the half-thickness."""

    body: Body
    thick_mm: float
    wide_mm: float
    fat_mm: float = 0.0
    inside: Inside = ""
    inside_share: float = 0.0

    @property
    def flat(self) -> bool:
        """Whether it has two faces."""
        return self.body != "round"


@dataclass(frozen=True)
class Band:
    """A visible band, from the middle out: its word and depth, mm (the middle: width across)."""

    word: str
    mm: float


@dataclass(frozen=True)
class CutFace:
    """Geometry for the template. `levels`: outlines from the outside in; `top` and `under`: their colours at the end.

    `frames`: for each of FRAMES moments along the chart the colours of all levels of the top, then of the underside,
    concatenated; `bands` at the end, `band_frames` at those moments. `rings`: the bands at the end as outlines from the
    outside in, for print in black.
    """

    width: float
    height: float
    mm_px: float
    flat: bool
    outline: str
    levels: tuple[str, ...]
    top: tuple[str, ...]
    under: tuple[str, ...]
    fat: str
    inside: str
    inside_kind: Inside
    fibres: str
    rings: tuple[tuple[str, str], ...]
    bands: tuple[Band, ...]
    frames: tuple[str, ...]
    band_frames: tuple[tuple[tuple[str, float], ...], ...]

    @property
    def top_y(self) -> float:
        """Top of the face; its middle is at 0."""
        return -self.height / 2

    @property
    def bottom_y(self) -> float:
        """Foot of the face."""
        return self.height / 2

    @property
    def view_top(self) -> float:
        """Top of the picture."""
        return self.top_y - 6

    @property
    def view_height(self) -> float:
        """Height of the picture, with room for a handle below."""
        return self.height + 24

    def at(self, share: float) -> CutFace:
        """The face as sliced at a share of the chart's time."""
        k = round(min(max(share, 0.0), 1.0) * (len(self.frames) - 1))
        colours = tuple(self.frames[k][i : i + 6] for i in range(0, len(self.frames[k]), 6))
        top, under = colours[: len(self.levels)], colours[len(self.levels) :]
        bands = tuple(Band(word, mm) for word, mm in self.band_frames[k])
        return replace(self, top=top, under=under or top, bands=bands)

    @property
    def painted(self) -> list[tuple[str, str, str]]:
        """Outline, colour of the top, colour of the underside, from the outside in."""
        return list(zip(self.levels, self.top, self.under or self.top, strict=True))


class Outline:
    """The rim of a section in px, and the outlines between it and its spine."""

    def __init__(self, section: Section) -> None:
        wide = section.wide_mm if section.flat else section.thick_mm
        ratio = min(max(wide / section.thick_mm, FLAT_LEAST), FLAT_MOST) if section.flat else 1.0
        self.mm_px = min(BOX_PX[0] / ratio, BOX_PX[1]) / section.thick_mm
        self.b = section.thick_mm * self.mm_px / 2
        self.a = self.b * ratio
        theta = np.linspace(0, 2 * np.pi, POINTS, endpoint=False)
        power = 2.0 / CORNER[section.body]
        cos, sin = np.cos(theta), np.sin(theta)
        self.x = self.a * np.sign(cos) * np.abs(cos) ** power
        across = np.sign(sin) * np.abs(sin) ** power
        thinner = 1.0 - TAPER[section.body] * np.clip(self.x / self.a, 0.0, 1.0) ** 2
        bent = 1.0 + 0.03 * np.sin(2 * theta + 0.6) + 0.02 * np.sin(3 * theta)  # no two pieces are machined
        self.y = -self.b * across * thinner * (bent if section.flat else 1.0 + 0.4 * (bent - 1.0))
        self.spine = 0.92 * (self.a - self.b)

    def inset(self, share: float) -> tuple[FloatArray, FloatArray]:
        """Points at a share of the way in, centred on 0 0; y grows downwards."""
        towards = np.clip(self.x, -self.spine, self.spine)
        return self.x + share * (towards - self.x), self.y * (1.0 - share)


def _closed(x: FloatArray, y: FloatArray) -> str:
    return path(x, y) + "Z"


def _fat(outline: Outline, section: Section) -> str:
    """The fat cap: over the top of a flat piece, all around a round one."""
    share = min(section.fat_mm / (section.thick_mm / 2), FAT_MOST)
    if share <= 0:
        return ""
    outer, inner = outline.inset(0.0), outline.inset(share)
    if not section.flat:
        return _closed(*outer) + _closed(inner[0][::-1], inner[1][::-1])
    half = POINTS // 2 + 1
    x = np.concatenate([outer[0][:half], inner[0][:half][::-1]])
    y = np.concatenate([outer[1][:half], inner[1][:half][::-1]])
    return _closed(x, y)


def _ellipse(x: float, y: float, rx: float, ry: float) -> str:
    return f"M{x - rx:.1f} {y:.1f}a{rx:.1f} {ry:.1f} 0 1 0 {2 * rx:.1f} 0a{rx:.1f} {ry:.1f} 0 1 0 {-2 * rx:.1f} 0Z"


def _inside(outline: Outline, section: Section) -> str:
    match section.inside:
        case "bone" | "stuffing":
            r = max(section.inside_share, 0.08) * outline.b
            return _ellipse(0.0, 0.0, r, r)
        case "rib":
            return _ellipse(-0.84 * outline.a, 0.0, 0.09 * outline.a, 0.5 * outline.b)
        case _:
            return ""


def _fibres(outline: Outline) -> str:
    """Short strokes for the grain of a slice, the same in every drawing."""
    random = np.random.default_rng(7)
    x = random.uniform(-0.78, 0.78, FIBRES) * outline.a
    y = random.uniform(-0.62, 0.62, FIBRES) * outline.b
    length = random.uniform(3.0, 7.0, FIBRES)
    return "".join(f"M{a:.1f} {b:.1f}l{c:.1f} {-c * 0.8:.1f}" for a, b, c in zip(x, y, length, strict=True))


def _by_level(section: Section, flesh: Flesh) -> tuple[Colours, Colours]:
    """Colours at the middle of each level: [moment, level, 3] from the top in, and from the underside in."""
    rim = np.linspace(0.0, 1.0, LEVELS + 1) ** CLOSER_TO_FACE
    share = 0.5 * (rim[:-1] + rim[1:])
    inner, outside = flesh.depth_m[0], flesh.depth_m[-1]
    if section.flat:
        half = 0.5 * (inner + outside)
        top, under = outside - share * (outside - half), inner + share * (half - inner)
    else:
        top = under = np.maximum(outside * (1.0 - share), inner)

    def pick(places: FloatArray) -> Colours:
        return flesh.rgb[:, np.abs(flesh.depth_m[:, None] - places[None, :]).argmin(axis=0)]

    return pick(top), pick(under)


def _rings(outline: Outline, section: Section, bands: Sequence[Band]) -> tuple[tuple[str, str], ...]:
    middle, *rims = bands
    rings, depth = [], 0.0
    for band in [*rims[::-1], middle]:
        rings.append((band.word, _closed(*outline.inset(min(depth / (section.thick_mm / 2), 0.97)))))
        depth += band.mm
    return tuple(rings)


def _hexes(colours: Colours) -> list[str]:
    return [bytes(colour).hex() for colour in colours]


def _reach(distance: FloatArray, heat: FloatArray, lows: Sequence[float]) -> FloatArray:
    """Depth that heat of at least each of `lows` reaches from a face, [moment, low]; `heat[moment, place]` from the
    face in.
    """
    reach = np.zeros((len(heat), len(lows)))
    rows = np.arange(len(heat))
    for k, low in enumerate(lows):
        colder = heat < low
        i = colder.argmax(axis=1)
        before = np.maximum(i - 1, 0)
        gap = heat[rows, before] - heat[rows, i]
        share = np.where(gap > 0, (heat[rows, before] - low) / np.where(gap > 0, gap, 1.0), 0.0)
        depth = distance[before] + share * (distance[i] - distance[before])
        reach[:, k] = np.where(i == 0, 0.0, depth)
        reach[~colder.any(axis=1), k] = distance[-1]
    return reach


def bands_of(flat: bool, flesh: Flesh, words: Sequence[tuple[float, str]]) -> list[tuple[Band, ...]]:
    """The bands of each moment, the middle first; of two faces the deeper band.

    `words`: the lowest heat of each band and its word, the hottest first.
    """
    x, hot, lows = flesh.depth_m * 1e3, flesh.hottest_c, [low for low, _ in words]
    half = len(x) // 2 + 1 if flat else len(x)
    reach = _reach(x[-1] - x[::-1][:half], hot[:, ::-1][:, :half], lows)
    if flat:
        reach = np.maximum(reach, _reach(x[:half] - x[0], hot[:, :half], lows))
    middle = hot[:, half - 1 if flat else 0]
    across = (x[-1] - x[0]) * (1.0 if flat else 2.0)
    bands_drawn = []
    for depths, core_c in zip(reach.tolist(), middle.tolist(), strict=True):
        rims: list[Band] = []
        core_word = next(word for low, word in words if core_c >= low)
        for (_, word), (before, now) in zip(words, pairwise([0.0, *depths]), strict=True):
            if word == core_word:
                break
            if now - before >= LEAST_MM:
                rims.append(Band(word, now - before))
        left = across - 2.0 * sum(band.mm for band in rims)
        bands_drawn.append((Band(core_word, max(float(left), 0.0)), *rims[::-1]))
    return bands_drawn


def moments(time: TimeColumns) -> FloatArray:
    """Times of the frames: evenly along the chart, s."""
    return time.time(np.linspace(0.0, time.width, FRAMES))


def cut_face(section: Section, flesh: Flesh, words: Sequence[tuple[float, str]]) -> CutFace:
    """Draw the face of a piece whose `flesh` is given at `moments`, with the words of its bands."""
    outline = Outline(section)
    rim = np.linspace(0.0, 1.0, LEVELS + 1)[:-1] ** CLOSER_TO_FACE
    top, under = _by_level(section, flesh)
    bands = bands_of(section.flat, flesh, words)
    stacks = np.concatenate([top, under], axis=1) if section.flat else top
    return CutFace(
        width=2 * outline.a,
        height=2 * outline.b,
        mm_px=outline.mm_px,
        flat=section.flat,
        outline=_closed(*outline.inset(0.0)),
        levels=tuple(_closed(*outline.inset(float(share))) for share in rim),
        top=tuple(_hexes(top[-1])),
        under=tuple(_hexes(under[-1])),
        fat=_fat(outline, section),
        inside=_inside(outline, section),
        inside_kind=section.inside,
        fibres=_fibres(outline),
        rings=_rings(outline, section, bands[-1]),
        bands=bands[-1],
        frames=tuple(frame.tobytes().hex() for frame in stacks),
        band_frames=tuple(tuple((band.word, round(band.mm, 1)) for band in frame_bands) for frame_bands in bands),
    )
