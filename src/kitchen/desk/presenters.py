"""Typed parts of a desk page: summary, comparison tables, time windows on an axis."""

from __future__ import annotations

from dataclasses import dataclass

from kitchen.units.number_text import clock_span


@dataclass(frozen=True)
class Summary:
    """The right column: the result, the number to act on, and its uncertainty."""

    word: str
    facts: tuple[str, ...]
    act: str
    value: str
    note: str
    spread: str = ""


@dataclass(frozen=True)
class Span:
    """A word's range on an axis."""

    word: str
    share: float
    value: str
    chosen: bool
    kind: str = ""


@dataclass(frozen=True)
class Row:
    """A row of a comparison: another method or choice."""

    name: str
    line: str
    cells: tuple[str, ...]
    value: str
    chosen: bool


@dataclass(frozen=True)
class Table:
    """A comparison table; `field` is the one that a tap sets."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[Row, ...]
    field: str = ""


@dataclass(frozen=True)
class Bar:
    """A window on an axis of °C or g: its ranges, and the position of the current value (share from the left)."""

    title: str
    spans: tuple[Span, ...]
    mark: float
    mark_words: str
    ends: tuple[str, str]


def minutes_clock(minutes: float | None) -> str:
    """ "7:10"; from an hour on "1:05:00"."""
    return "–" if minutes is None else clock_span(round(60.0 * minutes))


def window(title: str, stops: list[tuple[str, float, float]], at: float, words: str, ends: tuple[str, str]) -> Bar:
    low, high = stops[0][1], stops[-1][2]
    kinds = ("thin", "thick", "curdled")
    spans = tuple(Span(name, max(b - a, 0.0) / (high - low), "", a <= at < b, kind)
                  for (name, a, b), kind in zip(stops, kinds, strict=False))  # fmt: skip
    return Bar(title, spans, min(max((at - low) / (high - low), 0.0), 1.0), words, ends)
