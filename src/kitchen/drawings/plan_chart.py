"""The plan's picture: heat strip and curves under the headings of its stages."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ember.files.result import Result
from ember.files.stages import Stage
from ember.report.curves import rounded

from .axis import Enlarged, TimeColumns, path, tick_step
from .families import family_of, pattern
from .heat_strip import HeatStrip, heat_strip, through
from .raster import hex_colour

LEAST_PX = {"air": 130.0, "water": 176.0, "pan": 158.0, "oven": 170.0, "rest": 138.0, "chill": 160.0}
STRIP_PX = 124.0
PLOT_PX = 214.0
PEAK_WORDS_PX = 72.0  # half of them


@dataclass(frozen=True)
class Tick:
    """A place on an axis with its value."""

    at: float
    value: float = 0.0
    strong: bool = False


@dataclass(frozen=True)
class Column:
    """A stage's column; `family` is how it is drawn."""

    family: str
    x: float
    width: float
    start_s: float
    end_s: float
    ticks: tuple[float, ...]
    tick_text: str
    pattern: str

    @property
    def tick_path(self) -> str:
        """The ticks, hanging from 4 px below the strip."""
        return "".join(f"M{x:.1f} 4v7" for x in self.ticks)


@dataclass(frozen=True)
class Mark:
    """A point on the plot with its temperature and time."""

    x: float
    y: float
    celsius: float
    seconds: float


@dataclass(frozen=True)
class TableRow:
    """The curves at one time, for readers of the table; `thin` and `thick` if the batch has a spread."""

    seconds: float
    core_c: float
    outside_c: float
    thin_c: float | None
    thick_c: float | None


@dataclass(frozen=True)
class PlanChart:
    """Everything the template draws; px, top left is 0 0 of each plot."""

    time: TimeColumns
    width: float
    plot_px: float
    columns: tuple[Column, ...]
    strip: HeatStrip
    core: str
    faces: tuple[tuple[str, str], ...]
    ends: tuple[tuple[str, str], ...]
    y_ticks: tuple[Tick, ...]
    inside_y: tuple[float, float]
    inside_c: tuple[float, float]
    times_taller: float
    band: tuple[float, float, float, float] | None
    band_word: str
    pull: Mark | None
    peak: Mark
    ramp: tuple[tuple[float, str], ...]
    rows: tuple[TableRow, ...] = field(default=())
    samples: dict[str, list[float]] = field(default_factory=dict)

    @property
    def grid(self) -> tuple[str, str]:
        """Lines across the plot at its ticks, thin ones and strong ones."""
        lines: tuple[list[str], list[str]] = ([], [])
        for tick in self.y_ticks:
            lines[tick.strong].append(f"M0 {tick.at:.1f}H{self.width:.1f}")
        return "".join(lines[0]), "".join(lines[1])

    @property
    def core_y(self) -> float:
        """Base line of the word at the strip's middle."""
        return self.strip.height / 2 + 5

    @property
    def plot_y(self) -> float:
        """Top of the plot: below patterns, times, the strip and its ticks."""
        return 42 + self.strip.height + 34

    @property
    def plot_end_y(self) -> float:
        """Foot of the plot."""
        return self.plot_y + self.plot_px

    @property
    def legend_y(self) -> float:
        """Base line of the legend."""
        return self.plot_end_y + 24

    @property
    def height(self) -> float:
        """The whole drawing."""
        return self.legend_y + 6

    @property
    def inside_height(self) -> float:
        """Height of the enlarged degrees."""
        return self.inside_y[1] - self.inside_y[0]

    @property
    def peak_text_x(self) -> float:
        """Over the peak, inside the plot."""
        return min(max(self.peak.x, PEAK_WORDS_PX), self.width - PEAK_WORDS_PX)

    @property
    def peak_text_y(self) -> float:
        """Just above the peak, inside the plot."""
        return max(self.peak.y - 14, 16.0)

    @property
    def pull_flag(self) -> Mark | None:
        """The pull's flag: below the curve, inside the plot. x and y are its top left corner."""
        if self.pull is None:
            return None
        x = min(max(self.pull.x, 4.0), self.width - 114.0)
        y = min(self.pull.y + 34.0, self.plot_px - 40.0)
        return Mark(x, y, self.pull.celsius, self.pull.seconds)

    @property
    def pull_stem(self) -> str:
        """The line from the pull's dot to its flag."""
        flag = self.pull_flag
        if self.pull is None or flag is None:
            return ""
        return f"M{self.pull.x:.1f} {self.pull.y:.1f}V{flag.y:.1f}"


def _pace(seconds: float) -> str:
    """A tick's length in words."""
    if seconds < 60:
        return f"{seconds:g} s a tick"
    if seconds < 3600:
        return f"{seconds / 60:g} min a tick"
    return f"{seconds / 3600:g} h a tick"


def _columns(result: Result, kinds: list[str], axis: TimeColumns) -> tuple[Column, ...]:
    columns = []
    for i, run in enumerate(result.stages):
        duration = run.end_s - run.start_s
        width = axis.x[i + 1] - axis.x[i]
        step = tick_step(duration, max(int(width / 18), 2))
        ticks = tuple(float(axis(run.start_s + k * step)) for k in range(int(duration / step) + 1))
        columns.append(
            Column(
                family_of(kinds[i]),
                axis.x[i],
                width,
                run.start_s,
                run.end_s,
                ticks,
                _pace(step),
                pattern(kinds[i], width),
            )
        )
    return tuple(columns)


def _temperature_axis(result: Result) -> Enlarged:
    word = result.doneness
    low_target = word.target_low_c if word.target_low_c is not None else word.low_c
    high_target = word.target_high_c if word.target_high_c is not None else word.high_c
    high_target = min(high_target, low_target + 10.0)
    points = [low_target, high_target, min(max(result.core.peak_c, low_target - 8), high_target + 8)]
    if result.pull is not None and abs(result.pull.reading_c - low_target) < 14:
        points.append(result.pull.reading_c)
    low = 2 * np.floor((min(points) - 2) / 2)
    high = 2 * np.ceil((max(points) + 2) / 2)
    curve = result.curves
    floor = min(0.0, min(curve.core_c), low - 10)
    hottest = float(result.depth_map.arrays[2].max()) if result.depth_map else 100.0
    top = max(100.0, high + 20, hottest)
    return Enlarged(float(floor), float(low), float(high), float(10 * np.ceil(top / 10)), PLOT_PX)


def _y_ticks(axis: Enlarged) -> tuple[Tick, ...]:
    step = 2 if axis.high_c - axis.low_c <= 16 else 5
    values = list(np.arange(axis.low_c, axis.high_c + 0.1, step))
    middle_below = 5 * round((axis.floor_c + axis.low_c) / 2 / 5)
    outside = [axis.floor_c, middle_below, 10 * round((axis.high_c + axis.top_c) / 2 / 10), axis.top_c]
    ticks = [Tick(float(axis(v)), float(v), strong=True) for v in values]
    ticks += [Tick(float(axis(v)), float(v)) for v in outside if not axis.low_c <= v <= axis.high_c]
    return tuple(ticks)


def _band(result: Result, y: Enlarged) -> tuple[float, float, float, float] | None:
    word = result.doneness
    if word.target_low_c is None or word.target_high_c is None:
        return None
    high, low = float(y(word.target_high_c)), float(y(word.target_low_c))
    return high, low - high, word.target_low_c, word.target_high_c


def _samples(result: Result, time: TimeColumns, y: Enlarged) -> dict[str, list[float]]:
    """The cursor's data: times, places in px, core, outside and probe reading."""
    curve = result.curves
    return {
        "t": rounded(np.array(curve.t_s), 1),
        "x": rounded(time(np.array(curve.t_s)), 1),
        "y": rounded(y(np.array(curve.core_c)), 1),
        "core": rounded(np.array(curve.core_c), 2),
        "outside": rounded(np.array(curve.surface_c), 2),
        "reading": rounded(np.array(curve.reading_c), 2),
    }


def _rows(result: Result) -> tuple[TableRow, ...]:
    curve, thin, thick = result.curves, result.thin, result.thick
    picked = np.linspace(0, len(curve.t_s) - 1, min(25, len(curve.t_s))).astype(int)
    return tuple(
        TableRow(
            curve.t_s[i], curve.core_c[i], curve.surface_c[i],
            thin.curve_c[i] if thin else None, thick.curve_c[i] if thick else None,
        )
        for i in picked
    )  # fmt: skip


def time_columns(result: Result, stages: Sequence[Stage], width_px: float) -> TimeColumns:
    """The plan's time axis: a column a stage, at least as wide as its heading."""
    durations = [run.end_s - run.start_s for run in result.stages]
    return TimeColumns.of(durations, [LEAST_PX[family_of(stage.kind)] for stage in stages], width_px)


def plan_chart(result: Result, stages: Sequence[Stage], width_px: float) -> PlanChart:
    """Draw a result with its depth map; the chart is at least `width_px` wide."""
    time = time_columns(result, stages, width_px)
    y = _temperature_axis(result)
    t, _, T = through(result)
    curve = result.curves
    ct, core = np.array(curve.t_s), np.array(curve.core_c)
    faces = [("under", path(time(t), y(T[:, 0]))), ("top", path(time(t), y(T[:, -1])))]
    if result.stages[0].faces_c is None:
        faces = [("outside", faces[1][1])]
    ends = [(name, end) for name, end in (("thin", result.thin), ("thick", result.thick)) if end is not None]
    band = _band(result, y)
    level = None
    if band is not None:
        level = band[2] if band[3] > 90 else 0.5 * (band[2] + band[3])  # the last word has no upper end
    pull = None
    if result.pull is not None:
        at = float(time(result.pull.s))
        pull = Mark(at, float(y(result.pull.reading_c)), result.pull.reading_c, result.pull.s)
    peak_s = result.core.peak_s
    return PlanChart(
        time=time,
        width=time.width,
        plot_px=PLOT_PX,
        columns=_columns(result, [stage.kind for stage in stages], time),
        strip=heat_strip(result, stages, time, STRIP_PX, level),
        core=path(time(ct), y(core)),
        faces=tuple(faces),
        ends=tuple((name, path(time(ct), y(np.array(end.curve_c)))) for name, end in ends),
        y_ticks=_y_ticks(y),
        inside_y=(float(y(y.high_c)), float(y(y.low_c))),
        inside_c=(y.low_c, y.high_c),
        times_taller=y.times_taller,
        band=band,
        band_word=result.doneness.target or result.doneness.word,
        pull=pull,
        peak=Mark(float(time(peak_s)), float(y(result.core.peak_c)), result.core.peak_c, peak_s),
        ramp=tuple(
            (float(y(c)) / PLOT_PX * 100, hex_colour(c))
            for c in sorted({y.top_c, y.high_c, y.low_c, y.floor_c, 64.0, 55.0, 49.0, 38.0, 20.0, 80.0}, reverse=True)
        ),
        samples=_samples(result, time, y),
        rows=_rows(result),
    )
