"""A day's records on a line from midnight to midnight: rule met, not met, or without a rule."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

WIDTH_PX, HEIGHT_PX = 560.0, 34.0
LEFT_PX = 8.0
APART_PX, MOST_ROWS = 9.0, 3
HOURS = (0, 6, 12, 18, 24)


@dataclass(frozen=True)
class DayMark:
    """A record: its place, and "met", "not", "advisory" or "none"."""

    x: float
    y: float
    state: str


@dataclass(frozen=True)
class DayStrip:
    """Marks, and the hours as (px, hour)."""

    marks: tuple[DayMark, ...]
    hours: tuple[tuple[float, int], ...]


def day_strip(records: Sequence[tuple[float, str]]) -> DayStrip:
    """The strip of records (hour of the day, state); those that would overlap are stacked in up to three rows."""

    def at(hour: float) -> float:
        return LEFT_PX + (WIDTH_PX - 2 * LEFT_PX) * min(max(hour, 0.0), 24.0) / 24.0

    last = [-APART_PX] * MOST_ROWS
    marks = []
    for hour, state in sorted(records):
        x = at(hour)
        lane = next((i for i, before in enumerate(last) if x - before >= APART_PX), MOST_ROWS - 1)
        last[lane] = x
        marks.append(DayMark(x, 22.0 - 8.0 * lane, state))
    return DayStrip(tuple(marks), tuple((at(hour), hour) for hour in HOURS))
