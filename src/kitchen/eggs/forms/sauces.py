"""Warm sauces, custards and egg-bound pasta."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.eggs.sauce_data import sauce_data
from ember.quantities import Units
from kitchen.desk.forms import count_field
from kitchen.units import fields

from .base import EggForm


class SauceForm(EggForm):
    """Warm sauces of yolk and butter."""

    METHOD = "emulsion"
    PATHS: ClassVar[dict[str, str]] = {
        "sauce": "sauce", "school": "school", "yolks": "yolks_g", "liquid": "liquid_g", "acid": "acid",
        "sugar": "sugar_g", "butter": "butter_g", "clarified": "clarified", "yolk_c": "yolk_c", "there": "minutes",
        "hold_c": "hold_c", "hold": "hold_minutes",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "sauce": "hollandaise", "school": "water-bath", "yolks": 51.0, "liquid": 45.0, "acid": True, "butter": 200.0,
        "clarified": True, "yolk_c": 65.0, "there": 3.0, "hold_c": 58.0, "hold": 45.0, "covers": 8,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("sauce", "Sauce", ""), ("school", "Method", ""), ("yolks", "Yolks", "oz"), ("liquid", "Reduction", "oz"),
        ("butter", "Butter", "oz"), ("clarified", "Clarified", ""), ("yolk_c", "Whisked to", "c"),
        ("there", "and kept there", "min"), ("hold_c", "Held at", "c"), ("hold", "for", "min"),
        ("covers", "Covers", ""),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("acid", "Reduction is acid", ""), ("sugar", "Sugar", "oz"), ("reduce", "Reduced from", "ml"),
        ("reduce_mm", "in a pan of", "mm"), ("reduce_w", "on a burner of", "W"),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: base, butter, time window, holding."""
        add = self.fields
        sauces = [("hollandaise", "Hollandaise"), ("bearnaise", "Béarnaise"), ("sabayon", "Sabayon")]
        add["sauce"] = forms.ChoiceField(choices=sauces)
        add["school"] = forms.ChoiceField(choices=[(k, school.name) for k, school in sauce_data().schools.items()])
        add["yolks"] = fields.small_mass("Yolks", units, 1, 50_000)
        add["liquid"] = fields.small_mass("Reduction", units, 0, 20_000, required=False)
        add["acid"] = forms.BooleanField(required=False)
        add["sugar"] = fields.small_mass("Sugar", units, 0, 20_000, required=False)
        add["butter"] = fields.small_mass("Butter", units, 0, 50_000, required=False)
        add["clarified"] = forms.BooleanField(required=False)
        add["yolk_c"] = fields.temperature("Whisked to", units, 5, 99)
        add["there"] = fields.minutes("Kept there", 0, 120, required=False)
        add["hold_c"] = fields.temperature("Held at", units, 5, 90, required=False)
        add["hold"] = fields.minutes("Held for", 0, 1440, required=False)
        add["covers"] = forms.IntegerField(min_value=1, max_value=2000, required=False,
                                           widget=forms.TextInput(attrs={"inputmode": "numeric"}))  # fmt: skip
        add["reduce"] = fields.volume("Reduced from", units, 1, 50_000, required=False)
        add["reduce_mm"] = fields.length("Pan", units, 80, 800, required=False)
        add["reduce_w"] = fields.plain_number("Burner", 50, 30_000, "W", required=False)

    def document(self) -> dict[str, Any]:
        """The request; an unticked box is stated too."""
        values = super().document()
        return values | {"acid": bool(self.cleaned_data["acid"]), "clarified": bool(self.cleaned_data["clarified"])}


class PastaForm(EggForm):
    """Egg-bound pasta."""

    METHOD = "pasta"
    PATHS: ClassVar[dict[str, str]] = {
        "bound": "bound", "pasta": "pasta_g", "pasta_c": "pasta_c", "egg": "egg_g", "yolk_pct": "yolk_share",
        "egg_c": "egg_c", "cheese": "cheese_g", "fat": "fat_g", "fat_c": "fat_c", "water": "water_g",
        "water_c": "water_c", "starch": "starch_water",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "bound": "pasta", "pasta": 240.0, "pasta_c": 82.0, "egg": 70.0, "yolk_pct": 0.6, "egg_c": 18.0,
        "cheese": 40.0, "fat": 30.0, "fat_c": 60.0, "water": 30.0, "water_c": 90.0, "starch": True,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("bound", "Binds", ""), ("pasta", "Hot and drained", "oz"), ("pasta_c", "at", "c"), ("egg", "Egg", "oz"),
        ("egg_c", "at", "c"), ("cheese", "Cheese", "oz"), ("fat", "Fat", "oz"), ("fat_c", "at", "c"),
        ("water", "Pasta water", "oz"), ("water_c", "at", "c"), ("starch", "It is starchy", ""),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (("yolk_pct", "Yolk, of the egg", "share"),)

    def build(self, units: Units) -> None:
        """Build the fields: masses and temperatures."""
        add = self.fields
        add["bound"] = forms.ChoiceField(choices=[("pasta", "Pasta"), ("stuffing", "A stuffing")])
        for name, what, most, must in (
            ("pasta", "Pasta", 50_000, True), ("egg", "Egg", 50_000, True), ("cheese", "Cheese", 5000, False),
            ("fat", "Fat", 5000, False), ("water", "Water", 5000, False),
        ):  # fmt: skip
            add[name] = fields.small_mass(what, units, 1 if must else 0, most, required=must)
        for name, what, low, high in (
            ("pasta_c", "Pasta", 20, 100), ("egg_c", "Egg", 0, 50), ("fat_c", "Fat", 0, 180),
            ("water_c", "Water", 0, 100),
        ):  # fmt: skip
            add[name] = fields.temperature(what, units, low, high, required=name == "pasta_c")
        add["yolk_pct"] = fields.plain_number("Yolk", 0, 1, required=False)
        add["starch"] = forms.BooleanField(required=False)

    def document(self) -> dict[str, Any]:
        """The request; an unticked box is stated too."""
        return super().document() | {"starch_water": bool(self.cleaned_data["starch"])}


class CustardForm(EggForm):
    """Custards in their water bath."""

    METHOD = "custard"
    PATHS: ClassVar[dict[str, str]] = {
        "custard": "custard", "oven": "oven_c", "bath": "bath_c", "level": "water_level", "cover": "cover",
        "mix_c": "start_c", "yolk_pct": "yolk_pct", "sugar_pct": "sugar_pct", "set_c": "target_c",
        "after_bath": "after",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "custard": "cream", "diameter": 85.0, "depth": 35.0, "count": 10, "oven": 160.0, "level": 0.66, "mix_c": 50.0,
        "sugar_pct": 12.0, "yolk_pct": 15.0, "after_bath": "lifted",
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("custard", "Kind", ""), ("diameter", "Dish across", "mm"), ("depth", "Filled", "mm"), ("oven", "Oven", "c"),
        ("mix_c", "Mix goes in at", "c"), ("level", "Water to", "of it"), ("cover", "Tent over it", ""),
        ("after_bath", "After", ""),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("bath", "Bath measured", "c"), ("yolk_pct", "Yolk", "%"), ("sugar_pct", "Sugar", "%"),
        ("set_c", "Set at", "c"),
        ("count", "Dishes", ""),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: dish, oven, mix."""
        add = self.fields
        add["custard"] = forms.ChoiceField(choices=[(k, custard.name) for k, custard in sauce_data().custards.items()])
        add["diameter"] = fields.length("Dish", units, 30, 400)
        add["depth"] = fields.length("Filled", units, 8, 120)
        add["oven"] = fields.temperature("Oven", units, 80, 220)
        add["bath"] = fields.temperature("Bath", units, 50, 100, required=False)
        add["level"] = fields.plain_number("Water to", 0, 1, required=False)
        add["cover"] = forms.BooleanField(required=False)
        add["mix_c"] = fields.temperature("Mix", units, 0, 75)
        add["yolk_pct"] = fields.plain_number("Yolk", 0, 60, "%", required=False)
        add["sugar_pct"] = fields.plain_number("Sugar", 0, 40, "%", required=False)
        add["set_c"] = fields.temperature("Set at", units, 60, 95, required=False)
        after = [("lifted", "Lifted out"), ("in-bath", "Left in the bath"), ("ice", "Ice"), ("fridge", "Fridge")]
        add["after_bath"] = forms.ChoiceField(choices=after)
        add["count"] = count_field("Dishes", 500)

    def document(self) -> dict[str, Any]:
        """The request; the dish's two measures are one key."""
        typed = self.cleaned_data
        return super().document() | {"ramekin_mm": [typed["diameter"], typed["depth"]]}

    def more_data(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """Form values of the dish's two measures."""
        diameter, depth = document.get("ramekin_mm") or (85.0, 35.0)
        f = self.fields
        return {
            "diameter": f["diameter"].prepare_value(diameter),
            "depth": f["depth"].prepare_value(depth),
            "count": 10,
        }

    def field_of(self, place: str) -> str | None:
        """The field of a place in the request, including the dish."""
        return "diameter" if place.startswith("ramekin_mm") else super().field_of(place)


class StirredForm(EggForm):
    """Tempering, and custards stirred on the heat."""

    METHOD = "stirred"
    PATHS: ClassVar[dict[str, str]] = {
        "yolks": "yolks_g", "sugar": "sugar_g", "yolk_start": "yolk_start_c", "cream": "cream_g", "cream_c": "cream_c",
        "pours": "pours", "to_c": "to_c", "there": "minutes_there", "starch_g": "starch_g",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "yolks": 119.0, "sugar": 110.0, "yolk_start": 16.0, "cream": 600.0, "cream_c": 86.0, "pours": 4, "to_c": 82.5,
        "there": 0.25, "starch_g": 0.0,
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("yolks", "Yolks", "oz"), ("sugar", "Sugar", "oz"), ("yolk_start", "Yolks at", "c"), ("cream", "Cream", "oz"),
        ("cream_c", "Cream at", "c"), ("pours", "Pours", ""), ("to_c", "Stirred to", "c"),
        ("there", "kept there", "min"), ("starch_g", "Starch", "oz"),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: yolks, cream, and the end temperature."""
        add = self.fields
        add["yolks"] = fields.small_mass("Yolks", units, 1, 50_000)
        add["sugar"] = fields.small_mass("Sugar", units, 0, 20_000, required=False)
        add["yolk_start"] = fields.temperature("Yolks", units, 0, 50)
        add["cream"] = fields.small_mass("Cream", units, 1, 50_000)
        add["cream_c"] = fields.temperature("Cream", units, 20, 100)
        add["pours"] = count_field("Pours", 20)
        add["to_c"] = fields.temperature("Stirred to", units, 60, 99)
        add["there"] = fields.minutes("Kept there", 0, 60, required=False)
        add["starch_g"] = fields.small_mass("Starch", units, 0, 2000, required=False)
