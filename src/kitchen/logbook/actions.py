"""Signing a record."""

from __future__ import annotations

from django.db import transaction

from kitchen.accounts.models import Person
from kitchen.line.actions import LineError
from kitchen.line.models import Cook

from .models import SignOff
from .record import record_of


@transaction.atomic
def sign(cook: Cook, person: Person) -> SignOff:
    """Sign a finished cook; from then on the database refuses to change it. Signing twice does nothing.

    Raises LineError for a cook that still runs, or whose rule was missed without a word of what was done about it.
    """
    cook = Cook.objects.select_for_update().get(pk=cook.pk)
    if known := SignOff.objects.filter(cook=cook).first():
        return known
    if cook.finished_at is None:
        raise LineError("Finish the cook before signing it.")
    record = record_of(cook)
    verdict = record["verdict"]
    if verdict and not verdict["met"] and not record["corrections"] and not record["advisory"]:
        raise LineError("The rule was not met. Write down what was done about it, then sign.")
    return SignOff.objects.create(cook=cook, by=person, at=cook.kitchen.now(), record=record)
