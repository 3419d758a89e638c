"""Egg requests a kitchen keeps."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet


class EggPlanQuerySet(KitchenQuerySet):
    """Kept requests that were not deleted, unless asked."""

    def current(self) -> models.QuerySet:
        """Those that are not in the bin."""
        return self.filter(deleted_at=None)


class EggPlan(KitchenOwned):
    """An `open-ember/egg` request under a name. Deleting only sets `deleted_at`, so that it can be undone."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    document = models.JSONField()
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = EggPlanQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="egg_plan_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(document__format="open-ember/egg"), name="egg_plan_document_is_an_egg"
            ),
            models.UniqueConstraint(
                fields=["kitchen", "name"], condition=models.Q(deleted_at=None), name="egg_plan_name_once_a_kitchen"
            ),
        ]

    def __str__(self) -> str:
        return self.name
