"""What the egg bench shows: words, rows, bars and drawings, ready for its templates."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from kitchen.drawings.dish import DishDrawing
from kitchen.drawings.egg_chart import EggChart
from kitchen.drawings.egg_cut import CutEggDrawing
from kitchen.units.show import clock_span


@dataclass(frozen=True)
class Says:
    """The right column: what comes of it, the number to act on, and how sure it is."""

    word: str
    facts: tuple[str, ...]
    act: str
    value: str
    note: str
    spread: str = ""


@dataclass(frozen=True)
class CutShown:
    """One egg of the row: its minutes, its drawing, and what a reader hears."""

    minutes: float
    clock: str
    drawing: CutEggDrawing
    words: str
    set: str


@dataclass(frozen=True)
class Span:
    """A word's width on an axis."""

    word: str
    share: float
    value: str
    chosen: bool
    kind: str = ""


@dataclass(frozen=True)
class MoveShown:
    """What moves the clock: its bar runs left of the middle where it is sooner."""

    what: str
    clock: str
    by: str
    note: str
    left: float
    right: float

    @property
    def left_x(self) -> float:
        """px of the bar's left end on an axis of 120 with its middle at 60."""
        return 60.0 * (1.0 - self.left)

    @property
    def left_w(self) -> float:
        """px."""
        return 60.0 * self.left

    @property
    def right_w(self) -> float:
        """px."""
        return 60.0 * self.right


@dataclass(frozen=True)
class Row:
    """A school or another way, held beside the others."""

    name: str
    line: str
    cells: tuple[str, ...]
    value: str
    chosen: bool


@dataclass(frozen=True)
class Table:
    """Schools side by side; `field` is the one a tap sets."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[Row, ...]
    field: str = ""


@dataclass(frozen=True)
class Bar:
    """A window on an axis of °C or g: spans, and where this one stands (its share from the left)."""

    title: str
    spans: tuple[Span, ...]
    mark: float
    mark_words: str
    ends: tuple[str, str]


@dataclass
class EggBench:
    """A request being worked on."""

    method: str
    answer: Any = None
    problem: str = ""
    says: Says | None = None
    cuts: tuple[CutShown, ...] = ()
    white: tuple[Span, ...] = ()
    yolk: tuple[Span, ...] = ()
    mark: float | None = None
    green: float | None = None
    green_clock: str = ""
    moves: tuple[MoveShown, ...] = ()
    left_whole: str = ""
    chart: EggChart | None = None
    chart_head: str = ""
    bars: tuple[Bar, ...] = ()
    tables: tuple[Table, ...] = ()
    dish: DishDrawing | None = None
    notes: tuple[str, ...] = field(default=())


def minutes_clock(minutes: float | None) -> str:
    """ "7:10"; from an hour on "1:05:00"."""
    return "–" if minutes is None else clock_span(round(60.0 * minutes))
