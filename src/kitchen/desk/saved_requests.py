"""Requests a kitchen saves under a name: the abstract model of every desk, and every write to it."""

from __future__ import annotations

import uuid
from typing import Any, ClassVar, Self, TypeVar

from django.conf import settings
from django.db import IntegrityError, models, transaction
from django.utils import timezone

from kitchen.accounts.editions import Meanwhile, changed_fields, is_stale
from kitchen.accounts.models import Kitchen, KitchenOwned, KitchenQuerySet, Person
from kitchen.web import KitchenRequest

Saved = TypeVar("Saved", bound="SavedRequest")


class SavedRequestQuerySet(KitchenQuerySet[Saved]):
    """Saved requests, including archived ones."""

    def current(self) -> Self:
        """Saved requests that are not archived."""
        return self.filter(deleted_at=None)


class SavedRequest(KitchenOwned):
    """A desk's request under a name. Archiving only sets `deleted_at`, so that it can be undone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    document = models.JSONField()
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = SavedRequestQuerySet.as_manager()

    class Meta:
        abstract = True
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name


def saved_request_constraints(table: str, file_format: str, holds: str) -> list[models.BaseConstraint]:
    """Constraints: names are unique within a kitchen, and documents of one format. `table` and `holds` name them."""
    return [
        models.CheckConstraint(condition=~models.Q(name=""), name=f"{table}_has_a_name"),
        models.CheckConstraint(condition=models.Q(document__format=file_format), name=f"{table}_document_is_{holds}"),
        models.UniqueConstraint(
            fields=["kitchen", "name"], condition=models.Q(deleted_at=None), name=f"{table}_name_once_a_kitchen"
        ),
    ]


def named(model: type[Saved], kitchen: Kitchen, name: str) -> Saved | None:
    """The saved request of a name."""
    rows: Any = model.objects
    saved: Saved | None = rows.of(kitchen).current().select_related("updated_by").filter(name=name).first()
    return saved


def meanwhile_of(request: KitchenRequest, there: SavedRequest, document: dict[str, Any], url: str) -> Meanwhile | None:
    """What somebody else changed in a saved request since the desk was opened; None if nothing would be overwritten."""
    if not is_stale(request, there.document, document):
        return None
    keys = {key: key.replace("_", " ") for key in sorted({*there.document, *document})}
    changes = changed_fields(document, there.document, keys)
    return Meanwhile(str(there.updated_by), there.updated_at, changes, url)


def free_name(model: type[Saved], kitchen: Kitchen, name: str) -> str:
    """The name with the first number that no other saved request has."""
    taken = set(model.objects.of(kitchen).current().values_list("name", flat=True))
    number = 2
    while (candidate := f"{name[:74]} ({number})") in taken:
        number += 1
    return candidate


@transaction.atomic
def save_request(model: type[Saved], kitchen: Kitchen, person: Person, name: str, document: dict[str, Any]) -> Saved:
    """Save a request under a name, replacing the document already saved under it.

    An unchanged document keeps its author: the person who confirms a brine must not be the one who wrote it.
    """
    rows: Any = model.objects
    named = rows.of(kitchen).current().select_for_update().filter(name=name)
    existing: Saved | None = named.first()
    if existing is None:
        try:
            with transaction.atomic():
                new: Saved = rows.create(kitchen=kitchen, name=name, document=document, updated_by=person)
                return new
        except IntegrityError:  # somebody else saved one of that name meanwhile
            existing = named.get()
    assert existing is not None  # noqa: S101  (it was there, or is now)
    if existing.document != document:
        existing.document, existing.updated_by = document, person
        existing.save(update_fields=["document", "updated_by", "updated_at"])
    return existing


@transaction.atomic
def archive(request: SavedRequest) -> None:
    """Archive it; it can be restored."""
    request.deleted_at = timezone.now()
    request.save(update_fields=["deleted_at"])


@transaction.atomic
def restore(request: SavedRequest) -> bool:
    """Restore it; False if another request has its name now."""
    if type(request).objects.of(request.kitchen).current().filter(name=request.name).exists():
        return False
    request.deleted_at = None
    try:
        with transaction.atomic():
            request.save(update_fields=["deleted_at"])
    except IntegrityError:  # another took its name at the same moment
        return False
    return True
