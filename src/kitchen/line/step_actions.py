"""Starting a cook that goes by steps; afterwards it is handled like any other."""

from __future__ import annotations

import datetime as dt
import json
import uuid
from functools import lru_cache
from typing import Any

from django.db import transaction

from ember.chill.back import back_of
from ember.cure.answer import answer_brine
from ember.eggs.answer import answer
from ember.errors import BadInput
from ember.files.brine import parse_brine
from ember.files.chill import parse_chill
from ember.files.egg import parse_egg
from ember.judge.standards import standard
from kitchen.accounts.models import Kitchen, Person

from .actions import unused
from .models import Cook, CookEvent

# What is kept of an answer, of eggs and of a brine.
KEPT = {
    "steps", "rules", "goes_out", "cautions", "minutes", "yolk", "white", "word", "state", "total_s", "warnings",
    "yolk_centre_c", "peak_c", "pull_c", "boils_s", "salt_pct_meat", "mean_salt_pct", "centre_salt_pct", "nitrite_ppm",
    "limit_ppm", "allowed", "why",
}  # fmt: skip


def _brought_back(document: dict[str, Any]) -> dict[str, Any]:
    request = parse_chill(document)
    if request.back is None:
        raise BadInput("This batch has no reheating method.", "back")
    back = back_of(request, request.back, standard(request.standard))
    rule = back.rule.model_dump(mode="json") if back.rule else None
    return {
        "steps": [step.model_dump(mode="json") for step in back.steps], "minutes": back.minutes,
        "pull_c": back.pull_reading_c, "peak_c": back.peak_c, "cautions": [back.words], "warnings": [],
        "rules": [rule] if rule else [],
    }  # fmt: skip


def settle_steps(document: dict[str, Any]) -> tuple[str, dict[str, Any]]:
    """What kind of cook a request makes, and its answer. Done before a transaction, it costs nothing within.

    Raises EmberError if it cannot be done.
    """
    kind, answered = _settled(json.dumps(document, sort_keys=True))
    return kind, json.loads(answered)


@lru_cache(maxsize=64)
def _settled(document: str) -> tuple[str, str]:
    kind, answered = _answered(json.loads(document))
    return kind, json.dumps(answered)


def _answered(document: dict[str, Any]) -> tuple[str, dict[str, Any]]:
    if document["format"] == "open-ember/chill":
        return Cook.Kind.BACK, _brought_back(document)
    if document["format"] == "open-ember/brine":
        return Cook.Kind.BRINE, answer_brine(parse_brine(document)).model_dump(mode="json", include=KEPT)
    return Cook.Kind.EGGS, answer(parse_egg(document)).model_dump(mode="json", include=KEPT)


def started_with(kitchen: Kitchen, token: uuid.UUID) -> Cook | None:
    """The cook that a token has started already."""
    known = CookEvent.objects.filter(token=token, cook__kitchen=kitchen, kind=CookEvent.Kind.STARTED).first()
    return known.cook if known else None


@transaction.atomic
def start_steps(
    kitchen: Kitchen, person: Person, name: str, document: dict[str, Any], token: uuid.UUID,
    begins_at: dt.datetime | None = None, place: str = "", medium_c: float | None = None, **more: Any,
) -> Cook:  # fmt: skip
    """Send a request to the line; its first step waits for a tap. A repeated token starts it once.

    `more` is stored with it. Raises EmberError if it cannot be done.
    """
    if (there := started_with(kitchen, token)) is not None:
        return there
    now = kitchen.now()
    kind, steps_answer = settle_steps(document)
    steps_answer |= {
        "place": place,
        "medium_c": medium_c,
        "begins_at": begins_at.isoformat() if begins_at else None,
        **more,
    }
    cook = Cook.objects.create(
        kitchen=kitchen, kind=kind, name=name, document=document, result=steps_answer, started_at=now, started_by=person
    )
    CookEvent.objects.create(cook=cook, kind=CookEvent.Kind.STARTED, at=now, by=person, token=unused(token))
    return cook
