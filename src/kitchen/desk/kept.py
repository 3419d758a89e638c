"""Requests a kitchen keeps under a name: the model every desk's own is made of, and every write to it."""

from __future__ import annotations

import uuid
from typing import Any, TypeVar

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

from kitchen.accounts.models import Kitchen, KitchenOwned, KitchenQuerySet, Person

Kept = TypeVar("Kept", bound="KeptRequest")


class KeptQuerySet(KitchenQuerySet):
    """Kept requests that were not deleted, unless asked."""

    def current(self) -> models.QuerySet:
        """Those that are not in the bin."""
        return self.filter(deleted_at=None)


class KeptRequest(KitchenOwned):
    """A request of a desk under a name. Deleting only sets `deleted_at`, so that it can be undone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    document = models.JSONField()
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = KeptQuerySet.as_manager()

    class Meta:
        abstract = True
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name


def kept_constraints(table: str, file_format: str, holds: str) -> list[models.BaseConstraint]:
    """A name, once a kitchen; and documents of one format. `table` and `holds` name them."""
    return [
        models.CheckConstraint(condition=~models.Q(name=""), name=f"{table}_has_a_name"),
        models.CheckConstraint(condition=models.Q(document__format=file_format), name=f"{table}_document_is_{holds}"),
        models.UniqueConstraint(
            fields=["kitchen", "name"], condition=models.Q(deleted_at=None), name=f"{table}_name_once_a_kitchen"
        ),
    ]


@transaction.atomic
def keep(model: type[Kept], kitchen: Kitchen, person: Person, name: str, document: dict[str, Any]) -> Kept:
    """Keep a request under a name; the same name again replaces what was there.

    What did not change stays its writer's: who confirms a brine is held against who wrote it.
    """
    there = model.objects.of(kitchen).current().select_for_update().filter(name=name).first()
    if there is None:
        return model.objects.create(kitchen=kitchen, name=name, document=document, updated_by=person)
    if there.document != document:
        there.document, there.updated_by = document, person
        there.save(update_fields=["document", "updated_by", "updated_at"])
    return there


@transaction.atomic
def put_away(row: KeptRequest) -> None:
    """Put it in the bin."""
    row.deleted_at = timezone.now()
    row.save(update_fields=["deleted_at"])


@transaction.atomic
def put_back(row: KeptRequest) -> bool:
    """Take it out of the bin again; not where another has its name by now."""
    if type(row).objects.of(row.kitchen).current().filter(name=row.name).exists():
        return False
    row.deleted_at = None
    row.save(update_fields=["deleted_at"])
    return True
