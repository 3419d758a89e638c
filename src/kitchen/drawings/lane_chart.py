"""A lane of the line: measurements left of now, the plan right of it, ending on its target reading."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .axis import FloatArray, Plot

LEAST_BAR_PX = 9.0
TINTS = 3


@dataclass(frozen=True)
class LaneChart:
    """Geometry in px; now is at x 0, the past is negative."""

    past: str
    future: str
    rule_y: float | None
    due_x: float
    due_beyond: bool
    bar: tuple[float, float] | None
    tints: tuple[str, ...]
    rings: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Fan:
    """A forecast: seconds from now, and °C [quantile, time] around the median."""

    t_s: FloatArray
    celsius: FloatArray


Points = list[tuple[float, float]]


@dataclass(frozen=True)
class LaneSize:
    """Size of a lane: px a minute, px left and right of now, px high."""

    px_per_min: float
    past_px: float
    future_px: float
    height: float


def lane_chart(
    past: Points, future: Points, present_c: float, rule_c: float | None, due_s: float, size: LaneSize,
    fan: Fan | None = None, span_s: tuple[float, float] | None = None, doubted: Sequence[tuple[float, float]] = (),
) -> LaneChart:  # fmt: skip
    """`past` and `future` are (seconds from now, °C). The rule is the reading the next step waits for.

    `fan` replaces the future; `span_s`: the interval in which the step may be due; `doubted`: readings that are not
    trusted.
    """
    if fan is not None:
        future = _middle_of(fan, present_c, rule_c, due_s)
    plot = _plot([present_c, *(c for _, c in past + future), *([] if rule_c is None else [rule_c])], size)
    due_x = due_s * plot.px_per_s
    is_shown = rule_c is not None and due_x <= size.future_px
    return LaneChart(
        past=plot.line((s, c) for s, c in past if s * plot.px_per_s >= plot.left_px),
        future=plot.line((s, c) for s, c in future if s * plot.px_per_s <= plot.right_px),
        rule_y=None if rule_c is None else plot.y(rule_c),
        due_x=min(max(due_x, 0.0), size.future_px),
        due_beyond=due_x > size.future_px,
        bar=_bar(plot, due_x, span_s) if is_shown else None,
        tints=() if fan is None else tuple(_tint(plot, fan, i) for i in range(TINTS)),
        rings=tuple((plot.x(s), min(max(plot.y(c), 5.0), size.height - 5.0)) for s, c in doubted if s <= 0.0),
    )


def _middle_of(fan: Fan, present_c: float, rule_c: float | None, due_s: float) -> Points:
    """The median of a forecast from now until the step is due, ending on its target reading."""
    middle = zip(fan.t_s.tolist(), fan.celsius[len(fan.celsius) // 2].tolist(), strict=True)
    end = [] if rule_c is None else [(max(due_s, 0.0), rule_c)]
    return [(0.0, present_c), *((s, c) for s, c in middle if 0.0 < s <= due_s), *end]


def _plot(values: list[float], size: LaneSize) -> Plot:
    """An axis with room for all of these; now is at x 0."""
    low, high = min(values), max(values)
    pad = max((high - low) * 0.12, 0.6)
    return Plot(size.px_per_min / 60.0, -size.past_px, size.future_px, low - pad, high + pad, size.height)


def _bar(plot: Plot, due_x: float, span_s: tuple[float, float] | None) -> tuple[float, float]:
    """The bar where the step is due, x and width: as wide as its uncertainty, but never too thin to see."""
    due_x = max(due_x, 0.0)
    begins, ends = due_x - LEAST_BAR_PX, due_x + LEAST_BAR_PX
    if span_s is not None:
        begins, ends = min(max(plot.x(span_s[0]), 0.0), begins), max(plot.x(span_s[1]), 0.0, ends)
    return max(begins, 0.0), ends - max(begins, 0.0)


def _tint(plot: Plot, fan: Fan, i: int) -> str:
    """The area between a quantile and its opposite, as far as it is drawn."""
    shown = (fan.t_s >= 0.0) & (fan.t_s * plot.px_per_s <= plot.right_px)
    return plot.area(fan.t_s[shown], fan.celsius[i][shown], fan.celsius[-1 - i][shown]) if shown.sum() > 1 else ""
