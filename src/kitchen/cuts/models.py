"""A kitchen's own cuts: like one of the catalogue, with another name, composition or doneness words."""

from __future__ import annotations

import uuid
from typing import Any, ClassVar, Self

from django.db import models

from ember.food.catalogue import Cut, cut
from kitchen.accounts.models import KitchenOwned, KitchenQuerySet


class OwnCutQuerySet(KitchenQuerySet["OwnCut"]):
    """Own cuts, including removed ones."""

    def current(self) -> Self:
        """Own cuts that can be planned with."""
        return self.filter(removed_at=None)


class OwnCut(KitchenOwned):
    """An own cut. Removing one only sets `removed_at`: plans keep the cut they were made with."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    base = models.CharField(max_length=80)
    doneness = models.JSONField(default=list, blank=True)
    composition = models.JSONField(null=True, blank=True)
    removed_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = OwnCutQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["kitchen", "name"], condition=models.Q(removed_at=None), name="one_own_cut_of_a_name"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def row(self) -> Cut:
        """The cut of the catalogue it resembles."""
        return cut(self.base)

    @property
    def piece(self) -> dict[str, Any]:
        """The fields it sets in a plan's piece."""
        own = {"name": self.name, **({"doneness": self.doneness} if self.doneness else {})}
        return {"own_cut": own, **({"composition": self.composition} if self.composition else {})}
