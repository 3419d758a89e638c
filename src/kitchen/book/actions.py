"""Every write to the book, in a transaction, with who and when."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.db import transaction

from ember.judge.standards import standard
from kitchen.accounts.models import Kitchen, Person
from kitchen.line.models import Cook

from .models import Entry

Kind = Entry.Kind
PHASES = {Kind.COLD: "hold-cold", Kind.DELIVERY: "hold-cold", Kind.HOT: "hold-hot"}


class BookError(Exception):
    """Something that cannot be written down so, in words for the cook."""


def held_against(kitchen: Kitchen, kind: str, celsius: float) -> dict[str, Any] | None:
    """The rule of the kitchen's standard for a reading, with its margin in K; None where it has none."""
    phase = PHASES.get(Kind(kind))
    rules = standard(kitchen.standard)
    rule = rules.phases.get(phase) if phase else None
    if rule is None or rule.limit is None:
        return None
    limit = rule.c(rule.limit)
    house = (kitchen.house or {}).get("hold_hot_c" if kind == Kind.HOT else "hold_cold_c")
    own = house is not None and (house > limit if kind == Kind.HOT else house < limit)
    limit = house if own else limit
    margin = celsius - limit if kind == Kind.HOT else limit - celsius
    text = f"House rule: {limit:g} °C" if own else rule.text
    return {
        "standard": rules.id, "edition": rules.edition, "section": "House rule" if own else rule.section, "text": text,
        "limit_c": round(limit, 2), "margin_c": round(margin, 2), "met": margin >= -0.05,
    }  # fmt: skip


@transaction.atomic
def write(kitchen: Kitchen, person: Person, found: Mapping[str, Any], token: uuid.UUID) -> Entry:
    """Write something down. Once for a token.

    Raises BookError for a reading that misses its rule without a word of what was done about it.
    """
    if known := Entry.objects.of(kitchen).filter(token=token).first():
        return known
    rule = None
    if found.get("celsius") is not None:
        rule = held_against(kitchen, found["kind"], found["celsius"])
    refused = found.get("accepted") is False
    if rule is not None and not rule["met"] and not refused and not found.get("note"):
        raise BookError("The rule is not met: write down what was done about it.")
    return Entry.objects.create(kitchen=kitchen, by=person, at=kitchen.now(), token=token, rule=rule, **found)


@transaction.atomic
def add_to(cook: Cook, person: Person, note: str, token: uuid.UUID) -> Entry:
    """Add to a signed record: the record stays, the addition stands beside it. Raises BookError without words."""
    if not note:
        raise BookError("Write what is to be added.")
    if not hasattr(cook, "sign_off"):
        raise BookError("It is not signed yet: write it down in the record itself.")
    if known := Entry.objects.filter(token=token, cook=cook).first():
        return known
    return Entry.objects.create(
        kitchen=cook.kitchen, by=person, at=cook.kitchen.now(), token=token, kind=Kind.ADDITION, what=cook.name,
        note=note, cook=cook,
    )  # fmt: skip
