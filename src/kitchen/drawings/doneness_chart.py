"""Doneness words by core temperature: one bar a kind of flesh, all on one scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ember.judge.doneness import Word

from .raster import hex_colour

LOW_C, HIGH_C = 28.0, 99.0
ROW_PX, TOP_PX, LEFT_PX = 62.0, 34.0, 190.0
LETTER_PX = 7.0


@dataclass(frozen=True)
class Segment:
    """A word's range on its bar; `short` if its name does not fit inside."""

    x: float
    width: float
    word: str
    low_c: float
    fill: str
    short: bool


@dataclass(frozen=True)
class Bar:
    """A scale: its name, its species, and its words."""

    y: float
    name: str
    kinds: str
    segments: tuple[Segment, ...]


@dataclass(frozen=True)
class DonenessChart:
    """Everything the template draws, px."""

    width: float
    height: float
    bars: tuple[Bar, ...]
    ticks: tuple[tuple[float, float], ...]


def _x(celsius: float, width: float) -> float:
    share = (min(max(celsius, LOW_C), HIGH_C) - LOW_C) / (HIGH_C - LOW_C)
    return LEFT_PX + share * (width - LEFT_PX - 10.0)


def doneness_chart(rows: Sequence[tuple[str, Sequence[str], Sequence[Word]]], width: float) -> DonenessChart:
    """Draw scales given as (name, species, words from raw upwards); raw itself is left out."""
    bars = []
    for i, (name, species, words) in enumerate(rows):
        segments = []
        for word in words[1:]:
            a, b = _x(word.low_c, width), _x(word.high_c, width)
            middle = 0.5 * (word.low_c + min(word.high_c, HIGH_C))
            segments.append(
                Segment(
                    a, b - a, word.word, word.low_c, hex_colour(middle),
                    LETTER_PX * len(word.word) > b - a - 6.0,
                )
            )  # fmt: skip
        kinds = ", ".join(species)
        bars.append(Bar(TOP_PX + i * ROW_PX, name.replace("-", " "), kinds, tuple(segments)))
    ticks = tuple((_x(c, width), float(c)) for c in range(30, 91, 10))
    return DonenessChart(width, TOP_PX + len(rows) * ROW_PX + 6.0, tuple(bars), ticks)
