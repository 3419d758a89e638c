"""Methods side by side: a column a method, a row a question."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ember.files.plan import Plan as CorePlan
from ember.files.result import Result
from ember.food.catalogue import Cut
from ember.quantities import Units, show_duration
from kitchen.drawings.cut_face import CutFace
from kitchen.drawings.plan_chart import time_columns
from kitchen.units.number_text import figure, fixed

from .pictures import face_of
from .stage_kinds import STAGE_NAMES

Kind = Literal["bar", "scale", "words"]
WINDOW_MOST_S = 7200.0  # what the core looks ahead
BAR_PX = 140.0


@dataclass(frozen=True)
class Column:
    """One method with its result; `key`: the library's id, or "now" for the plan as it stands."""

    key: str
    name: str
    says: str
    plan: CorePlan
    result: Result
    face: CutFace

    @property
    def chain(self) -> str:
        """Its stages in a line."""
        runs = zip(self.plan.stages, self.result.stages, strict=True)
        parts = [f"{STAGE_NAMES[stage.kind].lower()} {show_duration(run.end_s - run.start_s)}" for stage, run in runs]
        return " · ".join(parts)

    @property
    def total_s(self) -> float:
        """Duration, s."""
        return self.result.stages[-1].end_s


@dataclass(frozen=True)
class Cell:
    """One method's answer: text, the length of its bar or place of its dot (0 to 1), and whether it is the best; or the
    verdict of its rule.
    """

    text: str
    share: float | None = None
    best: bool = False
    verdict: dict[str, Any] | None = None

    @property
    def width(self) -> float:
        """Length of the bar, or place of the dot, px."""
        return 1.0 + (BAR_PX - 2.0) * (self.share or 0.0)


@dataclass(frozen=True)
class Row:
    """One question; `scale`: the ends of its scale; `band`: where the target lies on it (0 to 1)."""

    label: str
    hint: str
    kind: Kind
    cells: tuple[Cell, ...]
    scale: tuple[str, str] = ("", "")
    band: tuple[float, float] | None = None

    @property
    def band_x(self) -> float:
        """Where the target begins, px."""
        return 1.0 + (BAR_PX - 2.0) * (self.band[0] if self.band else 0.0)

    @property
    def band_width(self) -> float:
        """How wide the target is, px."""
        return (BAR_PX - 2.0) * (self.band[1] - self.band[0] if self.band else 0.0)


def column_of(key: str, name: str, says: str, plan: CorePlan, result: Result, cut_entry: Cut) -> Column:
    """A column of a result with its depth map."""
    return Column(
        key, name, says, plan, result, face_of(plan, cut_entry, result, time_columns(result, plan.stages, 600.0))
    )


def rows_of(columns: Sequence[Column], units: Units) -> list[Row]:
    """The table, a row for each question; empty without columns."""
    if not columns:
        return []
    results = [column.result for column in columns]
    rows = [
        _bars("Time needed", "", [c.total_s for c in columns], lambda s: show_duration(s), least=True),
        _bars("Hands-on time", "", [r.hands_on_min for r in results], lambda m: f"{m:.0f} min", least=True),
        _bars("Grey edge", "", [r.doneness.grey_band_mm for r in results], lambda mm: _mm(mm, units), least=True),
        _peaks(results, units),
        _windows(results),
        _bars("Yield", "", [r.yield_pct for r in results], lambda p: f"{p:.0f} %", least=False),
    ]  # fmt: skip
    if any(r.tenderness for r in results):
        cells = tuple(Cell(r.tenderness.word if r.tenderness else "") for r in results)
        rows.append(Row("Tenderness", "", "words", cells))
    rules = [r.safety[0].model_dump() for r in results]
    rows.append(Row("Rule", "needs a probe reading", "words", tuple(Cell("", verdict=rule) for rule in rules)))
    return rows


def _mm(mm: float, units: Units) -> str:
    return f"{figure(units.length_value(mm), 1 if units.length == 'mm' else 2)} {units.length}"


def _windows(results: Sequence[Result]) -> Row:
    def words(seconds: float) -> str:
        if seconds >= WINDOW_MOST_S:
            return "over 2 h"
        return show_duration(seconds) if seconds >= 1 else "none"

    values = [WINDOW_MOST_S if r.doneness.window_s is None else r.doneness.window_s for r in results]
    return _bars("Window", "how late the pull may be", values, words, least=False)


def _bars(label: str, hint: str, values: Sequence[float], show: Callable[[float], str], least: bool) -> Row:
    best, most = (min(values) if least else max(values)), max(*values, 1e-9)
    cells = tuple(Cell(show(v), v / most, show(v) == show(best)) for v in values)
    if len({cell.text for cell in cells}) == 1:  # no best where all are alike
        cells = tuple(Cell(cell.text, cell.share) for cell in cells)
    return Row(label, hint, "bar", cells)


def _peaks(results: Sequence[Result], units: Units) -> Row:
    word = results[0].doneness
    low = word.target_low_c if word.target_low_c is not None else word.low_c
    high = min(word.target_high_c if word.target_high_c is not None else word.high_c, low + 12.0)
    peaks = [r.core.peak_c for r in results]
    floor, top = min(*peaks, low) - 3.0, max(*peaks, high) + 3.0

    def at(celsius: float) -> float:
        return (celsius - floor) / (top - floor)

    cells = tuple(Cell(fixed(units.temperature_value(c), 1), at(c)) for c in peaks)
    ends = tuple(figure(units.temperature_value(c), 0) for c in (floor, top))
    return Row(f"Core peak, {units.degree}", "", "scale", cells, (ends[0], ends[1]), (at(low), at(high)))
