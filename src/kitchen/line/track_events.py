"""A cook's events in the form of the estimator: steps done, and observations besides."""

from __future__ import annotations

import numpy as np

from ember.files.track import Event
from ember.track.full_steps import BOARD
from ember.track.rounds import round_of
from ember.track.steps import MOVES
from ember.track.thermal_history import set_to_c

from .cook_steps import CookSteps
from .models import CookEvent
from .observations import observations_of


def setting_c(so_far: CookSteps, stage: int) -> float:
    """A stage's setting as last changed, else as planned."""
    return set_to_c(so_far.plan.stages[stage], stage, track_events(so_far))


def track_events(so_far: CookSteps) -> list[Event]:
    """A cook's events in the form of the estimator."""
    start = so_far.cook.started_at
    events: list[Event] = []
    last = len(so_far.plan.stages)
    for number, event in so_far.done.items():
        if event.data.get("round"):
            if number == event.step:
                events += _turned(so_far, event)
            continue
        step, s = so_far.steps[number], max((event.at - start).total_seconds(), 0.0)
        if event.data.get("skipped"):
            continue
        if step.kind == "turn":
            events.append(Event(kind="turned", s=s))
        elif step.kind == "baste":
            events.append(Event(kind="basted", s=s))
        elif step.kind in MOVES and (step.to_place == BOARD or step.stage >= last):
            events.append(Event(kind="ended", s=s, stage=min(step.stage, last) - 1))
        elif step.kind in MOVES:
            events.append(Event(kind="started", s=s, stage=step.stage))
    for event in observations_of(so_far.cook):
        s, what = max((event.at - start).total_seconds(), 0.0), event.data["what"]
        if what == "wait":
            continue
        c, stage = event.data.get("c"), event.data.get("stage")
        events.append(Event(kind=what, s=s, c=c, stage=stage if what == "setting" else None))
    return sorted(events, key=lambda event: event.s)


def _turned(so_far: CookSteps, event: CookEvent) -> list[Event]:
    """The turns of a round reported at its end: at their times; if some were missed, spread evenly."""
    again = round_of(so_far.steps, event.step or 0)
    missed = int(event.data.get("missed", 0))
    if again is None or again.kind != "turn" or not missed:
        return []  # turned each time: at the stage's own pace, which needs no telling
    end_s = _done_s(so_far, event)
    if missed >= again.count:
        return [Event(kind="turned", s=end_s)]  # it lay on one side to the end
    stage = so_far.steps[again.first].stage
    into = next(step for step in so_far.steps if step.kind in MOVES and step.stage == stage)
    into_event = so_far.done.get(into.number)
    late_s = 0.0 if into_event is None else _done_s(so_far, into_event) - into.at_s
    turns_done = np.linspace(0, again.count - 1, again.count - missed).round().astype(int)
    return [Event(kind="turned", s=min(max(again.times_s[i] + late_s, 0.0), end_s)) for i in turns_done]


def _done_s(so_far: CookSteps, event: CookEvent) -> float:
    return float((event.at - so_far.cook.started_at).total_seconds())
