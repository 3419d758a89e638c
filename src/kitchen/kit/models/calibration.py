"""Values calibrated from finished cooks and accepted by a chef."""

from __future__ import annotations

from typing import Any, ClassVar, Self

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet

from .equipment import Equipment


class TaughtQuerySet(KitchenQuerySet["Taught"]):
    """Accepted values, including withdrawn ones."""

    def current(self) -> Self:
        """Values that were not withdrawn."""
        return self.filter(undone_at=None)


class Taught(KitchenOwned):
    """A calibrated value: the offset of an oven or bath, K; the contact of a pan or the size of a cut, as a factor; the
    recovery of an oven after its door, K a minute. Never changed, only withdrawn; the newest valid one counts.

    `low`, `high`: its interval; `before_k`, `after_k`: prediction error for other cooks, K (doors: minutes).
    """

    class Kind(models.TextChoices):
        OVEN = "oven", "Oven"
        BATH = "bath", "Bath"
        PAN = "pan", "Pan"
        CUT = "cut", "Cut"
        DOOR = "door", "After its door"

    kind = models.CharField(max_length=4, choices=Kind)
    equipment = models.ForeignKey(Equipment, null=True, blank=True, on_delete=models.CASCADE, related_name="taught")
    cut = models.CharField(max_length=80, blank=True)
    number = models.PositiveIntegerField()
    value = models.FloatField()
    low = models.FloatField()
    high = models.FloatField()
    cooks = models.PositiveIntegerField()
    before_k = models.FloatField()
    after_k = models.FloatField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    undone_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    undone_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = TaughtQuerySet.as_manager()

    class Meta:
        ordering = ["-number", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=(models.Q(kind="cut") & models.Q(equipment=None) & ~models.Q(cut=""))
                | (~models.Q(kind="cut") & ~models.Q(equipment=None) & models.Q(cut="")),
                name="taught_of_one_thing",
            ),
            models.UniqueConstraint(
                fields=["equipment", "kind"], condition=models.Q(undone_at=None, equipment__isnull=False),
                name="one_counts_of_a_piece_of_equipment",
            ),
            models.UniqueConstraint(
                fields=["kitchen", "cut"], condition=models.Q(undone_at=None) & ~models.Q(cut=""),
                name="one_counts_of_a_cut",
            ),
            models.CheckConstraint(
                condition=models.Q(low__lte=models.F("value")) & models.Q(high__gte=models.F("value")),
                name="taught_within_its_interval",
            ),
        ]  # fmt: skip

    def __str__(self) -> str:
        return f"{self.equipment or self.cut}: {self.value:g}"

    @property
    def is_factor(self) -> bool:
        """Whether it is a factor; otherwise it is in K."""
        return self.kind in (self.Kind.PAN, self.Kind.CUT)
