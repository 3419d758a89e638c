"""Every write to batches, in a transaction, with who and when."""

from __future__ import annotations

import uuid
from typing import Any

from django.db import connection, transaction

from ember.chill.answer import answer_chill
from ember.chill.back import PLACES
from ember.files.chill import parse_chill
from ember.judge.standards import standard
from kitchen.accounts.models import Kitchen, Person
from kitchen.line.models import Cook, CookEvent
from kitchen.line.step_actions import start_steps

from .cooling_status import CoolingStatus, cooling_status_of
from .models import Batch, BatchEvent
from .of_cook import heat_ended_at, why_not_chilled

Kind = BatchEvent.Kind


class BatchError(Exception):
    """An action that a batch does not allow at the moment, in words for the cook."""


@transaction.atomic
def out_of_the_heat(
    kitchen: Kitchen, person: Person, name: str, document: dict[str, Any], portions: int, token: uuid.UUID,
    cook: Cook | None = None,
) -> Batch:  # fmt: skip
    """Start a batch: its cooling clock runs from now, or from when its cook left the heat. A repeated token starts it
    once.

    Raises BatchError for a cook that left the heat longer ago than cooling may take, or has not left it yet.
    """
    there = Batch.objects.of(kitchen).filter(token=token).first()
    if there is not None:
        return there
    out_at = kitchen.now()
    if cook is not None:
        if why := why_not_chilled(cook, out_at):
            raise BatchError(why)
        out_at = heat_ended_at(cook, out_at)
    document = {**document, "standard": kitchen.standard}
    answer = answer_chill(parse_chill(document))
    return Batch.objects.create(
        kitchen=kitchen, token=token, name=name, document=document, result=answer.model_dump(mode="json"),
        portions=portions, out_at=out_at, out_by=person, cook=cook,
    )  # fmt: skip


def _held(batch: Batch) -> tuple[Batch, CoolingStatus]:
    with connection.cursor() as cursor:  # a row that stands cannot be locked by who may not change it
        cursor.execute("SELECT pg_advisory_xact_lock(hashtext('a batch'), hashtext(%s))", [str(batch.pk)])
    held = Batch.objects.select_related("kitchen").get(pk=batch.pk)
    course = cooling_status_of(held, held.kitchen.now())
    if course.is_discarded:
        raise BatchError("This batch was discarded.")
    return held, course


def _add(batch: Batch, person: Person, kind: str, **more: Any) -> BatchEvent:
    return BatchEvent.objects.create(batch=batch, kind=kind, at=batch.kitchen.now(), by=person, **more)


@transaction.atomic
def into_the_cold(batch: Batch, person: Person, place: str) -> BatchEvent:
    """Record where the batch was put to cool. The same place twice changes nothing."""
    held, course = _held(batch)
    before = held.events.filter(kind=Kind.COLD).last()
    if before is not None and before.note == place and not course.waits_for_cold:
        return before
    return _add(held, person, Kind.COLD, note=place)


@transaction.atomic
def press(batch: Batch, person: Person, note: str) -> BatchEvent:
    """Record that the batch lies under a weight. Raises BatchError before it is cold: a press keeps heat in."""
    held, course = _held(batch)
    if not course.is_cold:
        raise BatchError("Chill it first: pressing now keeps the heat in while the cooling clock runs.")
    return _add(held, person, Kind.PRESSED, note=note)


@transaction.atomic
def portion(batch: Batch, person: Person, portions: int) -> BatchEvent:
    """Record the number of portions. Raises BatchError before it is cold, and for fewer than are used already."""
    held, course = _held(batch)
    if not course.is_cold:
        raise BatchError("Chill it first: portion it when it is cold.")
    if portions < course.taken:
        raise BatchError(f"{course.taken} are already used.")
    return _add(held, person, Kind.PORTIONED, portions=portions)


@transaction.atomic
def read(batch: Batch, person: Person, celsius: float) -> BatchEvent:
    """Record a probe reading from the middle of the thickest piece."""
    held, _ = _held(batch)
    return _add(held, person, Kind.READ, celsius=celsius)


@transaction.atomic
def use(batch: Batch, person: Person, portions: int, note: str = "") -> BatchEvent:
    """Take portions for a service. Raises BatchError for more than are left, or where the batch may not be used."""
    held, course = _held(batch)
    if course.why_not:
        raise BatchError(course.why_not)
    if portions > course.left:
        raise BatchError(f"Only {course.left} are left.")
    return _add(held, person, Kind.USED, portions=portions, note=note)


@transaction.atomic
def bring_back(batch: Batch, person: Person, portions: int, note: str, token: uuid.UUID) -> Cook:
    """Take portions and send their reheating to the line. A repeated token does it once."""
    known = CookEvent.objects.filter(token=token, cook__kitchen=batch.kitchen, kind=CookEvent.Kind.STARTED).first()
    if known is not None:
        return known.cook
    if not batch.document.get("back"):
        raise BatchError("This batch has no reheating method.")
    use(batch, person, portions, note or "brought back")
    name = f"{batch.name[:60]}, {portions} back"
    place = PLACES[batch.document["back"]["in"]]
    return start_steps(batch.kitchen, person, name, batch.document, token, None, place)


@transaction.atomic
def put_back(batch: Batch, person: Person, event_id: int) -> BatchEvent:
    """Undo taking portions. Raises BatchError if that was undone already."""
    held, _ = _held(batch)
    used = held.events.filter(pk=event_id, kind=Kind.USED).first()
    if used is None or held.events.filter(kind=Kind.RETURNED, note=str(used.pk)).exists():
        raise BatchError("Those portions are already returned.")
    return _add(held, person, Kind.RETURNED, portions=used.portions, note=str(used.pk))


def reheat_least_c(batch: Batch) -> float:
    """The temperature the standard's reheating rule asks for, °C; 0 if it has none."""
    rule = standard(batch.document["standard"]).phases.get("reheat")
    return 0.0 if rule is None or rule.to is None else rule.least_c(rule.to) - 1e-6


@transaction.atomic
def reheated(batch: Batch, person: Person, celsius: float, note: str) -> BatchEvent:
    """Record that a batch which missed its cooling was reheated by the rule: its clock starts again, once.

    Raises BatchError for a reading below the rule, a second reheat, or a batch whose total time has passed.
    """
    held, course = _held(batch)
    if not any(stage.missed for stage in course.stages):
        raise BatchError("The cooling rule was not missed: no corrective action is needed.")
    if course.was_reheated:
        raise BatchError("It was already reheated once. Discard it.")
    last = course.stages[-1]
    if last.missed:
        raise BatchError("The total cooling time has passed. Discard it.")
    least = reheat_least_c(held)
    if celsius < least:
        raise BatchError(f"The rule for reheating needs {least:.1f} °C: {celsius:.1f} °C is not there.")
    return _add(held, person, Kind.REHEATED, celsius=celsius, note=note)


@transaction.atomic
def decide(batch: Batch, person: Person, note: str) -> BatchEvent:
    """Record a chef's written decision about a missed cooling. Raises BatchError without a reason."""
    held, course = _held(batch)
    if not course.is_missed:
        raise BatchError("The cooling rule was not missed: there is nothing to decide.")
    if not note:
        raise BatchError("Enter what you found and why it may be served.")
    return _add(held, person, Kind.DECIDED, note=note)


@transaction.atomic
def discard(batch: Batch, person: Person, note: str) -> BatchEvent:
    """Discard the batch, with the reason."""
    held, _ = _held(batch)
    return _add(held, person, Kind.DISCARDED, note=note)
