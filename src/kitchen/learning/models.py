"""Studies of a kitchen's finished cooks."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned


class Study(KitchenOwned):
    """A study of finished cooks: `done` of `of` steps, then `found`: rows of proposals, or the reason it failed.

    A row of `found`: kind, key (of the equipment or cut), name, value, low, high, now, cooks, spread (factors of pans
    and cuts are factors), before_k, after_k, fall_low_k, fall_high_k, errors [[name, before, after]], why_not.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField()
    done = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    cooks = models.PositiveIntegerField(default=0)
    found = models.JSONField(null=True)
    problem = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-asked_at"]

    def __str__(self) -> str:
        return f"study of {self.asked_at:%Y-%m-%d}"
