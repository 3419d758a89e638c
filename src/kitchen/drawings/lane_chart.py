"""A lane of the line: what was measured left of now, what the plan says right of it, ending on its rule."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from .axis import FloatArray, path

LEAST_BAR_PX = 9.0
TINTS = 3


@dataclass(frozen=True)
class LaneChart:
    """px; now is at x 0, the past is negative."""

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
    """A forecast: seconds from now, and °C [quantile, time] about its middle one."""

    t_s: FloatArray
    celsius: FloatArray


def lane_chart(
    past: list[tuple[float, float]],
    future: list[tuple[float, float]],
    present_c: float,
    rule_c: float | None,
    due_s: float,
    px_per_min: float,
    past_px: float,
    future_px: float,
    height: float,
    fan: Fan | None = None,
    span_s: tuple[float, float] | None = None,
    doubted: Sequence[tuple[float, float]] = (),
) -> LaneChart:
    """`past` and `future` are (seconds from now, °C). The rule is the reading the next step waits for.

    `fan` takes the place of the future; `span_s`: from when to when the step may be due; `doubted`: readings that are
    not believed.
    """
    if fan is not None:
        future = list(zip(fan.t_s.tolist(), fan.celsius[len(fan.celsius) // 2].tolist(), strict=True))
        future = [(0.0, present_c), *((s, c) for s, c in future if 0.0 < s <= due_s)]
        if rule_c is not None:
            future.append((max(due_s, 0.0), rule_c))
    values = [present_c, *(c for _, c in past), *(c for _, c in future)]
    if rule_c is not None:
        values.append(rule_c)
    low, high = min(values), max(values)
    pad = max((high - low) * 0.12, 0.6)
    low, high = low - pad, high + pad

    def y(celsius: float) -> float:
        return height * (high - celsius) / (high - low)

    def x(seconds: float) -> float:
        return float(np.clip(seconds / 60 * px_per_min, -past_px, future_px))

    shown_past = [(s, c) for s, c in past if s / 60 * px_per_min >= -past_px]
    shown_future = [(s, c) for s, c in future if s / 60 * px_per_min <= future_px]
    due_x = due_s / 60 * px_per_min
    rule_y = None if rule_c is None else y(rule_c)
    due_at = max(due_x, 0.0)
    bar = (due_at - LEAST_BAR_PX, due_at + LEAST_BAR_PX)
    if span_s is not None:
        early, late = (float(np.clip(s / 60 * px_per_min, 0.0, future_px)) for s in span_s)
        bar = (min(early, bar[0]), max(late, bar[1]))
    return LaneChart(
        past=path(np.array([x(s) for s, _ in shown_past]), np.array([y(c) for _, c in shown_past])),
        future=path(np.array([x(s) for s, _ in shown_future]), np.array([y(c) for _, c in shown_future])),
        rule_y=rule_y,
        due_x=min(max(due_x, 0.0), future_px),
        due_beyond=due_x > future_px,
        bar=None if rule_y is None or due_x > future_px else (max(bar[0], 0.0), bar[1] - max(bar[0], 0.0)),
        tints=() if fan is None else tuple(_tint(fan, i, x, y, future_px, px_per_min) for i in range(TINTS)),
        rings=tuple((x(s), float(np.clip(y(c), 5.0, height - 5.0))) for s, c in doubted if s <= 0.0),
    )


def _tint(
    fan: Fan, i: int, x: Callable[[float], float], y: Callable[[float], float], future_px: float, px_per_min: float
) -> str:
    """The area between a quantile and its opposite, as far as it is drawn."""
    keep = (fan.t_s >= 0.0) & (fan.t_s / 60 * px_per_min <= future_px)
    t, low, high = fan.t_s[keep], fan.celsius[i][keep], fan.celsius[-1 - i][keep]
    if len(t) < 2:
        return ""
    px = [x(s) for s in t]
    there = list(zip(px, [y(c) for c in high], strict=True))
    back = list(zip(px, [y(c) for c in low], strict=True))[::-1]
    return "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in there + back) + "Z"
