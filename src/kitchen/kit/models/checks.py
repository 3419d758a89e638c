"""Checks of equipment and probes: the offset found by each."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned

from .equipment import Equipment
from .probes import Probe


class KitCheck(KitchenOwned):
    """The result of checking a piece of equipment or a probe. Append-only.

    `kind`: a setting of the equipment, or the probe in melting ice or boiling water. `wanted_c` is the true value,
    `read_c` the one shown.
    """

    class Kind(models.TextChoices):
        SETTING = "setting", "at its setting"
        ICE = "ice", "in melting ice"
        BOIL = "boil", "in boiling water"

    equipment = models.ForeignKey(Equipment, null=True, blank=True, on_delete=models.CASCADE, related_name="checks")
    probe = models.ForeignKey(Probe, null=True, blank=True, on_delete=models.CASCADE, related_name="checks")
    kind = models.CharField(max_length=7, choices=Kind)
    wanted_c = models.FloatField()
    read_c = models.FloatField()
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=(~models.Q(equipment=None) & models.Q(probe=None) & models.Q(kind="setting"))
                | (models.Q(equipment=None) & ~models.Q(probe=None) & ~models.Q(kind="setting")),
                name="a_check_is_of_one_thing",
            ),
            models.CheckConstraint(
                condition=models.Q(read_c__gte=-60) & models.Q(read_c__lte=500), name="checked_in_range"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.equipment or self.probe} {self.get_kind_display()}"

    @property
    def off_k(self) -> float:
        """Offset, K: positive if it was hotter, or read higher, than it should."""
        return self.read_c - self.wanted_c
