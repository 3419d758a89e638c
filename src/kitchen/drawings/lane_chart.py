"""A lane of the line: what was measured left of now, what the plan says right of it, ending on its rule."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .axis import path


@dataclass(frozen=True)
class LaneChart:
    """px; now is at x 0, the past is negative."""

    past: str
    future: str
    rule_y: float | None
    due_x: float
    due_beyond: bool
    bar: tuple[float, float] | None


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
    spread_s: float = 0.0,
) -> LaneChart:
    """`past` and `future` are (seconds from now, °C). The rule is the reading the next step waits for."""
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
    half = max(spread_s / 60 * px_per_min, 9.0)
    return LaneChart(
        past=path(np.array([x(s) for s, _ in shown_past]), np.array([y(c) for _, c in shown_past])),
        future=path(np.array([x(s) for s, _ in shown_future]), np.array([y(c) for _, c in shown_future])),
        rule_y=rule_y,
        due_x=min(max(due_x, 0.0), future_px),
        due_beyond=due_x > future_px,
        bar=None if rule_y is None or due_x > future_px else (max(due_x, 0.0) - half, 2 * half),
    )
