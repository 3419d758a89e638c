"""Starting an egg cook; what is done to it afterwards is done as to any other."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from django.db import transaction

from ember.eggs.answer import answer
from ember.files.egg import parse_egg
from kitchen.accounts.models import Kitchen, Person

from .actions import unused
from .models import Cook, CookEvent

KEPT = {
    "steps", "rules", "goes_out", "cautions", "minutes", "yolk", "white", "word", "state", "total_s", "warnings",
    "yolk_centre_c", "peak_c", "pull_c", "boils_s",
}  # fmt: skip


@transaction.atomic
def start_eggs(
    kitchen: Kitchen, person: Person, name: str, document: dict[str, Any], token: uuid.UUID,
    begins_at: dt.datetime | None = None, place: str = "", medium_c: float | None = None,
) -> Cook:  # fmt: skip
    """Send an egg request to the line; its first step waits for a hand. The same token starts it once.

    Raises EmberError when it cannot be cooked.
    """
    known = CookEvent.objects.filter(token=token, cook__kitchen=kitchen, kind=CookEvent.Kind.STARTED).first()
    if known is not None:
        return known.cook
    now = kitchen.now()
    found = answer(parse_egg(document)).model_dump(mode="json", include=KEPT)
    found |= {"place": place, "medium_c": medium_c, "begins_at": begins_at.isoformat() if begins_at else None}
    cook = Cook.objects.create(
        kitchen=kitchen, kind=Cook.Kind.EGGS, name=name, document=document, result=found, started_at=now,
        started_by=person,
    )  # fmt: skip
    CookEvent.objects.create(cook=cook, kind=CookEvent.Kind.STARTED, at=now, by=person, token=unused(token))
    return cook
