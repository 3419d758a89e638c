"""Every write to running cooks, in a transaction, with who and when."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Collection, Sequence
from typing import Any

from django.db import transaction

from ember.track.steps import Step, next_step, steps_aside
from kitchen.accounts.models import Person
from kitchen.kit.models import Equipment

from .models import Cook, CookEvent
from .places import told
from .queries import done_steps
from .tasks import soon
from .told import PAIRS, WHAT, open_ends


class LineError(Exception):
    """Something that cannot be done to a cook now, in words for the cook."""


def unused(token: uuid.UUID | None) -> uuid.UUID:
    """The token, or a new one where something else has it already."""
    if token is None or CookEvent.objects.filter(token=token).exists():
        return uuid.uuid4()
    return token


def lock(cook: Cook) -> Cook:
    """The cook, held until the transaction is over."""
    return Cook.objects.select_for_update().get(pk=cook.pk)


def must_run(cook: Cook) -> None:
    """Raises LineError for a cook that is over."""
    if cook.finished_at is not None:
        raise LineError("This cook is finished.")


def _waiting(steps: Sequence[Step], done: Collection[int]) -> set[int]:
    """Numbers of the steps that may be done now."""
    following = next_step(steps, done)
    return {step.number for step in steps_aside(steps, done)} | ({following.number} if following else set())


@transaction.atomic
def do_step(
    cook: Cook, person: Person, step: int, token: uuid.UUID, steps: Sequence[Step], skipped: bool = False
) -> CookEvent:
    """Say that a step was done, or left out. Once for a token, and once for a step however many people say it.

    Raises LineError for a step that does not exist or that comes later than the next one.
    """
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    done = done_steps(cook)
    if step in done:
        return done[step]
    must_run(cook)
    if step not in _waiting(steps, done):
        raise LineError("That step is not next; the screen was behind. Look again.")
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.DONE, step=step, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"skipped": True} if skipped else {},
    )  # fmt: skip


@transaction.atomic
def put_off(
    cook: Cook, person: Person, step: int, minutes: float, token: uuid.UUID, steps: Sequence[Step]
) -> CookEvent | None:
    """A step that waits comes later than planned. Once for a token; nothing for a step that does not wait."""
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    must_run(cook)
    if step not in _waiting(steps, done_steps(cook)):
        return None
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.LATE, step=step, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"minutes": minutes},
    )  # fmt: skip


@transaction.atomic
def place(cook: Cook, person: Person, stage: int, equipment: Equipment) -> CookEvent:
    """A stage happens on another piece of equipment."""
    cook = lock(cook)
    must_run(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PLACED, at=cook.kitchen.now(), by=person,
        data={"kit": {str(stage): told(equipment)}},
    )  # fmt: skip


@transaction.atomic
def tell(
    cook: Cook, person: Person, what: str, token: uuid.UUID, stage: int, celsius: float | None = None,
    late_s: float | None = None,
) -> CookEvent | None:  # fmt: skip
    """Something happened beside the plan's steps (told.WHAT). Once for a token; nothing where it holds already.

    Raises LineError for what cannot be told of this cook.
    """
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    must_run(cook)
    if what not in WHAT or (what == "setting") != (celsius is not None):
        raise LineError("That cannot be told of this cook.")
    begun = {ended: begun for begun, ended in PAIRS.items()}
    holds = open_ends(cook)
    if what in holds or (what in begun and begun[what] not in holds):
        return None
    data: dict[str, Any] = {"what": what, "stage": stage} | ({"c": celsius} if celsius is not None else {})
    if late_s is not None:
        data["late_s"] = late_s
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.TOLD, at=cook.kitchen.now(), by=person, token=unused(token), data=data
    )


PIECE_DID = ("lay", "turn", "lift", "undo")


@transaction.atomic
def do_piece(cook: Cook, person: Person, stage: int, piece: int, did: str, token: uuid.UUID) -> CookEvent:
    """A piece in a pan was laid, turned or lifted; "undo" takes back the last of these of that piece. Once for a token.

    Raises LineError for a piece that is not there.
    """
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    must_run(cook)
    if did not in PIECE_DID or not 1 <= piece <= cook.pieces or not 0 <= stage < len(cook.document["stages"]):
        raise LineError("There is no such piece in this pan.")
    _must_follow(cook, stage, piece, did)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PIECE, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"stage": stage, "piece": piece, "did": did},
    )  # fmt: skip


def piece_events(cook: Cook, stage: int, pieces: Collection[int]) -> list[CookEvent]:
    """What was done to these pieces in a stage, in order, without what was taken back."""
    found: list[CookEvent] = []
    for event in cook.events.all():
        if event.kind != CookEvent.Kind.PIECE or event.data["stage"] != stage or event.data["piece"] not in pieces:
            continue
        if event.data["did"] != "undo":
            found.append(event)
            continue
        last = max((i for i, e in enumerate(found) if e.data["piece"] == event.data["piece"]), default=None)
        if last is not None:
            del found[last]
    return found


def _must_follow(cook: Cook, stage: int, piece: int, did: str) -> None:
    """A piece is laid once, turned while it is down, lifted once; only what was done is undone. Raises LineError."""
    done = [event.data["did"] for event in piece_events(cook, stage, [piece])]
    if did == "undo":
        if not done:
            raise LineError("There is nothing to take back.")
        return
    if "lift" in done:
        raise LineError(f"Piece {piece} is out already.")
    if did == "lay" and done:
        raise LineError(f"Piece {piece} is down already; the screen was behind. Look again.")
    if did != "lay" and not done:
        raise LineError(f"Piece {piece} is not in the pan yet.")


@transaction.atomic
def undo_step(cook: Cook, person: Person, token: uuid.UUID) -> CookEvent | None:
    """Take back the last step that was done; the start itself cannot be taken back."""
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    must_run(cook)
    first = 0 if cook.goes_by_steps else 1  # a plan's first step is its start
    done = [(event.pk, number) for number, event in done_steps(cook).items() if number >= first]
    if not done:
        return None
    last = max(done)[1]
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.UNDONE, step=last, at=cook.kitchen.now(), by=person, token=unused(token)
    )


@transaction.atomic
def check(cook: Cook, person: Person, found: dict[str, Any], token: uuid.UUID) -> CookEvent:
    """Keep a check: `found` has sense, word or core_c, and a note."""
    cook = lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    must_run(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.CHECKED, at=cook.kitchen.now(), by=person, data=found, token=unused(token)
    )


@transaction.atomic
def correct(cook: Cook, person: Person, note: str) -> CookEvent:
    """Write down what was done about something that went wrong. Refused by the database once signed."""
    cook = lock(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.CORRECTED, at=cook.kitchen.now(), by=person, data={"note": note}
    )


@transaction.atomic
def finish(cook: Cook, person: Person, stopped_why: str = "") -> Cook:
    """End a cook, served or stopped; its probes are free again. Ending it twice does nothing."""
    cook = lock(cook)
    if cook.finished_at is not None:
        return cook
    now = cook.kitchen.now()
    kind = CookEvent.Kind.STOPPED if stopped_why else CookEvent.Kind.FINISHED
    CookEvent.objects.create(cook=cook, kind=kind, at=now, by=person, data={"note": stopped_why} if stopped_why else {})
    cook.finished_at = now
    cook.save(update_fields=["finished_at"])
    for use in cook.probe_uses.filter(during__endswith=None):
        use.during = (use.during.lower, max(now, use.during.lower + dt.timedelta(milliseconds=1)))
        use.save(update_fields=["during"])
    return cook
