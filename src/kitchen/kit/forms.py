"""Forms of equipment and checks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from ember.kit.thermometers import ALTITUDE_M, ICE_C, boiling_point_c
from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.units import fields
from kitchen.web import clean_text

from .models import Equipment, KitCheck

PAN_MM = (80.0, 1200.0)
PAN_KG = (0.1, 40.0)
FIELDS_OF = {"diameter": "pan", "mass": "pan", "material": "pan", "volume": "loaded", "heater": "loaded"}
VOLUME_L, HEATER_W = (0.5, 2000.0), (100.0, 100_000.0)
LOADED = (Equipment.Kind.OVEN, Equipment.Kind.BATH, Equipment.Kind.FRYER)
ORDER = (
    "kind", "name", "station", "places", "diameter", "mass", "material", "volume", "heater", "heat_min", "cool_min",
    "check_days",
)  # fmt: skip


class EquipmentForm(forms.Form):
    """A piece of equipment; a pan needs its measures."""

    kind = forms.ChoiceField(choices=Equipment.Kind.choices)
    name = forms.CharField(max_length=40, error_messages={"required": "Enter a name, like “Oven 2”."})
    station = forms.CharField(max_length=40, required=False, label="Station")
    places = forms.IntegerField(required=False, min_value=1, max_value=99, label="Racks or places")
    material = forms.ChoiceField(choices=[("", "–"), *Equipment.Material.choices], required=False)
    check_days = forms.IntegerField(min_value=1, max_value=366, initial=28, label="Check every, days")

    def __init__(self, data: Any, units: Units, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self.fields["diameter"] = fields.length("Diameter", units, *PAN_MM, required=False, label="Diameter")
        self.fields["mass"] = fields.mass("Mass", units, 1e3 * PAN_KG[0], 1e3 * PAN_KG[1], required=False)
        self.fields["mass"].label = "Mass"
        self.fields["volume"] = fields.pot_volume("Volume", units, *VOLUME_L, required=False)
        self.fields["volume"].label = f"Volume, {units.pot_volume}"
        self.fields["heater"] = fields.plain_number("Heater", *HEATER_W, "W", required=False)
        self.fields["heater"].label = "Heater, W"
        for name, word, least in (("heat_min", "Heats", 0.05), ("cool_min", "Cools", 0.01)):
            label = f"{word}, {units.degree} a minute"
            self.fields[name] = fields.temperature_rate(word, units, least, 200.0, required=False, label=label)
        self.order_fields(ORDER)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"kit-{name}"
            field.widget.attrs["data-asked-of"] = FIELDS_OF.get(name, "any")

    def clean_name(self) -> str:
        """The name without control characters."""
        return clean_text(self.cleaned_data["name"], 40)

    def clean_station(self) -> str:
        """The station without control characters."""
        return clean_text(self.cleaned_data["station"], 40)

    def clean(self) -> dict[str, Any]:
        """Require all measures of a pan."""
        cleaned = super().clean() or {}
        if cleaned.get("kind") == Equipment.Kind.PAN:
            for name, words in (("diameter", "Enter the pan's diameter."), ("mass", "Enter the pan's mass."),
                                ("material", "Choose the pan's material.")):  # fmt: skip
                if not cleaned.get(name) and name not in self.errors:
                    self.add_error(name, words)
        return cleaned

    def equipment(self) -> dict[str, Any]:
        """The model's fields, after validation."""
        typed = self.cleaned_data
        pan, loaded = typed["kind"] == Equipment.Kind.PAN, typed["kind"] in LOADED
        return {
            "kind": typed["kind"], "name": typed["name"], "station": typed["station"], "places": typed["places"],
            "check_days": typed["check_days"], "diameter_mm": typed["diameter"] if pan else None,
            "mass_kg": typed["mass"] / 1e3 if pan and typed["mass"] else None,
            "material": typed["material"] if pan else "",
            "heat_c_per_min": typed["heat_min"], "cool_c_per_min": typed["cool_min"],
            "litres": typed["volume"] if loaded else None, "power_w": typed["heater"] if loaded else None,
        }  # fmt: skip


class SettingCheckForm(forms.Form):
    """A thermometer reading in a piece of equipment at a setting."""

    def __init__(self, data: Any, units: Units) -> None:
        super().__init__(data)
        self.fields["wanted"] = fields.temperature("Set to", units, -40, 400)
        self.fields["read"] = fields.temperature("Measured", units, -60, 500)

    def found(self) -> dict[str, Any]:
        """The check's fields."""
        typed = self.cleaned_data
        return {"kind": KitCheck.Kind.SETTING, "wanted_c": typed["wanted"], "read_c": typed["read"]}


class ProbeCheckForm(forms.Form):
    """A probe reading in melting ice or boiling water."""

    kind = forms.ChoiceField(choices=[("ice", "in melting ice"), ("boil", "in boiling water")])

    def __init__(self, data: Any, units: Units) -> None:
        super().__init__(data)
        self.fields["read"] = fields.temperature("Probe reads", units, -20, 130)

    def found(self, kitchen: Kitchen) -> dict[str, Any]:
        """The check's fields; boiling water depends on the kitchen's altitude."""
        kind = self.cleaned_data["kind"]
        wanted = ICE_C if kind == KitCheck.Kind.ICE else boiling_point_c(kitchen.altitude_m)
        return {"kind": kind, "wanted_c": wanted, "read_c": self.cleaned_data["read"]}


class AltitudeForm(forms.Form):
    """The kitchen's altitude."""

    def __init__(self, data: Mapping[str, Any] | None, units: Units) -> None:
        super().__init__(data)
        self.fields["altitude"] = fields.height("Altitude", units, *ALTITUDE_M)
