"""Every write to running cooks, in a transaction, with who and when."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from django.db import transaction

from ember.track.rounds import round_of
from ember.track.steps import Step, next_step, steps_aside
from kitchen.accounts.models import Person
from kitchen.kit.models import Equipment

from .board_snapshot import snapshot_of
from .errors import LineError
from .models import Cook, CookEvent
from .observations import PAIRS, done_steps, open_ends
from .places import equipment_snapshot
from .taps import sent_late, tapped_at, was_done
from .tasks import enqueue_forecast
from .words import OBSERVATIONS

NOT_NEXT = "That step is not next: the screen was out of date. Look again."


def unused(token: uuid.UUID | None) -> uuid.UUID:
    """The token, or a new one if it is taken."""
    if token is None or CookEvent.objects.filter(token=token).exists():
        return uuid.uuid4()
    return token


def lock(cook: Cook) -> Cook:
    """The cook, locked until the transaction ends."""
    held = Cook.objects.select_for_update(of=("self",)).select_related("kitchen").with_events()
    return held.defer("document", "result").get(pk=cook.pk)


def _by_token(cook: Cook, token: uuid.UUID) -> CookEvent | None:
    """The event of a locked cook that this token created before; None for a new token."""
    return next((event for event in cook.history if event.token == token), None)


def must_run(cook: Cook) -> None:
    """Raise LineError for a cook that is over."""
    if cook.finished_at is not None:
        raise LineError("This cook is finished.")


def _waiting(steps: Sequence[Step], done: Collection[int]) -> set[int]:
    """Numbers of the steps that may be done now."""
    status = next_step(steps, done)
    numbers = {step.number for step in steps_aside(steps, done)} | ({status.number} if status else set())
    again = round_of(steps, status.number) if isinstance(status, Step) else None
    if again is not None and again.last + 1 < len(steps):  # what ends a round may be done before it was reported
        numbers.add(again.last + 1)
    return numbers


def _when(cook: Cook) -> dt.datetime:
    """When the event being recorded was tapped, not before the cook began."""
    return tapped_at(cook.kitchen, min(cook.started_at, cook.kitchen.now()))


def _tapped(cook: Cook, done: Mapping[int, CookEvent]) -> dt.datetime:
    """When the step was tapped, not before the step done last, nor before the cook was sent."""
    before = max((event.at for event in done.values()), default=None)
    sent = min((event.at for event in cook.history), default=cook.started_at)
    return tapped_at(cook.kitchen, before if before is not None else min(sent, cook.kitchen.now()))


def _doing(cook: Cook, step: int, token: uuid.UUID) -> tuple[Cook, dict[int, CookEvent], CookEvent | None]:
    """(the locked cook, its steps done, the event that did this step before: by the same token, or by somebody else).

    Raises LineError for a cook that is over while the step is still to be done.
    """
    cook = lock(cook)
    done = done_steps(cook)
    repeated = _by_token(cook, token)
    if repeated is None and step in done:
        was_done(done[step].by, done[step].at)
        return cook, done, done[step]
    if repeated is None:
        must_run(cook)
    return cook, done, repeated


@transaction.atomic
def do_step(
    cook: Cook, person: Person, step: int, token: uuid.UUID, steps: Sequence[Step], skipped: bool = False
) -> CookEvent:
    """Record a step as done or skipped: once for a token, and once for a step however many people tap it.

    Raises LineError for a step that does not exist or comes later than the next one.
    """
    cook, done, already = _doing(cook, step, token)
    if already is not None:
        return already
    if step not in _waiting(steps, done):
        raise LineError(NOT_NEXT)
    enqueue_forecast(cook)
    now = _tapped(cook, done)
    if cook.waits and steps[step].kind == "start":
        cook.started_at, cook.waits = now, False
        cook.save(update_fields=["started_at", "waits"])
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.DONE, step=step, at=now, by=person, token=unused(token),
        data=({"skipped": True} if skipped else {}) | sent_late(cook.kitchen, now),
    )  # fmt: skip


@transaction.atomic
def end_round(
    cook: Cook, person: Person, step: int, token: uuid.UUID, steps: Sequence[Step], missed: int = 0
) -> CookEvent:  # fmt: skip
    """Record the end of a round: each time done, except for `missed` times. Once for a token.

    `step`: any of the round. Raises LineError for a step that is not of the next round.
    """
    cook, done, already = _doing(cook, step, token)
    if already is not None:
        return already
    again = round_of(steps, step) if 0 <= step < len(steps) else None
    if again is None or not any(again.first <= number <= again.last for number in _waiting(steps, done)):
        raise LineError(NOT_NEXT)
    if not 0 <= missed <= again.count:
        raise LineError(f"Missed: enter 0 to {again.count}.")
    enqueue_forecast(cook)
    at = _tapped(cook, done)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.DONE, step=again.last, at=at, by=person, token=unused(token),
        data={"round": [again.first, again.last], "missed": missed} | sent_late(cook.kitchen, at),
    )  # fmt: skip


@transaction.atomic
def put_off(
    cook: Cook, person: Person, step: int, minutes: float, token: uuid.UUID, steps: Sequence[Step]
) -> CookEvent | None:
    """Delay a step. Once for a token; does nothing for a step that cannot wait."""
    cook = lock(cook)
    if known := _by_token(cook, token):
        return known
    must_run(cook)
    if step not in _waiting(steps, done_steps(cook)):
        return None
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.LATE, step=step, at=_when(cook), by=person, token=unused(token),
        data={"minutes": minutes},
    )  # fmt: skip


@transaction.atomic
def place(cook: Cook, person: Person, stage: int, equipment: Equipment) -> CookEvent:
    """Move a stage to another piece of equipment."""
    cook = lock(cook)
    must_run(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PLACED, at=cook.kitchen.now(), by=person,
        data={"kit": {str(stage): equipment_snapshot(equipment)}},
    )  # fmt: skip


@transaction.atomic
def tell(
    cook: Cook, person: Person, what: str, token: uuid.UUID, stage: int, celsius: float | None = None,
    late_s: float | None = None,
) -> CookEvent | None:  # fmt: skip
    """Record an observation besides the plan's steps (words.OBSERVATIONS). Once for a token; does nothing if it already
    holds.

    Raises LineError for an observation that does not apply to this cook.
    """
    cook = lock(cook)
    if known := _by_token(cook, token):
        return known
    must_run(cook)
    if what not in OBSERVATIONS or (what == "setting") != (celsius is not None):
        raise LineError("That event does not apply to this cook.")
    begun = {ended: begun for begun, ended in PAIRS.items()}
    holds = open_ends(cook)
    if what in holds or (what in begun and begun[what] not in holds):
        return None
    data: dict[str, Any] = {"what": what, "stage": stage} | ({"c": celsius} if celsius is not None else {})
    if late_s is not None:
        data["late_s"] = late_s
    enqueue_forecast(cook)
    return CookEvent.objects.create(
        cook=cook,
        kind=CookEvent.Kind.TOLD,
        at=_when(cook),
        by=person,
        token=unused(token),
        data=data,
    )


PIECE_DID = ("lay", "turn", "lift", "undo")


@transaction.atomic
def do_piece(
    cook: Cook, person: Person, stage: int, piece: int, did: str, token: uuid.UUID, undoes: int | None = None
) -> CookEvent | None:
    """Record that a piece in a pan was laid, turned or lifted; "undo" undoes its last action. Once for a token.

    `undoes`: the event an undo means; does nothing if it was undone already, or something was done after it.

    Raises LineError for a piece that does not exist.
    """
    cook = lock(cook)
    if known := _by_token(cook, token):
        return known
    must_run(cook)
    if did not in PIECE_DID or not 1 <= piece <= cook.pieces or not 0 <= stage < len(cook.document["stages"]):
        raise LineError("There is no such piece in this pan.")
    if undoes is not None:
        done = piece_events(cook, stage, [piece])
        if not done or done[-1].pk != undoes:
            return None
    _must_follow(cook, stage, piece, did)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PIECE, at=_when(cook), by=person, token=unused(token),
        data={"stage": stage, "piece": piece, "did": did},
    )  # fmt: skip


def piece_events(cook: Cook, stage: int, pieces: Collection[int]) -> list[CookEvent]:
    """Events of these pieces in a stage, in order, without those undone."""
    events: list[CookEvent] = []
    for event in cook.history:
        if event.kind != CookEvent.Kind.PIECE or event.data["stage"] != stage or event.data["piece"] not in pieces:
            continue
        if event.data["did"] != "undo":
            events.append(event)
            continue
        last = max((i for i, e in enumerate(events) if e.data["piece"] == event.data["piece"]), default=None)
        if last is not None:
            del events[last]
    return events


def _must_follow(cook: Cook, stage: int, piece: int, did: str) -> None:
    """Require order: laid once, turned while down, lifted once; only what was done is undone. Raises LineError."""
    done = [event.data["did"] for event in piece_events(cook, stage, [piece])]
    if did == "undo":
        if not done:
            raise LineError("There is nothing to undo.")
        return
    if "lift" in done:
        raise LineError(f"Piece {piece} is already out.")
    if did == "lay" and done:
        raise LineError(f"Piece {piece} is already down: the screen was out of date. Look again.")
    if did != "lay" and not done:
        raise LineError(f"Piece {piece} is not in the pan yet.")


@transaction.atomic
def undo_step(cook: Cook, person: Person, token: uuid.UUID, event: int | None = None) -> CookEvent | None:
    """Undo the last step; the start itself cannot be undone.

    `event`: the one that is meant. Does nothing if it was undone already, or something was done after it.
    """
    cook = lock(cook)
    if known := _by_token(cook, token):
        return known
    must_run(cook)
    done = [(e.pk, number) for number, e in done_steps(cook).items() if e.kind == CookEvent.Kind.DONE]
    if not done:
        return None
    newest, last = max(done)
    if event is not None and event != newest:
        return None
    enqueue_forecast(cook)
    steps = None if cook.goes_by_steps else snapshot_of(cook.pk).steps
    if steps and steps[last].kind == "start":
        _wait_again(cook)
    return CookEvent.objects.create(
        cook=cook,
        kind=CookEvent.Kind.UNDONE,
        step=last,
        at=_when(cook),
        by=person,
        token=unused(token),
    )


def _wait_again(cook: Cook) -> None:
    """Restore a cook whose first stage was not begun after all: it is due as before."""
    sent = cook.events.get(kind=CookEvent.Kind.STARTED)
    due_at = sent.data.get("due_at")
    before = dt.timedelta(seconds=max(-cook.result["steps"][0]["at_s"], 0.0))
    cook.started_at = dt.datetime.fromisoformat(due_at) if due_at else sent.at + before
    cook.waits = True
    cook.save(update_fields=["started_at", "waits"])


@transaction.atomic
def check(cook: Cook, person: Person, values: dict[str, Any], token: uuid.UUID) -> CookEvent:
    """Record a check: `values` has sense, word or core_c, and a note."""
    cook = lock(cook)
    if known := _by_token(cook, token):
        return known
    must_run(cook)
    return CookEvent.objects.create(
        cook=cook,
        kind=CookEvent.Kind.CHECKED,
        at=_when(cook),
        by=person,
        data=values,
        token=unused(token),
    )


@transaction.atomic
def correct(cook: Cook, person: Person, note: str) -> CookEvent:
    """Record a corrective action. The database refuses it once the record is signed."""
    cook = lock(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.CORRECTED, at=cook.kitchen.now(), by=person, data={"note": note}
    )


@transaction.atomic
def finish(cook: Cook, person: Person, stopped_why: str = "") -> Cook:
    """Finish a cook, served or stopped, and free its probes. Finishing it twice does nothing."""
    cook = lock(cook)
    if cook.finished_at is not None:
        return cook
    now = _when(cook)
    kind = CookEvent.Kind.STOPPED if stopped_why else CookEvent.Kind.FINISHED
    CookEvent.objects.create(cook=cook, kind=kind, at=now, by=person, data={"note": stopped_why} if stopped_why else {})
    cook.finished_at, cook.started_at = now, min(cook.started_at, now)  # one that never began may be due later
    cook.save(update_fields=["finished_at", "started_at"])
    for use in cook.probe_uses.filter(during__endswith=None):
        use.during = (use.during.lower, max(now, use.during.lower + dt.timedelta(milliseconds=1)))
        use.save(update_fields=["during"])
    return cook
