"""Confirming a saved brine."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from ember.cure.answer import answer_brine
from ember.files.brine import parse_brine
from kitchen.accounts.models import Person

from .models import BrinePlan, Confirmation, fingerprint_of


class BrineError(Exception):
    """An action that a brine does not allow at the moment, in words for the cook."""


def held_against(plan: BrinePlan) -> dict[str, Any]:
    """The brine with its kitchen's own limits."""
    return {**plan.document, "standard": plan.kitchen.standard}


@transaction.atomic
def confirm(plan: BrinePlan, person: Person) -> Confirmation:
    """Record a second person's confirmation of a brine with curing salt. Confirming twice does nothing.

    Raises BrineError for the person who wrote it last, a brine without curing salt, or one over its limit.
    """
    plan = BrinePlan.objects.select_for_update().get(pk=plan.pk)
    if not plan.has_nitrite:
        raise BrineError("This brine has no curing salt: there is nothing to confirm.")
    if plan.updated_by_id == person.pk:
        raise BrineError("A second person must confirm (not the author), reading the bag and the scale.")
    result = answer_brine(parse_brine(held_against(plan)))
    if not result.allowed:
        raise BrineError(f"Refused: {result.why}")
    if (there := plan.confirmation) is not None:
        return there
    return Confirmation.objects.create(
        plan=plan, by=person, at=plan.kitchen.now(), fingerprint=fingerprint_of(plan.document), document=plan.document
    )
