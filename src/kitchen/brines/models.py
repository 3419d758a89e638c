"""Brines a kitchen saves, and the confirmations of those with curing salt."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from django.conf import settings
from django.db import models

from ember.files.brine import same_recipe
from kitchen.desk.saved_requests import SavedRequest, saved_request_constraints


def fingerprint_of(document: dict[str, Any]) -> str:
    """Hash of a recipe to the gram, whatever the order of its JSON; a confirmation applies to it alone."""
    return hashlib.sha256(json.dumps(same_recipe(document), sort_keys=True).encode()).hexdigest()


class BrinePlan(SavedRequest):
    """An `open-ember/brine` request under a name. `asked_at`: when somebody asked for a second person once more."""

    asked_at = models.DateTimeField(null=True, blank=True)

    class Meta(SavedRequest.Meta):
        constraints = saved_request_constraints("brine_plan", "open-ember/brine", "a_brine")

    @property
    def has_nitrite(self) -> bool:
        """Whether it contains curing salt."""
        return bool(self.document.get("cure"))

    @property
    def confirmation(self) -> Confirmation | None:
        """The confirmation of this brine as it stands that no start has used yet; a change voids earlier ones."""
        rows = self.confirmations.filter(fingerprint=fingerprint_of(self.document), use=None)
        return rows.select_related("by").order_by("-at").first()


class Confirmation(models.Model):
    """A second person's confirmation of strength, grams and meat. Append-only."""

    plan = models.ForeignKey(BrinePlan, on_delete=models.CASCADE, related_name="confirmations")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    fingerprint = models.CharField(max_length=64)
    document = models.JSONField()
    how = models.CharField(max_length=8, blank=True)  # by PIN or password; empty where it was not asked yet

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.plan} confirmed by {self.by}"


class ConfirmationUse(models.Model):
    """The one start a confirmation was for. `cook_key`: the cook that was started."""

    confirmation = models.OneToOneField(Confirmation, on_delete=models.CASCADE, related_name="use")
    cook_key = models.UUIDField()
    at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.confirmation}, used"
