"""Every write of doneness calls."""

from __future__ import annotations

import uuid

from django.db import transaction

from ember.judge.doneness import word_for
from kitchen.accounts.models import Kitchen, Person
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook
from kitchen.line.queries import status_of

from .models import Call, Sharing


class CallError(Exception):
    """A call that cannot be made, in words for the cook."""


def reading_now(status: CookStatus) -> float | None:
    """The probe's reading now; None without a fresh, trusted one."""
    return status.readings[-1][1] if status.is_measured else None


@transaction.atomic
def call(
    cook: Cook, person: Person, sense: str, word: str, called_c: float | None, token: uuid.UUID
) -> Call:  # fmt: skip
    """Record a call, as a word of the cut's scale or a temperature, with the probe's reading if there is one.

    Once for a token. Raises CallError for an unknown sense or word, and for a cook that is over.
    """
    if known := Call.objects.filter(token=token, person=person).first():
        return known
    if sense not in Call.Sense.values:
        raise CallError("Choose the sense you judged by.")
    if cook.finished_at is not None or cook.goes_by_steps:
        raise CallError("This call is finished. Make a new one.")
    status = status_of(cook)
    if called_c is None:
        scale_word = next((one for one in status.scale if one.word == word), None)
        if scale_word is None:
            raise CallError("Choose a word, or enter a temperature.")
        called_c = scale_word.aim_c
    else:
        word = word_for(status.scale, called_c).word
    now = cook.kitchen.now()
    read = reading_now(status)
    return Call.objects.create(
        kitchen=cook.kitchen, person=person, cook=cook, name=cook.name, cut=status.plan.piece.cut,
        wanted=(status.plan.target.doneness or "") if status.plan.target else "", sense=sense, word=word,
        called_c=called_c, token=token, at=now, read_c=read, read_at=None if read is None else now,
    )  # fmt: skip


@transaction.atomic
def read(made: Call, celsius: float) -> Call:
    """Record the probe reading after a call, once."""
    locked = Call.objects.select_for_update().get(pk=made.pk)
    if locked.read_c is None:
        locked.read_c, locked.read_at = celsius, locked.kitchen.now()
        locked.save(update_fields=["read_c", "read_at"])
    return locked


@transaction.atomic
def drop(made: Call) -> None:
    """Delete a call made by mistake."""
    made.delete()


def share(kitchen: Kitchen, person: Person, is_shared: bool) -> None:
    """Let the chef see a person's practice, or stop sharing it."""
    Sharing.objects.update_or_create(kitchen=kitchen, person=person, defaults={"is_shared": is_shared})
