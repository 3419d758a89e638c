"""Signing a record."""

from __future__ import annotations

from django.db import transaction

from ember.judge.states import State
from kitchen.accounts.models import Person
from kitchen.line.errors import LineError
from kitchen.line.models import Cook

from .evidence import evidence_of, keep_readings, reading_rows
from .models import SignOff
from .record import record_of


@transaction.atomic
def sign(cook: Cook, person: Person, how: str) -> SignOff:
    """Sign a finished cook; from then on the database refuses to change it. Signing twice does nothing.

    `how`: by PIN or password.

    Raises LineError for a running cook, or one that missed its rule and has no corrective action.
    """
    cook = Cook.objects.select_for_update().get(pk=cook.pk)
    if known := SignOff.objects.filter(cook=cook).first():
        return known
    if cook.finished_at is None:
        raise LineError("Finish the cook before signing it off.")
    signature = SignOff(
        cook=cook, by=person, at=cook.kitchen.now(), how=how
    )  # from here on later readings do not count
    signature.record = record = record_of(cook)
    if record["state"] == State.NOT_MET and not record["corrections"]:
        raise LineError("The rule was not met. Enter the corrective action, then sign off.")
    rows = reading_rows(cook)
    signature.evidence = evidence_of(cook, rows)
    signature.save()
    keep_readings(signature, rows)
    return signature
