"""Brines a kitchen keeps, and who confirmed those with curing salt."""

from __future__ import annotations

import hashlib
import json
import uuid
from typing import Any

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet


class BrinePlanQuerySet(KitchenQuerySet):
    """Kept brines that were not deleted, unless asked."""

    def current(self) -> models.QuerySet:
        """Those that are not in the bin."""
        return self.filter(deleted_at=None)


def fingerprint_of(document: dict[str, Any]) -> str:
    """What a confirmation stands for: this brine to the gram, and no other."""
    return hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()


class BrinePlan(KitchenOwned):
    """An `open-ember/brine` request under a name. Deleting only sets `deleted_at`, so that it can be undone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    document = models.JSONField()
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = BrinePlanQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="brine_plan_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(document__format="open-ember/brine"), name="brine_plan_document_is_a_brine"
            ),
            models.UniqueConstraint(
                fields=["kitchen", "name"], condition=models.Q(deleted_at=None), name="brine_plan_name_once_a_kitchen"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def has_nitrite(self) -> bool:
        """Whether curing salt goes in."""
        return bool(self.document.get("cure"))

    @property
    def confirmation(self) -> Confirmation | None:
        """The confirmation of this brine as it stands; a change to it voids the one before."""
        return self.confirmations.filter(fingerprint=fingerprint_of(self.document)).order_by("-at").first()


class Confirmation(models.Model):
    """A second person read strength, grams and meat, and found them right. Append-only."""

    plan = models.ForeignKey(BrinePlan, on_delete=models.CASCADE, related_name="confirmations")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    fingerprint = models.CharField(max_length=64)
    document = models.JSONField()

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.plan} confirmed by {self.by}"
