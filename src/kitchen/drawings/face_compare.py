"""A photograph of a cut face beside the face that was promised: the same scale, bands as bars. Lengths in mm."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.face.palette import palette_of
from ember.face.strip import MARGIN_SHARE, WIDE_SHARE

BAR_PX = 560.0
LEAST_TEXT_PX = 26.0


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
    """`promised`: the planned face as stops of a gradient, (share of its thickness, colour). Sizes are mm: of the
    photograph as it is laid upright, `high` with its `margin` above and below.
    """

    mm: float
    promised_mm: float
    wide: float
    margin: float
    promised: tuple[tuple[float, str], ...]
    measured_bar: tuple[Segment, ...]
    promised_bar: tuple[Segment, ...]

    @property
    def half(self) -> float:
        """Half of the width."""
        return self.wide / 2

    @property
    def high(self) -> float:
        """The photograph's height, with its margins."""
        return self.mm + 2 * self.margin

    @property
    def view_high(self) -> float:
        """The height of every picture: of the thicker face, with margins."""
        return max(self.mm, self.promised_mm) + 2 * self.margin

    @property
    def view_top(self) -> float:
        """Where the pictures begin: both faces are centred at half their thickness."""
        return -self.view_high / 2

    @property
    def photo_top(self) -> float:
        """Where the photograph begins."""
        return -self.high / 2

    @property
    def promised_top(self) -> float:
        """Where the planned face begins."""
        return -self.promised_mm / 2


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
    promised_mm = _whole(cut_id, promised) if promised else mm
    longest = max(mm, promised_mm, _whole(cut_id, measured) if measured else 0.0)
    return FaceCompare(
        mm, promised_mm, WIDE_SHARE * mm, MARGIN_SHARE * mm, stops(cut_id, promised) if promised else (),
        bar(cut_id, measured, longest) if measured else (), bar(cut_id, promised, longest) if promised else (),
    )  # fmt: skip


def stops(cut_id: str, face: Mapping[str, Any]) -> tuple[tuple[float, str], ...]:
    """A face as stops of a gradient from its top to its underside."""
    whole = face["depth_mm"][0] + face["depth_mm"][-1]
    rows = zip(face["depth_mm"], face["looks_c"], strict=True)
    return tuple((round(depth / whole, 4), hex_at(cut_id, celsius)) for depth, celsius in rows)


def _whole(cut_id: str, face: Mapping[str, Any]) -> float:
    return sum(mm for _, mm in in_order(cut_id, face))


def in_order(cut_id: str, face: Mapping[str, Any]) -> list[tuple[str, float]]:
    """The bands of a face from its top to its underside, mm."""
    top: list[tuple[str, float]] = []
    under: list[tuple[str, float]] = []
    whole: list[tuple[str, float]] = []
    for _, word in palette_of(cut_id).bands:  # the database keeps no order of keys
        mm = face["bands_mm"].get(word, 0.0)
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
    for word, mm in in_order(cut_id, face):
        width = BAR_PX * mm / longest_mm
        colour = hex_at(cut_id, colour_c[word])
        light = sum(w * int(colour[i : i + 2], 16) for w, i in ((0.3, 0), (0.59, 2), (0.11, 4)))
        segments.append(Segment(round(x, 1), round(width, 1), word, mm, colour, light < 128))
        x += width
    return tuple(segments)
