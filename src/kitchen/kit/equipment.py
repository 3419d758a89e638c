"""Equipment: what a kitchen cooks with, where it stands, and how far off it was found to be."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from django.conf import settings
from django.db import models

from kitchen.accounts.models import Kitchen, KitchenOwned, KitchenQuerySet

from .models import Probe


class EquipmentQuerySet(KitchenQuerySet):
    """Equipment that is there, unless asked."""

    def current(self) -> models.QuerySet:
        """What was not taken out."""
        return self.filter(removed_at=None)


class Equipment(KitchenOwned):
    """One oven, bath, ring, pan, shelf, fridge. A pan has its diameter, mass and material; what has room has places."""

    class Kind(models.TextChoices):
        OVEN = "oven", "Oven"
        BATH = "bath", "Bath"
        HOB = "hob", "Hob ring"
        PAN = "pan", "Pan"
        PLANCHA = "plancha", "Plancha"
        GRILL = "grill", "Grill"
        FRYER = "fryer", "Fryer"
        SHELF = "shelf", "Rest shelf"
        CUPBOARD = "cupboard", "Hot cupboard"
        FRIDGE = "fridge", "Fridge"
        CHILLER = "chiller", "Blast chiller"

    class Material(models.TextChoices):
        STEEL = "steel", "Steel"
        CARBON_STEEL = "carbon-steel", "Carbon steel"
        CAST_IRON = "cast-iron", "Cast iron"
        CLAD_ALUMINIUM = "clad-aluminium", "Clad aluminium"
        COPPER = "copper", "Copper"

    kind = models.CharField(max_length=10, choices=Kind)
    name = models.CharField(max_length=40)
    station = models.CharField(max_length=40, blank=True)
    places = models.PositiveSmallIntegerField(null=True, blank=True)
    diameter_mm = models.FloatField(null=True, blank=True)
    mass_kg = models.FloatField(null=True, blank=True)
    material = models.CharField(max_length=16, choices=Material, blank=True)
    check_days = models.PositiveSmallIntegerField(default=28)
    removed_at = models.DateTimeField(null=True, blank=True)

    objects = EquipmentQuerySet.as_manager()

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint(
                fields=["kitchen", "name"], condition=models.Q(removed_at=None), name="equipment_name_once_a_kitchen"
            ),
            models.CheckConstraint(
                condition=~models.Q(kind="pan")
                | (models.Q(diameter_mm__gt=0) & models.Q(mass_kg__gt=0) & ~models.Q(material="")),
                name="a_pan_has_its_measures",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def has_setting(self) -> bool:
        """Whether it is set to a temperature, which can be checked."""
        return self.kind not in (self.Kind.HOB, self.Kind.SHELF)

    @property
    def vessel(self) -> dict[str, object]:
        """A pan as a plan says it; empty for anything else."""
        if self.kind != self.Kind.PAN:
            return {}
        return {"mass_kg": self.mass_kg, "material": self.material, "diameter_mm": self.diameter_mm}


class KitCheck(KitchenOwned):
    """What was found when a piece of equipment or a probe was checked. Append-only.

    `kind`: a setting of the equipment, or the probe in melting ice or boiling water. `wanted_c` is what it should have
    been, `read_c` what it was.
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
        """How much hotter it was, or read, than it should."""
        return self.read_c - self.wanted_c


@dataclass(frozen=True)
class Due:
    """When something is to be checked next; `days` from today, None where it never was."""

    days: int | None

    @property
    def overdue(self) -> int:
        """How many days too late it is."""
        return max(-(self.days or 0), 0)


def due(kitchen: Kitchen, last: dt.datetime | None, every_days: int) -> Due:
    """When the next check is due after the last one."""
    if last is None:
        return Due(None)
    today = kitchen.now().astimezone(kitchen.zone).date()
    return Due((last.astimezone(kitchen.zone).date() + dt.timedelta(days=every_days) - today).days)
