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
PHASES = {Kind.COLD: "hold-cold", Kind.DELIVERY: "hold-cold", Kind.HOT: "hold-hot", Kind.REHEAT: "reheat"}
HOUSE = {Kind.COLD: "hold_cold_c", Kind.DELIVERY: "hold_cold_c", Kind.HOT: "hold_hot_c", Kind.REHEAT: "reheat_c"}
HOT_KINDS = (Kind.HOT, Kind.REHEAT)  # the limit is a least, not a most


class BookError(Exception):
    """An entry that cannot be recorded, in words for the cook."""


def rule_for(kitchen: Kitchen, kind: str) -> dict[str, Any] | None:
    """The standard's rule for a kind of reading, with its limit; None if it has none."""
    phase = PHASES.get(Kind(kind))
    rules = standard(kitchen.standard)
    rule = rules.phases.get(phase) if phase else None
    asked = None if rule is None else rule.limit if rule.limit is not None else rule.to
    if rule is None or asked is None:
        return None
    limit = rule.least_c(asked) if kind in HOT_KINDS else rule.most_c(asked)
    house = (kitchen.house or {}).get(HOUSE.get(Kind(kind), ""))
    own = house is not None and (house > limit if kind in HOT_KINDS else house < limit)
    limit = float(house) if own and house is not None else limit
    return {
        "standard": rules.id, "edition": rules.edition, "section": "House rule" if own else rule.section,
        "text": f"House rule: {limit:g} °C" if own else rule.text, "limit_c": round(limit, 2),
        "seconds": rule.seconds if kind == Kind.REHEAT else None,
    }  # fmt: skip


def held_against(kitchen: Kitchen, kind: str, celsius: float) -> dict[str, Any] | None:
    """The rule for a reading and its margin, K; None if there is no rule."""
    rule = rule_for(kitchen, kind)
    if rule is None:
        return None
    margin = celsius - rule["limit_c"] if kind in HOT_KINDS else rule["limit_c"] - celsius
    return {**rule, "margin_c": round(margin, 2), "met": margin >= -1e-6}


@transaction.atomic
def write(kitchen: Kitchen, person: Person, values: Mapping[str, Any], token: uuid.UUID) -> Entry:
    """Record an entry, once for a token.

    Raises BookError for a reading that misses its rule without a corrective action.
    """
    if known := Entry.objects.of(kitchen).filter(token=token).first():
        return known
    rule = None
    if values.get("celsius") is not None:
        rule = held_against(kitchen, values["kind"], values["celsius"])
    refused = values.get("accepted") is False
    if rule is not None and not rule["met"] and not refused and not values.get("note"):
        raise BookError("The rule is not met. Enter the corrective action.")
    return Entry.objects.create(kitchen=kitchen, by=person, at=kitchen.now(), token=token, rule=rule, **values)


@transaction.atomic
def add_to(cook: Cook, person: Person, note: str, token: uuid.UUID) -> Entry:
    """Add a note to a signed record, which itself stays unchanged. Raises BookError for an empty note."""
    if not note:
        raise BookError("Enter the note to add.")
    if not hasattr(cook, "sign_off"):
        raise BookError("This record is not signed off yet. Enter it in the record itself.")
    if known := Entry.objects.filter(token=token, cook=cook).first():
        return known
    return Entry.objects.create(
        kitchen=cook.kitchen, by=person, at=cook.kitchen.now(), token=token, kind=Kind.ADDITION, what=cook.name,
        note=note, cook=cook,
    )  # fmt: skip
