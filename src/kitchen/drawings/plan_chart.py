"""The plan's picture: heat strip and curves under the heads of its stages."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ember.files.result import Result

from .axis import Enlarged, FloatArray, TimeColumns, path, tick_step
from .families import family_of, pattern
from .png import data_uri
from .ramp import hex_colour, rgb

LEAST_PX = {"air": 130.0, "water": 176.0, "pan": 158.0, "oven": 170.0, "rest": 138.0, "chill": 160.0}
STRIP_PX = 128.0
PLOT_PX = 236.0
STRIP_ROWS = 60
ISOTHERMS_C = (20.0, 40.0)
LABEL_PX = 28.0
FLAT_K = 0.1  # where the middle is so near to a level, its contour would wander
FRAGMENT_PX = 16.0  # what is shorter says nothing
JUMP_PX = 18.0  # a contour does not move further than this from one column to the next


@dataclass(frozen=True)
class Tick:
    """A place on an axis with its value; `text` is only set for times."""

    at: float
    value: float = 0.0
    text: str = ""
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


@dataclass(frozen=True)
class Mark:
    """A point on the plot with its temperature and time."""

    x: float
    y: float
    celsius: float
    seconds: float


@dataclass(frozen=True)
class PlanChart:
    """Everything the template draws; px, top left is 0 0 of each plot."""

    width: float
    strip_px: float
    plot_px: float
    columns: tuple[Column, ...]
    strip: str
    isotherms: tuple[tuple[float, str], ...]
    isotherm_labels: tuple[tuple[float, float, float], ...]
    target_lines: tuple[str, ...]
    core: str
    faces: tuple[tuple[str, str], ...]
    y_ticks: tuple[Tick, ...]
    inside_y: tuple[float, float]
    inside_c: tuple[float, float]
    times_taller: float
    band: tuple[float, float, float, float] | None
    band_word: str
    pull: Mark | None
    peak: Mark
    ramp: tuple[tuple[float, str], ...]
    rows: tuple[tuple[float, float, float], ...] = field(default=())
    samples: dict[str, list[float]] = field(default_factory=dict)

    @property
    def core_y(self) -> float:
        """Where the strip's middle is named."""
        return self.strip_px / 2 + 5

    @property
    def plot_y(self) -> float:
        """Top of the plot: under signs, times, strip and its ticks."""
        return 42 + self.strip_px + 34

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
    def peak_text_y(self) -> float:
        """Just above the peak, inside the plot."""
        return max(self.peak.y - 14, 16.0)

    @property
    def pull_flag(self) -> Mark | None:
        """Where the pull's flag hangs: below the curve, kept inside the plot. x and y are its top left corner."""
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
    found = []
    for i, run in enumerate(result.stages):
        duration = run.end_s - run.start_s
        width = axis.x[i + 1] - axis.x[i]
        step = tick_step(duration, max(int(width / 18), 2))
        ticks = tuple(float(axis(run.start_s + k * step)) for k in range(int(duration / step) + 1))
        found.append(
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
    return tuple(found)


def _through(result: Result) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Times, positions from under side (0) to top (1), and temperatures [time, position]; round bodies mirrored."""
    found = result.depth_map
    if found is None:
        raise ValueError("the plan chart needs the result's depth map")
    t, x, T = np.array(found.t_s), np.array(found.depth_m), np.array(found.temperature_c)
    if result.stages[0].faces_c is None:
        x = np.concatenate([-x[:0:-1], x])
        T = np.concatenate([T[:, :0:-1], T], axis=1)
    return t, (x - x[0]) / (x[-1] - x[0]), T


def _crossings(x: FloatArray, T: FloatArray, level: float) -> tuple[FloatArray, FloatArray]:
    """Where each row passes a level below and above its middle, going outwards; not a number where it does not."""
    middle = len(x) // 2
    flat = np.abs(T[:, middle] - level) <= FLAT_K
    found = []
    for order in (np.arange(middle, -1, -1), np.arange(middle, len(x))):
        d, at = T[:, order] - level, x[order]
        passes = (d[:, :-1] < 0) != (d[:, 1:] < 0)
        i = np.argmax(passes, axis=1)
        rows = np.arange(len(T))
        a, b = d[rows, i], d[rows, i + 1]
        none = flat | ~passes[rows, i]
        share = a / np.where(none, 1.0, a - b)
        found.append(np.where(none, np.nan, at[i] + share * (at[i + 1] - at[i])))
    return found[0], found[1]


def _contour(px: FloatArray, x: FloatArray, T: FloatArray, level: float) -> list[str]:
    """Paths of a level through the strip: one below the middle, one above, broken where there is none."""
    paths = []
    for places in _crossings(x, T, level):
        run: list[tuple[float, float]] = []
        for at, y in zip(px.tolist(), ((1.0 - places) * STRIP_PX).tolist(), strict=True):
            gone = y != y  # not a number
            if run and (gone or abs(y - run[-1][1]) > JUMP_PX):  # gone, or another place took over
                paths.append(run)
                run = []
            if not gone:
                run.append((at, y))
        paths.append(run)
    return [
        path(np.array([p[0] for p in r]), np.array([p[1] for p in r]))
        for r in paths
        if len(r) > 1 and r[-1][0] - r[0][0] > FRAGMENT_PX
    ]


def _tip(px: FloatArray, rows: FloatArray, level: float) -> tuple[float, float, float] | None:
    """Where the middle passes a level, for its label: px, px, °C. None where it never does, or too near an edge."""
    middle = rows[:, rows.shape[1] // 2]
    i = int(np.argmax(middle >= level))
    if middle[0] >= level or middle[i] < level or not 20 < px[i] < px[-1] - 20:
        return None
    return float(px[i]), STRIP_PX / 2, level


def _apart(labels: list[tuple[float, float, float] | None]) -> tuple[tuple[float, float, float], ...]:
    """Labels that do not lie on one another; of two the first."""
    kept: list[tuple[float, float, float]] = []
    for label in labels:
        if label is not None and all(abs(label[0] - other[0]) > LABEL_PX for other in kept):
            kept.append(label)
    return tuple(kept)


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
    hottest = max(max(row) for row in result.depth_map.temperature_c) if result.depth_map else 100.0
    top = max(100.0, high + 20, hottest)
    return Enlarged(float(floor), float(low), float(high), float(10 * np.ceil(top / 10)), PLOT_PX)


def _y_ticks(axis: Enlarged) -> tuple[Tick, ...]:
    step = 2 if axis.high_c - axis.low_c <= 16 else 5
    values = list(np.arange(axis.low_c, axis.high_c + 0.1, step))
    middle_below = 5 * round((axis.floor_c + axis.low_c) / 2 / 5)
    outside = [axis.floor_c, middle_below, 10 * round((axis.high_c + axis.top_c) / 2 / 10), axis.top_c]
    found = [Tick(float(axis(v)), float(v), strong=True) for v in values]
    found += [Tick(float(axis(v)), float(v)) for v in outside if not axis.low_c <= v <= axis.high_c]
    return tuple(found)


def plan_chart(result: Result, kinds: list[str], width_px: float) -> PlanChart:
    """Draw a result that has its depth map. `kinds` are the stages' kinds; the chart is at least `width_px` wide."""
    durations = [run.end_s - run.start_s for run in result.stages]
    time = TimeColumns.of(durations, [LEAST_PX[family_of(kind)] for kind in kinds], width_px)
    y = _temperature_axis(result)
    t, x, T = _through(result)
    px = np.arange(1.0, time.width, 3.0)
    rows = np.array([np.interp(time.time(px), t, T[:, j]) for j in range(T.shape[1])]).T
    places = (np.arange(STRIP_ROWS) + 0.5) / STRIP_ROWS
    pixels = rgb(np.array([np.interp(places[::-1], x, row) for row in rows]).T)
    curve = result.curves
    ct, core = np.array(curve.t_s), np.array(curve.core_c)
    faces = [("under", path(time(t), y(T[:, 0]))), ("top", path(time(t), y(T[:, -1])))]
    if result.stages[0].faces_c is None:
        faces = [("outside", faces[1][1])]
    word = result.doneness
    band = None
    if word.target_low_c is not None and word.target_high_c is not None:
        high, low = float(y(word.target_high_c)), float(y(word.target_low_c))
        band = (high, low - high, word.target_low_c, word.target_high_c)
    level = None
    if band is not None:
        level = band[2] if band[3] > 90 else 0.5 * (band[2] + band[3])  # the last word has no upper end
    pull = None
    if result.pull is not None:
        at = float(time(result.pull.s))
        pull = Mark(at, float(y(result.pull.reading_c)), result.pull.reading_c, result.pull.s)
    peak_s = result.core.peak_s
    table = np.linspace(0, len(ct) - 1, min(25, len(ct))).astype(int)
    return PlanChart(
        width=time.width,
        strip_px=STRIP_PX,
        plot_px=PLOT_PX,
        columns=_columns(result, kinds, time),
        strip=data_uri(pixels),
        isotherms=tuple((level_c, p) for level_c in ISOTHERMS_C for p in _contour(px, x, rows, level_c)),
        isotherm_labels=_apart([_tip(px, rows, level_c) for level_c in ISOTHERMS_C]),
        target_lines=tuple(_contour(px, x, rows, level)) if level is not None else (),
        core=path(time(ct), y(core)),
        faces=tuple(faces),
        y_ticks=_y_ticks(y),
        inside_y=(float(y(y.high_c)), float(y(y.low_c))),
        inside_c=(y.low_c, y.high_c),
        times_taller=y.times_taller,
        band=band,
        band_word=word.target or word.word,
        pull=pull,
        peak=Mark(float(time(peak_s)), float(y(result.core.peak_c)), result.core.peak_c, peak_s),
        ramp=tuple(
            (float(y(c)) / PLOT_PX * 100, hex_colour(c))
            for c in sorted({y.top_c, y.high_c, y.low_c, y.floor_c, 64.0, 55.0, 49.0, 38.0, 20.0, 80.0}, reverse=True)
        ),
        samples={
            "t": [round(float(v), 1) for v in ct],
            "x": [round(float(v), 1) for v in time(ct)],
            "core": [round(float(v), 2) for v in core],
            "outside": [round(float(v), 2) for v in curve.surface_c],
        },
        rows=tuple((float(ct[i]), float(core[i]), float(curve.surface_c[i])) for i in table),
    )
