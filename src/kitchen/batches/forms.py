"""The chill desk's form: what is chilled, how, how it keeps and comes back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.chill.cold import words
from ember.food.catalogue import cuts
from ember.quantities import Units
from kitchen.desk.forms import DeskForm, count_field
from kitchen.units import fields

SHAPES = [("slab", "Flat"), ("cylinder", "Roll"), ("sphere", "Ball")]
PACKED = [("cook-chill", "In the bag"), ("open", "In a tray, covered"), ("reduced-oxygen", "Vacuum packed")]
BACK = [("", "not known"), ("bath", "Water bath"), ("oven", "Oven"), ("sauce", "In the sauce"), ("steam", "Steam")]
THEN = [("served", "Served at once"), ("held", "Held hot")]
MOST_PORTIONS = 2000


class ChillForm(DeskForm):
    """The fields of a batch that leaves the heat."""

    FORMAT: ClassVar[str] = "open-ember/chill"
    PREFIX: ClassVar[str] = "chill"
    PATHS: ClassVar[dict[str, str]] = {
        "cut": "piece.cut", "start": "piece.start_c", "mass": "piece.mass_g", "count": "piece.count",
        "first": "first_c", "wait": "wait_min", "room": "room_c", "layers": "layers", "packed": "packed",
        "kept": "kept_c", "ph": "barriers.ph", "aw": "barriers.aw", "salt": "barriers.salt_water_pct",
        "heat": "barriers.heat_c", "heat_min": "barriers.heat_min",
    }  # fmt: skip
    DEFAULTS: ClassVar[dict[str, Any]] = {
        "cut": "pork/belly", "shape": "slab", "size": 48.0, "mass": 950.0, "count": 6, "portions": 24, "start": 70.0,
        "wait": 10.0, "way": "ice-bath", "until": 5.0, "then": "walk-in", "layers": 1, "packed": "cook-chill",
        "kept": 3.0, "back": "bath", "medium": 66.0, "after": "served", "bagged": "on",
    }  # fmt: skip
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("cut", "Cut", ""), ("shape", "Shape", ""), ("size", "Thickness", "mm"), ("mass", "Mass each", "g"),
        ("count", "Pieces", ""), ("portions", "Portions", ""), ("start", "Core when off the heat", "c"),
        ("bagged", "In the bag", ""),
    )  # fmt: skip
    COLD: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("wait", "Stands before chilling", "min"), ("way", "Chill in", ""), ("until", "until", "c"),
        ("then", "then", ""),
        ("layers", "Layers", ""),
    )  # fmt: skip
    KEPT: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("packed", "Packaging", ""), ("kept", "Stored at", "c"), ("back", "Reheated in", ""), ("medium", "set to", "c"),
        ("to", "until the core reaches", "c"), ("after", "then", ""),
    )  # fmt: skip
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = (
        ("first", "First cooked to", "c"), ("room", "Room", "c"), ("air", "Air temperature", "c"),
        ("ph", "pH", ""), ("aw", "Water activity", ""), ("salt", "Salt in the water phase", "%"),
        ("cured", "Cured meat", ""),
        ("heat", "Core held at", "c"), ("heat_min", "for", "min"),
    )  # fmt: skip

    def build(self, units: Units) -> None:
        """Build the fields: piece, cooling, storage, reheating."""
        add = self.fields
        ways = [(key, texts["name"]) for key, texts in words()["ways"].items()]
        add["cut"] = forms.ChoiceField(
            choices=[*sorted(((key, texts.name) for key, texts in cuts().items()), key=_by_name)]
        )
        add["shape"] = forms.ChoiceField(choices=SHAPES)
        add["size"] = fields.length("Thickness", units, 2, 400)
        add["mass"] = fields.mass("Mass each", units, 1, 60_000)
        add["count"] = count_field("Pieces", 500)
        add["portions"] = count_field("Portions", MOST_PORTIONS)
        add["start"] = fields.temperature("Core", units, 20, 95)
        add["bagged"] = forms.BooleanField(required=False)
        add["wait"] = fields.plain_number("Standing time", 0, 720, "min", required=False)
        add["way"] = forms.ChoiceField(choices=ways)
        add["until"] = fields.temperature("until", units, 1, 60, required=False)
        add["then"] = forms.ChoiceField(choices=[("", "it stays there"), *ways[1:]], required=False)
        add["layers"] = count_field("Layers", 12)
        add["packed"] = forms.ChoiceField(choices=PACKED)
        add["kept"] = fields.temperature("Stored at", units, -30, 10)
        add["back"] = forms.ChoiceField(choices=BACK, required=False)
        add["medium"] = fields.temperature("set to", units, 30, 320, required=False)
        add["to"] = fields.temperature("Core", units, 20, 98, required=False)
        add["after"] = forms.ChoiceField(choices=THEN, required=False)
        add["first"] = fields.temperature("First", units, 20, 98, required=False)
        add["room"] = fields.temperature("Room", units, -5, 45, required=False)
        add["air"] = fields.temperature("Air", units, -40, 15, required=False)
        add["ph"] = fields.plain_number("pH", 2, 10, required=False)
        add["aw"] = fields.plain_number("Water activity", 0.5, 1, required=False)
        add["salt"] = fields.plain_number("Salt in the water phase", 0, 26, "%", required=False)
        add["cured"] = forms.BooleanField(required=False)
        add["heat"] = fields.temperature("Core held at", units, 70, 121, required=False)
        add["heat_min"] = fields.plain_number("Held for", 0.1, 2880, "min", required=False)

    def clean(self) -> dict[str, Any]:
        """Require an end for a cooling place that is followed by another."""
        cleaned = super().clean() or {}
        if cleaned.get("then") and cleaned.get("until") is None and "until" not in self.errors:
            self.add_error("until", "Enter the core temperature at which it moves on.")
        heat, minutes = cleaned.get("heat"), cleaned.get("heat_min")
        if (heat is None) != (minutes is None) and not {"heat", "heat_min"} & set(self.errors):
            self.add_error("heat" if heat is None else "heat_min", "Enter both a temperature and its minutes.")
        return cleaned

    def document(self) -> dict[str, Any]:
        """The request; shape, cooling and reheating combine several fields."""
        values, typed = super().document(), self.cleaned_data
        kind = typed["shape"]
        values["piece"]["shape"] = {
            "kind": kind, "thickness_mm" if kind == "slab" else "diameter_mm": typed["size"],
        }  # fmt: skip
        values["bagged"] = bool(typed.get("bagged"))
        if typed.get("cured"):
            values.setdefault("barriers", {})["cured"] = True
        first: dict[str, Any] = {"way": typed["way"]}
        if typed["way"] != "ice-bath" and typed.get("air") is not None:
            first["air_c"] = typed["air"]
        values["cold"] = [first]
        if typed.get("then"):
            first["to_c"] = typed["until"]
            values["cold"].append({"way": typed["then"]})
        if typed.get("back"):
            reheating = {"in": typed["back"], "medium_c": typed.get("medium"), "to_c": typed.get("to")}
            if typed["back"] == "steam":
                reheating.pop("medium_c")
            values["back"] = {k: v for k, v in reheating.items() if v is not None} | {
                "then": typed.get("after") or "served"
            }
        return values

    def field_of(self, place: str) -> str | None:
        """The field of a place in the request, including combined fields."""
        fields_by_path = {"back.to_c": "to", "back.medium_c": "medium", "cold[0].to_c": "until", "cold[0].air_c": "air"}
        if place in fields_by_path:
            return fields_by_path[place]
        return "size" if place.startswith("piece.shape") else super().field_of(place)

    def _rows(self, rows: tuple[tuple[str, str, str], ...]) -> list[tuple[Any, str, str]]:
        return [(self[name], label, self._unit(unit)) for name, label, unit in rows]

    @property
    def cold(self) -> list[tuple[Any, str, str]]:
        """The bound fields for cooling."""
        return self._rows(self.COLD)

    @property
    def kept_and_back(self) -> list[tuple[Any, str, str]]:
        """The bound fields for storage and reheating."""
        return self._rows(self.KEPT)


def _by_name(choice: tuple[str, str]) -> str:
    return choice[1].lower()


class ReadingForm(forms.Form):
    """A probe reading."""

    def __init__(self, data: Mapping[str, Any] | None, units: Units) -> None:
        super().__init__(data)
        self.fields["celsius"] = fields.temperature("Core", units, -40, 120)
        self.fields["celsius"].widget.attrs |= {"id": "batch-celsius", "placeholder": units.degree}


class PortionForm(forms.Form):
    """The number of portions."""

    cut_into = count_field("Portions", MOST_PORTIONS)


class UseForm(forms.Form):
    """Portions taken, and what for."""

    portions = count_field("Portions", MOST_PORTIONS)
    note = forms.CharField(max_length=80, required=False)
