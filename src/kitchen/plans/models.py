"""Plans: the core's JSON with an owner and a history of changes."""

from __future__ import annotations

import uuid
from typing import Any, ClassVar, Self

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.functions import Cast

from ember.food.catalogue import cuts
from ember.food.search import search
from kitchen.accounts.models import KitchenOwned, KitchenQuerySet

TAG_MAX, TAGS_MAX = 30, 8


class PlanQuerySet(KitchenQuerySet["Plan"]):
    """Plans, including archived ones."""

    def current(self) -> Self:
        """Plans that are not archived."""
        return self.filter(deleted_at=None)

    def matching(self, typed: str) -> Self:
        """Plans where each word is in the name, a tag, or a name of the cut."""
        plans = self.alias(tags_text=Cast("tags", models.TextField()))
        for word in typed.split():
            meant = [match.id for match in search(word, len(cuts()))]
            plans = plans.filter(
                models.Q(name__icontains=word)
                | models.Q(tags_text__icontains=word)
                | models.Q(document__piece__cut__in=meant)
            )
        return plans


class Plan(KitchenOwned):
    """A plan as `open-ember/plan` JSON. Archiving only sets `deleted_at`, so that it can be undone.

    `copied_from`: the plan it was copied from.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    tags = ArrayField(models.CharField(max_length=TAG_MAX), default=list, blank=True, size=TAGS_MAX)
    copied_from = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="copies")
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = PlanQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        indexes = [models.Index(fields=["kitchen", "name"]), GinIndex(fields=["tags"], name="plan_tags")]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="plan_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(document__format="open-ember/plan"), name="plan_document_is_a_plan"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class PlanVersion(models.Model):
    """A version of a plan, with its author and changes. Append-only; numbers run from 1."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120)
    document = models.JSONField()
    changes = models.JSONField(default=list, blank=True)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    kept_at = models.DateTimeField()

    class Meta:
        ordering = ["plan", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["plan", "number"], name="one_version_a_number"),
            models.CheckConstraint(condition=models.Q(number__gte=1), name="versions_run_from_one"),
        ]

    def __str__(self) -> str:
        return f"{self.name}, version {self.number}"
