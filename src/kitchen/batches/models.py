"""Batches: cooked food that is chilled, labelled, kept until its day and brought back in portions."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned


class Batch(KitchenOwned):
    """Portions that left the heat together, from a `cook` if it was cooked here.

    `document` is an `open-ember/chill` request, `result` its answer at that time.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    token = models.UUIDField(default=uuid.uuid4, unique=True)
    name = models.CharField(max_length=80)
    document = models.JSONField()
    result = models.JSONField()
    portions = models.PositiveIntegerField()
    out_at = models.DateTimeField()
    out_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    cook = models.ForeignKey("line.Cook", on_delete=models.PROTECT, null=True, blank=True, related_name="batches")

    class Meta:
        ordering = ["-out_at", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="batch_has_a_name"),
            models.CheckConstraint(condition=models.Q(portions__gte=1), name="batch_has_portions"),
            models.CheckConstraint(
                condition=models.Q(document__format="open-ember/chill"), name="batch_document_is_a_chill"
            ),
        ]
        indexes = [models.Index(fields=["kitchen", "-out_at"], name="batches_of_a_kitchen")]

    def __str__(self) -> str:
        return self.name


class BatchEvent(models.Model):
    """An event of a batch. Append-only, in the database too.

    `note`: the place for cooling, the weight for pressing, the purpose for use.
    """

    class Kind(models.TextChoices):
        COLD = "cold", "Chilling started"
        PRESSED = "pressed", "Pressed"
        PORTIONED = "portioned", "Portioned"
        READ = "read", "Read"
        USED = "used", "Used"
        RETURNED = "returned", "Returned"
        REHEATED = "reheated", "Reheated"
        DECIDED = "decided", "Decided"
        DISCARDED = "discarded", "Discarded"

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=Kind)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    celsius = models.FloatField(null=True, blank=True)
    portions = models.PositiveIntegerField(default=0)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["at", "id"]
        constraints = [
            models.CheckConstraint(
                condition=~models.Q(kind__in=["read", "reheated"]) | models.Q(celsius__isnull=False),
                name="batch_reading_has_its_celsius",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.batch}: {self.get_kind_display()}"
