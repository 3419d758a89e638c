"""What a cook tells of a piece beside the steps of its plan: off the heat, the door, the needle, another setting."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ember.files.track import Event
from ember.track.hands import BOARD
from ember.track.lived import set_to_c
from ember.track.steps import MOVES

from .models import Cook, CookEvent

if TYPE_CHECKING:
    from .queries import Following

# What can be told, with what a button says, and what takes it back to where it was.
WHAT = {
    "interrupted": "Off the heat", "resumed": "Back on the heat", "opened": "Door open", "closed": "Door shut",
    "probe-moved": "Needle put in anew", "setting": "Set to", "wait": "Served late",
}  # fmt: skip
PAIRS = {"interrupted": "resumed", "opened": "closed"}


def told_events(cook: Cook) -> list[CookEvent]:
    """All that was told, in order."""
    return [event for event in cook.events.all() if event.kind == CookEvent.Kind.TOLD]


def open_ends(cook: Cook) -> set[str]:
    """What was begun and not ended: it is off the heat, its door is open."""
    found: set[str] = set()
    for event in told_events(cook):
        what = event.data["what"]
        if what in PAIRS:
            found.add(what)
        found -= {begun for begun, ended in PAIRS.items() if ended == what}
    return found


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
