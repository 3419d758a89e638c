"""What a cook tells of a piece beside the steps of its plan: off the heat, the door, the needle, another setting."""

from __future__ import annotations

from .models import Cook, CookEvent

# What can be told, with what a button says, and what takes it back to where it was.
WHAT = {
    "interrupted": "Off the heat", "resumed": "Back on the heat", "opened": "Door open", "closed": "Door closed",
    "probe-moved": "Probe reinserted", "setting": "Set to", "wait": "Served late",
}  # fmt: skip
PAIRS = {"interrupted": "resumed", "opened": "closed"}


def observations_of(cook: Cook) -> list[CookEvent]:
    """All that was told, in order."""
    return [event for event in cook.events.all() if event.kind == CookEvent.Kind.TOLD]


def open_ends(cook: Cook) -> set[str]:
    """What was begun and not ended: it is off the heat, its door is open."""
    open_kinds: set[str] = set()
    for event in observations_of(cook):
        what = event.data["what"]
        if what in PAIRS:
            open_kinds.add(what)
        open_kinds -= {begun for begun, ended in PAIRS.items() if ended == what}
    return open_kinds
