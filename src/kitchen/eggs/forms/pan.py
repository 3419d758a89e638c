"""Eggs in the pan: scrambled, omelettes, fried."""

from __future__ import annotations

from typing import Any, ClassVar

from django import forms

from ember.eggs.kinds import kinds
from ember.eggs.pan_data import pan_data
from ember.quantities import Units
from kitchen.desk.forms import count_field
from kitchen.units import fields

from .base import EGG, EggForm


class ScrambleForm(EggForm):
    """Scrambled eggs."""

    METHOD = "scramble"
    PATHS: ClassVar[dict[str, str]] = {
        "school": "school", "count": "eggs", "kind": "egg.kind", "mass": "egg.mass_g", "start": "egg.start_c",
        "liquid": "liquid_g", "pan": "pan_mm", "stop": "stop", "stop_g": "stop_g", "off": "off_c", "pan_c": "pan_c",
        "power": "power_w", "stir": "stir_every_s", "plate": "plate_c", "held": "held",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "school": "slow", "count": 3, "kind": "hen", "mass": 58.0, "start": 5.0, "pan": 240.0, "stop": "butter",
        "liquid": 0.0, "plate": 45.0,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("school", "Method", ""), *EGG, ("liquid", "Milk, cream", "oz"), ("pan", "Pan", "mm"),
        ("stop", "Stop", ""), ("stop_g", "with", "oz"),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("off", "Off at", "c"), ("pan_c", "Pan begins at", "c"), ("power", "Burner gives", "W"),
        ("stir", "A stroke every", "s"), ("plate", "Plate", "c"), ("held", "Held after", ""),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: method, eggs, pan, and what stops the cooking."""
        add, data = self.fields, pan_data()
        add["school"] = forms.ChoiceField(choices=[(k, school.name) for k, school in data.scramble.items()])
        add["count"] = count_field("Eggs", 60)
        add["kind"] = forms.ChoiceField(choices=[(k.id, k.name) for k in kinds().values()])
        add["mass"] = fields.small_mass("Mass", units, 5, 2500, required=False)
        add["start"] = fields.temperature("Start", units, -0.5, 45)
        add["liquid"] = fields.small_mass("Milk or cream", units, 0, 3000, required=False)
        add["pan"] = fields.length("Pan", units, 120, 500)
        add["stop"] = forms.ChoiceField(choices=[(k, school.name) for k, school in data.stop.items()])
        add["stop_g"] = fields.small_mass("Stopped with", units, 0, 1000, required=False)
        add["off"] = fields.temperature("Off at", units, 55, 90, required=False)
        add["pan_c"] = fields.temperature("Pan begins at", units, 40, 260, required=False)
        add["power"] = fields.plain_number("Burner", 20, 6000, "W", required=False)
        add["stir"] = fields.plain_number("A stroke every", 0.3, 60, "s", required=False)
        add["plate"] = fields.temperature("Plate", units, 5, 90, required=False)
        add["held"] = forms.BooleanField(required=False)


class OmeletteForm(EggForm):
    """Omelettes, and whole eggs in the pan."""

    METHOD = "omelette"
    PATHS: ClassVar[dict[str, str]] = {
        "school": "school", "count": "eggs", "kind": "egg.kind", "mass": "egg.mass_g", "start": "egg.start_c",
        "pan": "pan_mm", "pan_c": "pan_c", "seconds": "seconds", "plate": "plate_c",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "school": "pale", "count": 3, "kind": "hen", "mass": 58.0, "start": 5.0, "pan": 200.0, "plate": 45.0,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("school", "Method", ""), *EGG, ("pan", "Pan", "mm"), ("pan_c", "Pan at", "c"),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (("seconds", "Off after", "s"), ("plate", "Plate", "c"))

    def build(self, units: Units) -> None:
        """Build the fields: method, eggs and pan."""
        add = self.fields
        add["school"] = forms.ChoiceField(choices=[(k, school.name) for k, school in pan_data().omelette.items()])
        add["count"] = count_field("Eggs", 20)
        add["kind"] = forms.ChoiceField(choices=[(k.id, k.name) for k in kinds().values()])
        add["mass"] = fields.small_mass("Mass", units, 5, 2500, required=False)
        add["start"] = fields.temperature("Start", units, -0.5, 45)
        add["pan"] = fields.length("Pan", units, 120, 500)
        add["pan_c"] = fields.temperature("Pan", units, 90, 260, required=False)
        add["seconds"] = fields.plain_number("Off after", 5, 1800, "s", required=False)
        add["plate"] = fields.temperature("Plate", units, 5, 90, required=False)
