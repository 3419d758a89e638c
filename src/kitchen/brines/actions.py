"""Confirming a saved brine."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from django.db import IntegrityError, transaction

from ember.cure.answer import answer_brine
from ember.files.brine import parse_brine
from kitchen.accounts.confirming import is_newly_made_by
from kitchen.accounts.models import Person

from .models import BrinePlan, Confirmation, ConfirmationUse, fingerprint_of


class BrineError(Exception):
    """An action that a brine does not allow at the moment, in words for the cook."""


def held_against(plan: BrinePlan) -> dict[str, Any]:
    """The brine with its kitchen's own limits."""
    return {**plan.document, "standard": plan.kitchen.standard}


def why_not_second(plan: BrinePlan, person: Person) -> str:
    """Why a person cannot be the second one for a brine; empty if they can.

    Nobody confirms what they wrote, under whatever name it is saved; nor does an account its author could act through.
    """
    mark = fingerprint_of(plan.document)
    own = BrinePlan.objects.filter(kitchen_id=plan.kitchen_id, updated_by=person)
    if plan.updated_by_id == person.pk or any(fingerprint_of(other.document) == mark for other in own):
        return "A second person must confirm (not the author), reading the bag and the scale."
    if is_newly_made_by(person, plan.updated_by):
        return (
            f"{plan.updated_by} made this account or its password less than a day ago. "
            "Another chef must confirm this brine."
        )
    return ""


def use_confirmation(confirmation: Confirmation, cook_key: uuid.UUID, at: dt.datetime) -> None:
    """Use a confirmation for a start. Raises BrineError if another start was quicker."""
    try:
        with transaction.atomic():
            ConfirmationUse.objects.create(confirmation=confirmation, cook_key=cook_key, at=at)
    except IntegrityError:
        raise BrineError(
            "Its confirmation was for one start, which is on. A second person must confirm again."
        ) from None


def ask_again(plan: BrinePlan) -> None:
    """Ask for a second person for another start."""
    plan.asked_at = plan.kitchen.now()
    plan.save(update_fields=["asked_at"])


@transaction.atomic
def confirm(plan: BrinePlan, person: Person, how: str) -> Confirmation:
    """Record a second person's confirmation of a brine with curing salt, for one start; `how`: by PIN or password.

    Confirming twice does nothing. Raises BrineError for whoever cannot be the second person, a brine without curing
    salt, or one over its limit.
    """
    plan = BrinePlan.objects.select_for_update(of=("self",)).select_related("updated_by", "kitchen").get(pk=plan.pk)
    if not plan.has_nitrite:
        raise BrineError("This brine has no curing salt: there is nothing to confirm.")
    if why := why_not_second(plan, person):
        raise BrineError(why)
    result = answer_brine(parse_brine(held_against(plan)))
    if not result.allowed:
        raise BrineError(f"Refused: {result.why}")
    if (there := plan.confirmation) is not None:
        return there
    BrinePlan.objects.filter(pk=plan.pk).update(asked_at=None)
    return Confirmation.objects.create(
        plan=plan, by=person, at=plan.kitchen.now(), fingerprint=fingerprint_of(plan.document),
        document=plan.document, how=how,
    )  # fmt: skip
