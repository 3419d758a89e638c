"""The time intervals a piece spent in each stage of its plan, from the reported events."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..files.plan import Plan
from ..files.track import Event

OFF_HEAT = -1
SHORTEST_GAP_S = 20.0  # what lies between two stages for less was carried over


@dataclass(frozen=True)
class StageInterval:
    """A time in one stage (or between stages: OFF_HEAT), s from the start; `ended` unless it continues."""

    stage: int
    from_s: float
    to_s: float
    ended: bool


def stage_intervals(
    plan: Plan, planned_s: Sequence[float], events: Sequence[Event], now_s: float, as_told: bool = False
) -> list[StageInterval]:
    """All stage intervals up to now, in order of time.

    `planned_s`: planned duration of each stage. A stage of fixed time ends on time, unless reported otherwise or
    everything is (`as_told`); one that waits for a temperature, and the pull stage, only when reported.
    """
    starts, ends = _told(plan, events, now_s)
    intervals: list[StageInterval] = []
    begin = starts.get(0, 0.0)
    for i, stage in enumerate(plan.stages):
        later = min((s for j, s in starts.items() if j > i), default=None)
        end = ends.get(i, starts.get(i + 1))
        if end is None:
            goes_on = as_told or stage.until is not None or i == plan.pull_stage
            end = _planned_end(begin + planned_s[i], later, goes_on)
        if end is None or end > now_s:
            intervals.append(StageInterval(i, begin, now_s, False))
            break
        end = max(end, begin)
        intervals.append(StageInterval(i, begin, end, True))
        if as_told and i in ends and later is None:  # on the board: it goes on when that is told
            intervals.append(StageInterval(OFF_HEAT, end, now_s, True))
            break
        begin = max(starts.get(i + 1, end), end)
        if begin - end >= SHORTEST_GAP_S:
            intervals.append(StageInterval(OFF_HEAT, end, begin, True))
    return intervals


def _planned_end(planned_s: float, later_s: float | None, goes_on: bool) -> float | None:
    """End of a stage that nobody reported, s: before a later one began, else as planned; None if it goes on."""
    if later_s is not None:
        return min(planned_s, later_s)
    return None if goes_on else planned_s


def _told(plan: Plan, events: Sequence[Event], now_s: float) -> tuple[dict[int, float], dict[int, float]]:
    """Reported starts and ends of stages."""
    starts: dict[int, float] = {}
    ends: dict[int, float] = {}
    current = 0
    for event in sorted(events, key=lambda e: e.s):
        if event.s > now_s:
            continue
        if event.kind == "started":
            current = event.stage if event.stage is not None else (max(starts) + 1 if starts else 0)
            starts[current] = event.s
        elif event.kind == "ended":
            ends[event.stage if event.stage is not None else current] = event.s
        elif event.kind == "pulled" and plan.pull_stage is not None:
            ends.setdefault(plan.pull_stage, event.s)
    return starts, ends


def spans(events: Sequence[Event], opening: str, closing: str, now_s: float) -> list[tuple[float, float]]:
    """Times between an opening event and its closing one; the last may continue until now."""
    spans: list[tuple[float, float]] = []
    since: float | None = None
    for event in sorted(events, key=lambda e: e.s):
        if event.s > now_s:
            break
        if event.kind == opening and since is None:
            since = event.s
        elif event.kind == closing and since is not None:
            spans.append((since, event.s))
            since = None
    if since is not None:
        spans.append((since, now_s))
    return spans
