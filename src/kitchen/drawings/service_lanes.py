"""A service as lanes: ovens, baths, hob and cooks on one time axis that widens near plate-up."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from .axis import TimeColumns, tick_step

LEFT_PX, RIGHT_PX = 132.0, 14.0
HEAD_PX, ROW_PX, LINE_PX, GAP_PX, LEAST_LANE_PX = 66.0, 46.0, 18.0, 4.0, 50.0
BAR_PX, TOUCH_PX = 24.0, 44.0
PLATE_WORDS_PX = 62.0
LETTER_PX, PAD_PX = 6.8, 5.0
LABEL_APART_PX = 50.0
LEAST_BAR_PX = 5.0
HOUR_S = 3600.0
# How far before its first plate each pace reaches, s, and its share of the width.
PACES = ((6 * HOUR_S, 0.24), (1.5 * HOUR_S, 0.30), (20 * 60.0, 0.28))
FAR_SHARE, AFTER_S, APART_S = 0.18, 5 * 60.0, 4 * HOUR_S
QUIET, BUSY = 0.25, 12  # a stretch without a start keeps this share; with so many it has all


@dataclass(frozen=True)
class LaneIn:
    """Input for a lane: its words, and whether it has a temperature setting."""

    id: str
    name: str
    note: str = ""
    pattern: str = ""


@dataclass(frozen=True)
class BarIn:
    """A task on a lane from `start` to `end`, s. `words` are written in it if they fit, else `short`."""

    key: str
    lane: str
    start: float
    end: float
    words: str
    short: str = ""
    state: str = ""


@dataclass(frozen=True)
class SettingIn:
    """A setting of a lane from `start` to `end`, s; heating or cooling from `way` on."""

    lane: str
    words: str
    way: float
    start: float
    end: float


@dataclass(frozen=True)
class Bar:
    """A task's bar, px. `label_x`: where its words begin, None if they do not fit."""

    key: str
    x: float
    y: float
    width: float
    label: str
    label_x: float | None
    state: str
    title: str
    height: float = BAR_PX

    @property
    def touch(self) -> tuple[float, float, float, float]:
        """What can be touched of it, px: x, y, width, height; its row, and as wide as a finger."""
        wide = max(self.width, TOUCH_PX)
        return self.x + (self.width - wide) / 2, self.y - (ROW_PX - BAR_PX) / 2 + 1, wide, TOUCH_PX

    @property
    def is_beside(self) -> bool:
        """Whether its words are written beside it."""
        return self.label_x is not None and self.label_x > self.x + self.width


@dataclass(frozen=True)
class SettingLine:
    """A setting's line, px: a slope while it changes, then level."""

    way_x: float
    x: float
    y: float
    end_x: float
    words: str


@dataclass
class Lane:
    """A lane, px."""

    id: str
    name: str
    note: str
    pattern: str
    y: float
    height: float
    settings: list[SettingLine] = field(default_factory=list)


@dataclass(frozen=True)
class Tick:
    """A time on the axis; `words` is False if its label does not fit. `is_day`: labelled by its day."""

    x: float
    at: float
    words: bool
    is_day: bool


@dataclass(frozen=True)
class PlateLine:
    """A plate-up: its line, and which of two rows its time is written in so that neighbours do not overlap; `is_left`
    of the line at the right edge.
    """

    x: float
    at: float
    row: int
    is_left: bool


@dataclass(frozen=True)
class ServiceChart:
    """Geometry for the template; px, top left at 0 0. `columns` is the axis for dragging."""

    width: float
    height: float
    lanes: tuple[Lane, ...]
    bars: tuple[Bar, ...]
    ticks: tuple[Tick, ...]
    seams: tuple[float, ...]
    plates: tuple[PlateLine, ...]
    now_x: float | None
    columns: TimeColumns

    @property
    def beside_names(self) -> float:
        """Width to the right of the lanes' names."""
        return self.width - LEFT_PX

    @property
    def axis_seconds(self) -> str:
        """The axis for the script: boundaries of its columns, s."""
        return " ".join(f"{s:.0f}" for s in self.columns.seconds)

    @property
    def axis_x(self) -> str:
        """The same boundaries, px from the left of the first lane."""
        return " ".join(f"{x:.2f}" for x in self.columns.x)


def paces(first: float, plates: Sequence[float], width: float, busy: Sequence[float] = ()) -> TimeColumns:
    """The axis from `first` to past the last plate-up: minutes get room near plate-up, days little.

    `busy`: when tasks begin; a stretch with few of them gets less room.
    """
    groups: list[list[float]] = []
    for plate in sorted(plates):
        if groups and plate - groups[-1][-1] <= APART_S:
            groups[-1].append(plate)
        else:
            groups.append([plate])
    stops, shares = [first], []
    for group in groups:
        marks = [(group[0] - before, share) for before, share in PACES]
        begins = [at for at, _ in marks] + [group[-1] + AFTER_S]
        if begins[0] > stops[-1]:
            stops.append(begins[0])
            shares.append(FAR_SHARE)
        for (_, share), end in zip(marks, begins[1:], strict=True):
            if end > stops[-1]:
                stops.append(end)
                shares.append(share)
    for i, (a, b) in enumerate(pairwise(stops)):
        count = sum(a <= moment < b for moment in busy)
        shares[i] *= QUIET + min(count, BUSY) / BUSY
    x, at = [0.0], 0.0
    for share in shares:
        at += width * share / sum(shares)
        x.append(at)
    return TimeColumns(tuple(stops), tuple(x))


def _rows(bars: Sequence[BarIn]) -> list[tuple[int, BarIn]]:
    """Each bar with the first free row it fits in."""
    ends: list[float] = []
    placed = []
    for bar in sorted(bars, key=lambda bar: (bar.start, bar.end)):
        lane_row = next((i for i, end in enumerate(ends) if end <= bar.start), len(ends))
        if lane_row == len(ends):
            ends.append(bar.end)
        ends[lane_row] = bar.end
        placed.append((lane_row, bar))
    return placed


def _labelled(bar: BarIn, x: float, width: float, free: float) -> tuple[str, float | None]:
    """The longest words that fit in the bar, else beside it."""
    for words in (bar.words, bar.short):
        if words and LETTER_PX * len(words) + 2 * PAD_PX <= width:
            return words, x + PAD_PX
    for words in (bar.short, bar.words):
        if words and LETTER_PX * len(words) + PAD_PX <= free:
            return words, x + width + 4.0
    return "", None


def _ticks(axis: TimeColumns, offset_s: float, left: float) -> list[Tick]:
    tick_rows: list[Tick] = []
    last_x = -LABEL_APART_PX
    for a, b, x0, x1 in zip(axis.seconds, axis.seconds[1:], axis.x, axis.x[1:], strict=False):
        step = tick_step(b - a, max(int((x1 - x0) / 60.0), 1))
        at = (int((a + offset_s) // step) + 1) * step - offset_s
        while at < b:
            x = left + float(axis(at))
            words = x - last_x >= LABEL_APART_PX
            last_x = x if words else last_x
            tick_rows.append(Tick(x, at, words, step >= 12 * HOUR_S or (at + offset_s) % 86400 == 0))
            at += step
    return tick_rows


@dataclass
class _Drawing:
    """The drawing as it grows lane by lane; `y`: top of the next lane."""

    axis: TimeColumns
    width: float
    y: float = HEAD_PX
    lanes: list[Lane] = field(default_factory=list)
    bars: list[Bar] = field(default_factory=list)

    def x(self, seconds: float) -> float:
        """px of a time."""
        return LEFT_PX + float(self.axis(seconds))

    def add(self, lane: LaneIn, bars: Sequence[BarIn], settings: Sequence[SettingIn]) -> None:
        """Add a lane with its bars in as many rows as they need, below its settings."""
        rows = _rows(bars)
        top = LINE_PX if settings else 4.0
        count = max((row for row, _ in rows), default=0) + 1
        height = max(top + count * ROW_PX + GAP_PX, LEAST_LANE_PX)
        levels = [SettingLine(self.x(r.way), self.x(r.start), self.y + 14.0, self.x(r.end), r.words) for r in settings]
        self.lanes.append(Lane(lane.id, lane.name, lane.note, lane.pattern, self.y, height, levels))
        for row, bar in rows:
            later = (self.x(other.start) for r, other in rows if r == row and other.start >= bar.end)
            y = self.y + top + row * ROW_PX + (ROW_PX - BAR_PX) / 2
            self.bars.append(self._bar(bar, y, min(later, default=self.width - RIGHT_PX)))
        self.y += height

    def _bar(self, bar: BarIn, y: float, next_x: float) -> Bar:
        x = self.x(bar.start)
        wide = max(self.x(bar.end) - x, LEAST_BAR_PX)
        label, label_x = _labelled(bar, x, wide, next_x - x - wide)
        return Bar(bar.key, x, y, wide, label, label_x, bar.state, bar.words)

    def plate_lines(self, plates: Sequence[float]) -> Iterator[PlateLine]:
        """Add a line for each plate-up time; times that would overlap are written in two rows."""
        before: PlateLine | None = None
        for plate in sorted(set(plates)):
            x = self.x(plate)
            meets = before is not None and x - before.x < PLATE_WORDS_PX
            row = 1 - before.row if meets and before is not None else 0
            before = PlateLine(x, plate, row, x + PLATE_WORDS_PX > self.width)
            yield before


def service_lanes(
    lanes: Sequence[LaneIn], bars: Sequence[BarIn], settings: Sequence[SettingIn], plates: Sequence[float],
    *, now: float | None = None, width: float = 1232.0, offset_s: float = 0.0,
) -> ServiceChart:  # fmt: skip
    """The drawing. Times in s since 1970; `offset_s` of the kitchen's clock from UTC, for round ticks."""
    first = min([bar.start for bar in bars] + [setting.way for setting in settings] + [min(plates) - HOUR_S])
    if now is not None and now < min(plates):
        first = min(first, now)
    axis = paces(first - 60.0, plates, width - LEFT_PX - RIGHT_PX, [bar.start for bar in bars])
    drawing = _Drawing(axis, width)
    for lane in lanes:
        own_settings = [setting for setting in settings if setting.lane == lane.id]
        drawing.add(lane, [bar for bar in bars if bar.lane == lane.id], own_settings)
    now_x = drawing.x(now) if now is not None and axis.seconds[0] <= now <= axis.seconds[-1] else None
    return ServiceChart(
        width, drawing.y, tuple(drawing.lanes), tuple(drawing.bars), tuple(_ticks(axis, offset_s, LEFT_PX)),
        tuple(LEFT_PX + x for x in axis.x[1:-1]), tuple(drawing.plate_lines(plates)), now_x, axis,
    )  # fmt: skip
