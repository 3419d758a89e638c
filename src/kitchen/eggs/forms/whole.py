"""Whole eggs: boiled, steamed, in a bath, poached."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.eggs.heating import poach_schools
from ember.eggs.kinds import kinds
from ember.quantities import Units
from kitchen.desk.forms import count_field, read
from kitchen.units import fields

from .base import EGG, EggForm

YOLK_WORDS = ("runny", "syrupy", "jammy", "fudgy", "set", "chalky")
CLOCK = "clock"
AFTER = [("ice_bath", "Ice bath"), ("open", "Peeled at once"), ("tap", "Cold tap"), ("air", "Left unpeeled")]


class WholeForm(EggForm):
    """Whole eggs in water, bath or steam."""

    PATHS: ClassVar[dict[str, str]] = {
        "kind": "egg.kind", "mass": "egg.mass_g", "count": "count", "start": "egg.start_c", "altitude": "altitude_m",
        "water": "water_c", "litres": "pot.water_l", "power": "pot.power_w", "after": "then.kind",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "kind": "hen", "mass": 58.0, "count": 6, "start": 5.0, "target": "jammy", "after": "ice_bath",
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (*EGG, ("altitude", "Altitude", "m"))
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("girth", "Girth instead", "mm"), ("litres", "Water", "l"), ("power", "Burner", "W"),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: kind, size, start, water, cooling, and the target."""
        add = self.fields
        add["kind"] = forms.ChoiceField(choices=[(k.id, k.name) for k in kinds().values()])
        add["mass"] = fields.small_mass("Mass", units, 5, 2500, required=False)
        add["girth"] = fields.length("Girth", units, 50, 600, required=False)
        add["count"] = count_field("Eggs", 500)
        add["start"] = fields.temperature("Start", units, -0.5, 45)
        add["altitude"] = fields.height("Altitude", units, -400, 5000, required=False)
        add["litres"] = fields.pot_volume("Water", units, 0.2, 200, required=False)
        add["power"] = fields.plain_number("Burner", 0, 60_000, "W", required=False)
        add["after"] = forms.ChoiceField(choices=AFTER)
        words = [(word, word.capitalize()) for word in YOLK_WORDS]
        add["target"] = forms.ChoiceField(choices=[*words, (CLOCK, "By the clock")])
        add["minutes"] = fields.clock("Minutes", 0.2, 720, required=False)

    def clean(self) -> dict[str, Any]:
        """Require minutes for the clock; another kind of egg starts with its own mass."""
        cleaned = super().clean() or {}
        if cleaned.get("target") == CLOCK and cleaned.get("minutes") is None and "minutes" not in self.errors:
            self.add_error("minutes", "Enter the minutes, or choose a yolk.")
        return cleaned

    def document(self) -> dict[str, Any]:
        """The request; girth overrides mass, and the target is a word or minutes."""
        values = super().document()
        typed = self.cleaned_data
        if typed.get("girth") is not None:
            values["egg"].pop("mass_g", None)
            values["egg"]["girth_mm"] = typed["girth"]
        if typed["target"] == CLOCK:
            values["minutes"] = typed["minutes"]
        else:
            values["target"] = {"yolk": typed["target"]}
        return values

    def more_data(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """Form values of girth, and of target or minutes."""
        values: dict[str, Any] = {"target": read(document, "target.yolk") or CLOCK}
        if (girth := read(document, "egg.girth_mm")) is not None:
            values["girth"] = self.fields["girth"].prepare_value(girth)
        if (minutes := document.get("minutes")) is not None:
            values["minutes"] = self.fields["minutes"].prepare_value(minutes)
        return values

    def field_of(self, place: str) -> str | None:
        """The field of a place in the request, including target, minutes and girth."""
        if place.startswith("target") or place == "minutes":
            return "target"
        return "girth" if place == "egg.girth_mm" else super().field_of(place)


class BoilForm(WholeForm):
    """Boiled: into hot water, from cold, or from cold and off the heat at the boil."""

    METHOD = "boil"
    PATHS: ClassVar[dict[str, str]] = {**WholeForm.PATHS, "pot_start": "start"}
    DEFAULTS: ClassVar[dict[str, Any]] = {**WholeForm.DEFAULTS, "pot_start": "hot"}
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (("water", "Water at", "c"), *WholeForm.MORE)

    def build(self, units: Units) -> None:
        """Build the field of the pot's start."""
        super().build(units)
        starts = [("hot", "Hot start"), ("cold", "Cold start"), ("off-heat", "Off the heat")]
        self.fields["pot_start"] = forms.ChoiceField(choices=starts)
        self.fields["water"] = fields.temperature("Water", units, 40, 102, required=False)


class SteamForm(WholeForm):
    """Steamed."""

    METHOD = "steam"
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (("girth", "Girth instead", "mm"),)


class CirculatorForm(WholeForm):
    """In a bath."""

    METHOD = "circulator"
    DEFAULTS: ClassVar[dict[str, Any]] = {**WholeForm.DEFAULTS, "water": 64.0, "target": "syrupy", "after": "open"}
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (("water", "Bath", "c"), *EGG)
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (("girth", "Girth instead", "mm"),)

    def build(self, units: Units) -> None:
        """Build the fields of the bath."""
        super().build(units)
        self.fields["water"] = fields.temperature("Bath", units, 50, 90)


class PoachForm(WholeForm):
    """Poached, by method."""

    METHOD = "poach"
    PATHS: ClassVar[dict[str, str]] = {
        **WholeForm.PATHS, "school": "school", "back_c": "bring_back.water_c", "back_min": "bring_back.minutes",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        **WholeForm.DEFAULTS, "school": "whirl", "water": 92.0, "target": CLOCK, "minutes": 4.0, "back_c": 60.0,
        "back_min": 10.0,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("school", "Method", ""), ("water", "Water", "c"), *EGG,
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("altitude", "Altitude", "m"), ("back_c", "Reheated in", "c"), ("back_min", "for", "min"),
        *WholeForm.MORE,
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: method, water, and reheating."""
        super().build(units)
        after = [
            ("ice_bath", "Ice bath"),
            ("open", "Served at once"),
            ("tap", "Cold water"),
            ("air", "Left on a cloth"),
        ]
        self.fields["after"] = forms.ChoiceField(choices=after)
        self.fields["school"] = forms.ChoiceField(choices=[(s.id, s.name) for s in poach_schools().values()])
        self.fields["water"] = fields.temperature("Water", units, 55, 102, required=False)
        self.fields["back_c"] = fields.temperature("Reheated in", units, 40, 100, required=False)
        self.fields["back_min"] = fields.minutes("Reheated for", 0.2, 60, required=False)

    def document(self) -> dict[str, Any]:
        """The request; only a chilled egg is reheated."""
        values = super().document()
        if values["then"]["kind"] not in ("ice_bath", "tap"):
            values.pop("bring_back", None)
        return values
