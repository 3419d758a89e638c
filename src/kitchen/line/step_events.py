"""What was done of a cook's steps, by its events."""

from __future__ import annotations

from .models import Cook, CookEvent


def done_steps(cook: Cook) -> dict[int, CookEvent]:
    """The event that did each step, after what was undone."""
    done: dict[int, CookEvent] = {}
    for event in cook.events.all():
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
