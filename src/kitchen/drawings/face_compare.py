"""A photograph of a cut face beside the face that was promised: the same scale, bands as bars. Lengths in mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.face.frame import USUAL_WIDTH
from ember.face.palette import palette_of

WIDE_SHARE = 1.1  # of the thickness: how much of the photograph is seen beside the line
BAR_PX, BAR_HIGH = 560.0, 40.0
LEAST_TEXT_PX = 26.0


@dataclass(frozen=True)
class Strip:
    """The promised face as colours of thin layers: (y, height, colour), mm from the top."""

    layers: tuple[tuple[float, float, str], ...]


@dataclass(frozen=True)
class Segment:
    """A band within a bar: x, width and middle, px; word, mm, colour; `is_told`: wide enough for its number."""

    x: float
    width: float
    word: str
    mm: float
    colour: str
    is_dark: bool

    @property
    def is_told(self) -> bool:
        """Whether its number fits into it."""
        return self.width >= LEAST_TEXT_PX

    @property
    def middle(self) -> float:
        """Where its number stands."""
        return self.x + self.width / 2


@dataclass(frozen=True)
class FaceCompare:
    """`turn`: the matrix that lays the photograph's line upright, in mm; `band` the width that was read, mm."""

    turn: str
    mm: float
    wide: float
    band: float
    promised: Strip | None
    measured_bar: tuple[Segment, ...]
    promised_bar: tuple[Segment, ...]

    @property
    def half(self) -> float:
        """Half of the width, mm."""
        return self.wide / 2


def upright(top: Sequence[float], under: Sequence[float], mm: float) -> str:
    """The SVG matrix from pixels of a photograph to mm: `top` comes to 0 0, `under` straight below it."""
    dx, dy = under[0] - top[0], under[1] - top[1]
    scale = mm / math.hypot(dx, dy)
    sin, cos = dx / math.hypot(dx, dy), dy / math.hypot(dx, dy)
    a, b, c, d = scale * cos, scale * sin, -scale * sin, scale * cos
    return f"{a:.6f} {b:.6f} {c:.6f} {d:.6f} {-a * top[0] - c * top[1]:.4f} {-b * top[0] - d * top[1]:.4f}"


def hex_at(cut_id: str, celsius: float) -> str:
    """The colour of flesh that looks as if it had seen this heat."""
    palette = palette_of(cut_id)
    return bytes(palette.rgb[int(np.abs(palette.looks_c - celsius).argmin())]).hex()


def face_compare(
    cut_id: str, frame: Mapping[str, Any], mm: float, measured: Mapping[str, Any] | None,
    promised: Mapping[str, Any] | None,
) -> FaceCompare | None:  # fmt: skip
    """The drawing; None for a frame without its line."""
    if "top" not in frame or "under" not in frame:
        return None
    longest = max([mm, *(_whole(face) for face in (measured, promised) if face is not None)])
    return FaceCompare(
        upright(frame["top"], frame["under"], mm), mm, WIDE_SHARE * mm, USUAL_WIDTH * mm,
        strip(cut_id, promised) if promised else None, bar(cut_id, measured, longest) if measured else (),
        bar(cut_id, promised, longest) if promised else (),
    )  # fmt: skip


def strip(cut_id: str, face: Mapping[str, Any]) -> Strip:
    """The layers of a face, its depths as kept."""
    depth = face["depth_mm"]
    step = depth[1] - depth[0]
    rows = zip(depth, face["looks_c"], strict=True)
    return Strip(tuple((round(d - step / 2, 3), round(step * 1.04, 3), hex_at(cut_id, c)) for d, c in rows))


def _whole(face: Mapping[str, Any]) -> float:
    return sum(mm for _, mm in in_order(face))


def in_order(face: Mapping[str, Any]) -> list[tuple[str, float]]:
    """The bands of a face from its top to its underside, mm."""
    top: list[tuple[str, float]] = []
    under: list[tuple[str, float]] = []
    whole: list[tuple[str, float]] = []
    for word, mm in face["bands_mm"].items():
        if isinstance(mm, list | tuple):
            top.append((word, mm[0]))
            under.append((word, mm[1]))
        else:
            whole.append((word, mm))
    merged: list[tuple[str, float]] = []
    for word, mm in [*top, *whole, *under[::-1]]:
        if mm <= 0:
            continue
        if merged and merged[-1][0] == word:
            merged[-1] = (word, merged[-1][1] + mm)
        else:
            merged.append((word, mm))
    return merged


def bar(cut_id: str, face: Mapping[str, Any], longest_mm: float) -> tuple[Segment, ...]:
    """The bands of a face side by side, top on the left."""
    bands = palette_of(cut_id).bands
    colour_c = {}
    for (low, word), high in zip(bands, [115.0, *(low for low, _ in bands[:-1])], strict=True):
        colour_c[word] = 0.5 * (max(low, 38.0) + high)
    segments, x = [], 0.0
    for word, mm in in_order(face):
        width = BAR_PX * mm / longest_mm
        colour = hex_at(cut_id, colour_c[word])
        light = sum(w * int(colour[i : i + 2], 16) for w, i in ((0.3, 0), (0.59, 2), (0.11, 4)))
        segments.append(Segment(round(x, 1), round(width, 1), word, mm, colour, light < 128))
        x += width
    return tuple(segments)
