"""Observations of a cook from its events: steps done, and what was reported besides."""

from __future__ import annotations

from .models import Cook, CookEvent

PAIRS = {"interrupted": "resumed", "opened": "closed"}


def observations_of(cook: Cook) -> list[CookEvent]:
    """All observations in order."""
    return [event for event in cook.history if event.kind == CookEvent.Kind.TOLD]


def open_ends(cook: Cook) -> set[str]:
    """Observations that have begun and not ended: off the heat, door open."""
    open_kinds: set[str] = set()
    for event in observations_of(cook):
        what = event.data["what"]
        if what in PAIRS:
            open_kinds.add(what)
        open_kinds -= {begun for begun, ended in PAIRS.items() if ended == what}
    return open_kinds


def done_steps(cook: Cook) -> dict[int, CookEvent]:
    """The event that did each step, after undos."""
    done: dict[int, CookEvent] = {}
    for event in cook.history:
        if event.step is None:
            continue
        if event.kind in (CookEvent.Kind.STARTED, CookEvent.Kind.DONE):
            first, last = event.data.get("round", (event.step, event.step))
            for number in range(first, last + 1):
                done.setdefault(number, event)
        elif event.kind == CookEvent.Kind.UNDONE and event.step in done:
            taken_back = done[event.step]
            done = {number: each for number, each in done.items() if each is not taken_back}
    return done
