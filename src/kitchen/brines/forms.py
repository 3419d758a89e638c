"""The brine desk's form: ingredients, method and time; spoons are converted to grams."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.cure.answer import words
from ember.cure.rows import salt_data
from ember.food.catalogue import cuts
from ember.quantities import Units
from kitchen.desk.forms import DeskForm, read
from kitchen.units import fields

FLESH = [("meat", "Meat"), ("poultry", "Poultry"), ("fish", "Fish"), ("shellfish", "Prawns, shellfish")]
PRODUCTS = [
    ("", "from the cut"), ("immersion", "Immersed"), ("pumped", "Pumped"), ("dry", "Dry cured"),
    ("comminuted", "Mince, sausage"), ("bacon-immersion", "Bacon, immersed"), ("bacon-pumped", "Bacon, pumped"),
    ("bacon-dry", "Bacon, dry"), ("fish-smoked", "Smoked fish"),
]  # fmt: skip
SHAPES = [("slab", "Flat"), ("cylinder", "Roll"), ("sphere", "Ball")]
OWN_STRENGTH = "own"


class BrineForm(DeskForm):
    """A brine, a dry salting, an injection."""

    FORMAT: ClassVar[str] = "open-ember/brine"
    PREFIX: ClassVar[str] = "brine"
    PATHS: ClassVar[dict[str, str]] = {
        "school": "school", "flesh": "flesh", "cut": "cut", "meat": "meat_g", "water": "water_g",
        "salt_pct": "salt_pct",
        "sugar": "sugar_g", "cure": "cure.grams", "pickup": "pickup_pct", "hours": "hours", "temp": "temp_c",
        "product": "product", "want": "want_pct", "soak": "soak.hours", "soak_water": "soak.water_g",
        "treated": "treated",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "school": "equilibrium", "flesh": "meat", "meat": 2400.0, "water": 1800.0, "salt_pct": 1.6, "sugar": 30.0,
        "shape": "slab", "size": 32.0, "hours": 36.0, "temp": 3.0, "strength": "",
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("school", "Method", ""), ("flesh", "Of", ""), ("cut", "Cut", ""), ("meat", "Mass", "g"),
        ("shape", "Shape", ""), ("size", "Thickness", "mm"),
        ("water", "Water", "g"), ("salt_pct", "Salt", "%"), ("sugar", "Sugar", "oz"), ("hours", "Hours", ""),
        ("temp", "At", "c"),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("want", "Target at the core", "%"), ("pickup", "Pick-up", "%"), ("soak", "Desalted", "h"),
        ("soak_water", "in water", "g"), ("treated", "Bought pre-treated", ""),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: meat, brine, salt, curing salt, time."""
        add = self.fields
        schools = [(key, texts["name"]) for key, texts in words()["schools"].items()]
        add["school"] = forms.ChoiceField(choices=schools)
        add["flesh"] = forms.ChoiceField(choices=FLESH)
        named = sorted(((key, texts.name) for key, texts in cuts().items()), key=lambda texts: texts[1].lower())
        add["cut"] = forms.ChoiceField(choices=[("", "not stated"), *named], required=False)
        add["meat"] = fields.mass("Mass", units, 1, 1_000_000)
        add["shape"] = forms.ChoiceField(choices=SHAPES, required=False)
        add["size"] = fields.length("Thickness", units, 1, 600, required=False)
        add["water"] = fields.mass("Water", units, 0, 1_000_000, required=False)
        add["salt_pct"] = fields.plain_number("Salt", 0, 36, "%", required=False)
        add["sugar"] = fields.small_mass("Sugar", units, 0, 1_000_000, required=False)
        add["hours"] = fields.plain_number("Hours", 0.02, 2160, required=False)
        add["temp"] = fields.temperature("At", units, -1, 25)
        add["cure"] = fields.small_mass("Curing salt", units, 0.01, 100_000, required=False)
        sold = [(f"{s.pct:g}", s.name) for s in salt_data().strength]
        choices = [("", "choose"), *sold, (OWN_STRENGTH, "another")]
        add["strength"] = forms.ChoiceField(choices=choices, required=False)
        add["strength_pct"] = fields.plain_number("Strength", 0.01, 100, "%", required=False)
        add["product"] = forms.ChoiceField(choices=PRODUCTS, required=False)
        add["want"] = fields.plain_number("Wanted", 0.1, 20, "%", required=False)
        add["pickup"] = fields.plain_number("Pick-up", 0.1, 60, "%", required=False)
        add["soak"] = fields.plain_number("Desalted", 0.02, 336, "h", required=False)
        add["soak_water"] = fields.mass("Water", units, 0, 1_000_000, required=False)
        add["treated"] = forms.BooleanField(required=False)
        add["spoons"] = fields.plain_number("Spoons", 0.1, 1000, required=False)
        kinds = [(key, texts.name) for key, texts in salt_data().spoon.items()]
        add["spoon_kind"] = forms.ChoiceField(choices=kinds, required=False)

    def clean(self) -> dict[str, Any]:
        """Require the water of a brine, the amount of salt, and the strength of a curing salt, which is never
        assumed.
        """
        cleaned = super().clean() or {}
        if cleaned.get("school") != "dry" and not cleaned.get("water") and "water" not in self.errors:
            self.add_error("water", "Enter the water.")
        if cleaned.get("salt_pct") is None and "salt_pct" not in self.errors:
            self.add_error("salt_pct", "Enter the salt, in percent.")
        if cleaned.get("cure") is not None:
            if not cleaned.get("cut") and not cleaned.get("product") and "product" not in self.errors:
                self.add_error("product", "Choose the product, or the cut above: the nitrite limit depends on it.")
            if not cleaned.get("strength"):
                self.add_error(
                    "strength", "Choose the strength on the bag: 0.4 to 0.6 %, or 6.25 %. Mixing them up is poisonous."
                )
            elif cleaned["strength"] == OWN_STRENGTH and cleaned.get("strength_pct") is None:
                self.add_error("strength_pct", "Enter the strength on the bag, % sodium nitrite.")
        return cleaned

    def document(self) -> dict[str, Any]:
        """The request; size and strength combine two fields each."""
        values, typed = super().document(), self.cleaned_data
        if typed.get("size") is not None:
            kind = typed.get("shape") or "slab"
            values["size"] = {"kind": kind, "thickness_mm" if kind == "slab" else "diameter_mm": typed["size"]}
        if typed["school"] == "dry":
            values["water_g"] = 0.0
        if typed.get("cure") is not None:
            strength_pct = typed["strength_pct"] if typed["strength"] == OWN_STRENGTH else float(typed["strength"])
            values["cure"]["nitrite_pct"] = strength_pct
        if typed.get("soak") is None:
            values.pop("soak", None)
        values["treated"] = bool(typed.get("treated"))
        return values

    def more_data(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """Form values for size and strength."""
        size = document.get("size") or {}
        values: dict[str, Any] = {"shape": size.get("kind", "slab")}
        size_mm = size.get("thickness_mm") or size.get("diameter_mm")
        if size_mm is not None:
            values["size"] = self.fields["size"].prepare_value(size_mm)
        pct = read(document, "cure.nitrite_pct")
        if pct is not None:
            sold = {s.pct for s in salt_data().strength}
            values |= (
                {"strength": f"{pct:g}"} if pct in sold else {"strength": OWN_STRENGTH, "strength_pct": f"{pct:g}"}
            )
        return values

    def field_of(self, place: str) -> str | None:
        """The field of a place in the request, including size and strength."""
        if place.startswith("size"):
            return "size"
        return "strength" if place == "cure.nitrite_pct" else super().field_of(place)

    @property
    def spooned(self) -> tuple[float, float, str] | None:
        """Grams of a number of level tablespoons, their uncertainty, and of what."""
        if not self.is_valid() or not self.cleaned_data.get("spoons"):
            return None
        spoon = salt_data().spoon[self.cleaned_data.get("spoon_kind") or "fine"]
        n = self.cleaned_data["spoons"]
        return n * spoon.g_tbsp, n * spoon.off_g, spoon.name
