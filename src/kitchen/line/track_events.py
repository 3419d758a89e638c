"""A cook's events as the estimator takes them: steps that were done, and what was told beside them."""

from __future__ import annotations

from ember.files.track import Event
from ember.track.hands import BOARD
from ember.track.lived import set_to_c
from ember.track.steps import MOVES

from .queries import Following
from .told import told_events


def setting_c(following: Following, stage: int) -> float:
    """What a stage is set to: as it was told last, else as planned."""
    return set_to_c(following.plan.stages[stage], stage, track_events(following))


def track_events(following: Following) -> list[Event]:
    """A cook's events as the estimator takes them."""
    start = following.cook.started_at
    found: list[Event] = []
    last = len(following.plan.stages)
    for number, event in following.done.items():
        step, s = following.steps[number], max((event.at - start).total_seconds(), 0.0)
        if event.data.get("skipped"):
            continue
        if step.kind == "turn":
            found.append(Event(kind="turned", s=s))
        elif step.kind == "baste":
            found.append(Event(kind="basted", s=s))
        elif step.kind in MOVES and (step.to_place == BOARD or step.stage >= last):
            found.append(Event(kind="ended", s=s, stage=min(step.stage, last) - 1))
        elif step.kind in MOVES:
            found.append(Event(kind="started", s=s, stage=step.stage))
    for event in told_events(following.cook):
        s, what = max((event.at - start).total_seconds(), 0.0), event.data["what"]
        if what == "wait":
            continue
        c, stage = event.data.get("c"), event.data.get("stage")
        found.append(Event(kind=what, s=s, c=c, stage=stage if what == "setting" else None))
    return sorted(found, key=lambda event: event.s)
