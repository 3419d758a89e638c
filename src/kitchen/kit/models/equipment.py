"""Equipment: what a kitchen cooks with and where it stands."""

from __future__ import annotations

from typing import Any, ClassVar, Self

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet

SAID = (
    "kind", "name", "station", "places", "check_days", "diameter_mm", "mass_kg", "material", "heat_c_per_min",
    "cool_c_per_min", "litres", "power_w",
)  # fmt: skip


class EquipmentQuerySet(KitchenQuerySet["Equipment"]):
    """Equipment, including removed pieces."""

    def current(self) -> Self:
        """Equipment that was not removed."""
        return self.filter(removed_at=None)


class Equipment(KitchenOwned):
    """An oven, bath, ring, pan, shelf or fridge. A pan has diameter, mass and material; most others a number of
    places; `litres` and `power_w`: what a bath or fryer holds, or an oven's inside, and its heater.
    """

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
    heat_c_per_min = models.FloatField(null=True, blank=True)
    cool_c_per_min = models.FloatField(null=True, blank=True)
    litres = models.FloatField(null=True, blank=True)
    power_w = models.FloatField(null=True, blank=True)
    check_days = models.PositiveSmallIntegerField(default=28)
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    removed_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = EquipmentQuerySet.as_manager()

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
    def said(self) -> dict[str, object]:
        """Form values."""
        return {name: getattr(self, name) for name in SAID}

    @property
    def has_setting(self) -> bool:
        """Whether it has a temperature setting that can be checked."""
        return self.kind not in (self.Kind.HOB, self.Kind.SHELF)

    @property
    def load(self) -> dict[str, float]:
        """What holds the food and heats it, in the form of a plan; empty where nobody said."""
        values = {"litres": self.litres, "power_w": self.power_w}
        return {key: value for key, value in values.items() if value is not None}

    @property
    def vessel(self) -> dict[str, object]:
        """A pan in the form of a plan; empty for anything else."""
        if self.kind != self.Kind.PAN:
            return {}
        return {"mass_kg": self.mass_kg, "material": self.material, "diameter_mm": self.diameter_mm}
