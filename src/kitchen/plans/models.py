"""Plans: the core's own JSON with an owner and a history of who changed it."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet


class PlanQuerySet(KitchenQuerySet):
    """Plans that were not deleted, unless asked."""

    def current(self) -> Any:
        """Plans that are not in the bin."""
        return self.filter(deleted_at=None)


class Plan(KitchenOwned):
    """A plan as `open-ember/plan` JSON. Deleting only sets `deleted_at`, so that it can be undone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = PlanQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        indexes = [models.Index(fields=["kitchen", "name"])]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="plan_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(document__format="open-ember/plan"), name="plan_document_is_a_plan"
            ),
        ]

    def __str__(self) -> str:
        return self.name
