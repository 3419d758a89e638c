"""A cook's events in words."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from ember.track.rounds import round_of

from .cook_status import CookStatus
from .models import CookEvent
from .words import OBSERVATIONS, PIECE_EVENTS, ROUND_DONE


@dataclass(frozen=True)
class Told:
    """One event in words."""

    at: dt.datetime
    words: str
    by: str


def events_of(status: CookStatus) -> list[Told]:
    """All events of a cook, the newest first."""
    events = sorted(status.cook.history, key=lambda event: event.pk, reverse=True)
    return [Told(event.at, _words(status, event), str(event.by)) for event in events]


def _words(status: CookStatus, event: CookEvent) -> str:
    steps = status.steps
    verb = steps[event.step].verb if event.step is not None and event.step < len(steps) else ""
    match event.kind:
        case CookEvent.Kind.STARTED:
            return _started_words(verb)
        case CookEvent.Kind.DONE if event.data.get("round"):
            return _round_words(status, event)
        case CookEvent.Kind.DONE:
            return f"{verb} skipped" if event.data.get("skipped") else verb
        case CookEvent.Kind.UNDONE:
            return f"{verb} undone"
        case CookEvent.Kind.LATE:
            return f"{verb} postponed by {event.data['minutes']:g} min"
        case CookEvent.Kind.PLACED:
            return "To " + ", ".join(item["name"] for item in event.data["kit"].values())
        case CookEvent.Kind.PIECE:
            return f"Piece {event.data['piece']} {PIECE_EVENTS[event.data['did']]}"
        case CookEvent.Kind.TOLD:
            return _observation_words(event)
        case CookEvent.Kind.CHECKED:
            return "Checked"
        case CookEvent.Kind.CORRECTED | CookEvent.Kind.STOPPED:
            return f"{event.get_kind_display().capitalize()}: {event.data.get('note', '')}"
        case _:
            return str(event.get_kind_display()).capitalize()


def _started_words(verb: str) -> str:
    return f"Started: {verb.lower()}" if verb else "Sent to the line"


def _observation_words(event: CookEvent) -> str:
    c = event.data.get("c")
    return OBSERVATIONS[event.data["what"]] + (f" {c:g} °C" if c is not None else "")


def _round_words(status: CookStatus, event: CookEvent) -> str:
    """ "Turned each time, 32", "Basted, 2 of 6 missed"."""
    again = round_of(status.steps, event.step or 0)
    if again is None:
        return ""
    did, missed = ROUND_DONE[again.kind], event.data.get("missed", 0)
    return f"{did}, {missed} of {again.count} missed" if missed else f"{did} each time, {again.count}"
