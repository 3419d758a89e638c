"""Everything the egg bench page displays: summary, rows, bars and drawings, ready for its templates."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from kitchen.desk.presenters import Bar, Span, Summary, Table
from kitchen.drawings.dish import DishDrawing
from kitchen.drawings.egg_chart import EggChart
from kitchen.drawings.egg_cut import CutEggDrawing


@dataclass(frozen=True)
class CutView:
    """One egg of the row: its minutes, its drawing, and its text for screen readers."""

    minutes: float
    clock: str
    drawing: CutEggDrawing
    words: str
    set: str


@dataclass(frozen=True)
class MoveView:
    """A factor that changes the time: its bar runs left of the middle if it makes it shorter."""

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


@dataclass
class EggBench:
    """A request with everything its page shows."""

    method: str
    answer: Any = None
    problem: str = ""
    says: Summary | None = None
    cuts: tuple[CutView, ...] = ()
    white: tuple[Span, ...] = ()
    yolk: tuple[Span, ...] = ()
    mark: float | None = None
    green: float | None = None
    green_clock: str = ""
    moves: tuple[MoveView, ...] = ()
    left_whole: str = ""
    chart: EggChart | None = None
    chart_head: str = ""
    bars: tuple[Bar, ...] = ()
    tables: tuple[Table, ...] = ()
    dish: DishDrawing | None = None
    notes: tuple[str, ...] = field(default=())
