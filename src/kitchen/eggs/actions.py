"""Every write to kept egg requests, in a transaction, with who and when."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from kitchen.accounts.models import Kitchen, Person

from .models import EggPlan


@transaction.atomic
def keep(kitchen: Kitchen, person: Person, name: str, document: dict[str, Any]) -> EggPlan:
    """Keep a request under a name; the same name again replaces what was there."""
    there = EggPlan.objects.of(kitchen).current().select_for_update().filter(name=name).first()
    if there is None:
        return EggPlan.objects.create(kitchen=kitchen, name=name, document=document, updated_by=person)
    there.document, there.updated_by = document, person
    there.save(update_fields=["document", "updated_by", "updated_at"])
    return there


@transaction.atomic
def put_away(plan: EggPlan) -> None:
    """Put it in the bin."""
    plan.deleted_at = timezone.now()
    plan.save(update_fields=["deleted_at"])


@transaction.atomic
def put_back(plan: EggPlan) -> bool:
    """Take it out of the bin again; not where another has its name by now."""
    if EggPlan.objects.of(plan.kitchen).current().filter(name=plan.name).exists():
        return False
    plan.deleted_at = None
    plan.save(update_fields=["deleted_at"])
    return True
