"""The piece and its target, as a form in the person's units."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from django import forms
from django.utils.html import format_html

from ember.files.piece import OwnCut, Piece
from ember.food.catalogue import Cut, cut, cuts
from ember.food.geometry import body_size, footprint_mm, mass_by_sizes_g, typical_mass_g
from ember.judge.doneness import scale_of
from ember.quantities import Units
from kitchen.units import fields
from kitchen.units.number_text import figure

from . import outline_form

SHAPES = [
    ("slab", "Flat piece"), ("cylinder", "Roll"), ("sphere", "Ball"), ("general", "Between"),
    ("from_mass", "From its mass"),
]  # fmt: skip
BETWEEN_EXPONENT = 0.6  # a thick short piece: half way from a flat one to a roll
# Keys of a plan's piece that have fields of their own; the others travel along as long as the cut stays.
ALONG = "along"  # what a piece has beside them travels in this one
PIECE_FIELDS = (
    "cut", "shape", "start_c", "mass_g", "count", "spread_mm", "history", "origin", "stuffed", "fat_cap_mm",
    "trim_pct", "bone_pct", "portions", "outline",
)  # fmt: skip
HISTORY = [("", "Whole"), ("pierced", "Pierced"), ("tenderised", "Tenderised"), ("injected", "Injected")]
# Sizes besides the deciding one, by shape.
SIZES = {"slab": (("wide", "Width"), ("long", "Length")), "cylinder": (("long", "Length"),)}
MOST_TEMPER_MIN = 24 * 60.0

Own = Sequence[tuple[str, float]]  # a kitchen's own doneness words with their low ends


def words_of(cut_entry: Cut, own: Own = ()) -> list[str]:
    """Doneness words that can be a cut's target, without raw."""
    return [word.word for word in scale_of(cut_entry.doneness, own)[1:]]


def usual_word(cut_entry: Cut, own: Own = ()) -> str:
    """The middle doneness word of a cut."""
    words = words_of(cut_entry, own)
    return words[(len(words) - 1) // 2]


def read_along(text: Any) -> dict[str, Any]:
    """Keys of a piece that are carried along; empty if they are invalid."""
    try:
        values = json.loads(text or "{}")
    except (TypeError, ValueError):
        return {}
    return values if isinstance(values, dict) else {}


def own_words(along: Mapping[str, Any]) -> Own:
    """The kitchen's own doneness words, if the piece has valid ones."""
    try:
        return OwnCut.model_validate(along.get("own_cut", {"name": "-"})).doneness
    except ValueError:
        return ()


# How far from the usual piece of its cut a measure may be before the bench asks.
MASS_FACTOR, SIZE_FACTOR = 8.0, 4.0
OFF_FACTOR = 1.35  # how far mass and measured sizes may be apart: no piece is machined


class PieceForm(forms.Form):
    """The piece and its target."""

    name = forms.CharField(
        max_length=120,
        error_messages={"required": "Enter a name for the plan."},
        widget=forms.TextInput(attrs={"autocomplete": "off"}),
    )
    cut = forms.CharField(max_length=80, widget=forms.HiddenInput)
    shape = forms.ChoiceField(choices=SHAPES)
    count = forms.IntegerField(min_value=1, max_value=500, widget=forms.TextInput(attrs={"inputmode": "numeric"}))
    history = forms.ChoiceField(choices=HISTORY, required=False)
    origin = forms.ChoiceField(choices=[("farmed", "Farmed"), ("wild", "Wild")], required=False)
    target = forms.ChoiceField()
    guests = forms.ChoiceField(choices=[("general", "Everybody"), ("susceptible", "Susceptible")], required=False)
    advisory = forms.BooleanField(required=False)
    stuffed = forms.BooleanField(required=False)
    portions = forms.IntegerField(
        min_value=1, max_value=200, required=False, widget=forms.TextInput(attrs={"inputmode": "numeric"})
    )
    along = forms.CharField(required=False, max_length=4000, widget=forms.HiddenInput)
    sure = forms.CharField(required=False, max_length=200, widget=forms.HiddenInput)

    def __init__(self, data: Mapping[str, str] | None, units: Units, cut_entry: Cut, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self.units = units
        self.carried = read_along((data if data is not None else self.initial).get(ALONG))
        own = own_words(self.carried)
        by_mass = (data or {}).get("shape") == "from_mass"
        self.fields["size"] = fields.length("Thickness or diameter", units, 1, 600, required=not by_mass)
        self.fields["mass"] = fields.mass("Mass", units, 1, 60_000, required=False)
        self.fields["spread"] = fields.length("Spread", units, 0, 300, required=False)
        self.fields["fat_cap"] = fields.length("Fat cap", units, 0, 60, required=False)
        self.fields["trim"] = fields.plain_number("Trim", 0, 80, "%", required=False)
        self.fields["bone"] = fields.plain_number("Bone", 0, 80, "%", required=False)
        self.fields["out"] = fields.minutes("Out of the fridge", 0, MOST_TEMPER_MIN, required=False)
        self.fields["start"] = fields.temperature("Start", units, -40, 95)
        self.fields["target_core"] = fields.temperature("Core", units, 20, 99, required=False)
        words = [(word, word.capitalize()) for word in words_of(cut_entry, own)]
        target: forms.Field = self.fields["target"]
        assert isinstance(target, forms.ChoiceField)  # noqa: S101  (declared above)
        target.choices = [*words, ("core", "Core temperature")]
        given = data if data is not None else self.initial
        self._add_sizes(units, cut_entry, given)
        outline_form.add_fields(self, units, str(given.get("shape", "slab")), str(given.get("outline") or ""))
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("id", f"piece-{name}")

    def _add_sizes(self, units: Units, cut_entry: Cut, given: Mapping[str, Any]) -> None:
        """Width and length, where no outline has them; empty they are assumed."""
        if given.get("outline"):
            return
        names = SIZES.get(str(given.get("shape", "slab")), ())
        for name, label in names:
            self.fields[name] = fields.length(label, units, 1, 2000, required=False)

    def clean_cut(self) -> str:
        """A cut of the catalogue."""
        if self.cleaned_data["cut"] not in cuts():
            raise forms.ValidationError("Choose a cut from the list.")
        return str(self.cleaned_data["cut"])

    def clean(self) -> dict[str, Any]:
        """Require the number of a core target, and a spread smaller than the piece."""
        super().clean()
        cleaned = self.cleaned_data
        if cleaned.get("target") == "core" and cleaned.get("target_core") is None and "target_core" not in self.errors:
            self.add_error("target_core", "Enter the core temperature you want.")
        if cleaned.get("shape") == "from_mass" and cleaned.get("mass") is None and "mass" not in self.errors:
            self.add_error("mass", "Enter the mass: the size is estimated from it.")
        self._ask_about_odd_measures(cleaned)
        self._ask_about_mass_and_sizes(cleaned)
        size, spread = cleaned.get("size"), cleaned.get("spread")
        if size is not None and cleaned.get("shape") != "from_mass" and spread is not None and spread / 2 >= size:
            self.add_error("spread", "The spread must be less than twice the size.")
        return cleaned

    def _ask_about_odd_measures(self, cleaned: dict[str, Any]) -> None:
        """Ask about a mass or size far from what is usual for the cut, unless somebody said that it is right."""
        known = cuts().get(cleaned.get("cut", ""))
        if known is None:
            return
        sure = set((cleaned.get("sure") or "").split())
        measured = cleaned.get("shape") != "from_mass"
        asked = (
            ("mass", usual_mass_g(known), MASS_FACTOR, self.units.mass_value, self.units.mass),
            ("size", known.form.size_mm, SIZE_FACTOR, self.units.length_value, self.units.length),
        )
        for name, usual, factor, shown, unit in asked:
            value = cleaned.get(name)
            if not value or (name == "size" and not measured) or usual / factor <= value <= usual * factor:
                continue
            if (right := sure_of(name, value)) not in sure:
                typed, common = figure(shown(value), 2), float(f"{shown(usual):.2g}")
                self.add_error(name, format_html(
                    '{} {}? {} is usually about {} {}. <button type="button" class="act-quiet" data-do="sure:{}">'
                    "It is right</button>", typed, unit, known.name, figure(common, 2), unit, right,
                ))  # fmt: skip

    def _ask_about_mass_and_sizes(self, cleaned: dict[str, Any]) -> None:
        """Ask about a mass that the measured sizes do not make, unless somebody said that it is right."""
        known, mass = cuts().get(cleaned.get("cut", "")), cleaned.get("mass")
        if self.errors or known is None or not mass:
            return
        try:
            made = mass_by_sizes_g(Piece.model_validate(self.piece({})), float(known.mass_fractions.density(20.0)))
        except ValueError:
            return  # an outline that cannot be is told by the core
        right = sure_of("sizes", mass)
        fits = made is None or made / OFF_FACTOR <= mass <= made * OFF_FACTOR
        if made is None:
            self._ask_about_what_one_size_makes(cleaned, known)
        if made is None or fits or right in (cleaned.get("sure") or "").split():
            return
        weighs, makes = (f"{figure(self.units.mass_value(g), 0)} {self.units.mass}" for g in (mass, round(made, -1)))
        self.add_error("mass", format_html(
            'Weighs {}, these sizes make {}. <button type="button" class="act-quiet" data-do="sure:{}">'
            "It is right</button>", weighs, makes, right,
        ))  # fmt: skip

    def _ask_about_what_one_size_makes(self, cleaned: dict[str, Any], known: Cut) -> None:
        """Ask about a width or a length that at this mass would make the other one unusual."""
        typed, follows = ("wide", "long") if cleaned.get("wide") else ("long", "wide")
        value, names = cleaned.get(typed), dict(SIZES.get(cleaned["shape"], ()))
        if not value or (right := sure_of(typed, value)) in (cleaned.get("sure") or "").split():
            return
        piece, density = Piece.model_validate(self.piece({})), float(known.mass_fractions.density(20.0))
        bare = piece.model_copy(update={"width_mm": None, "length_mm": None})
        place = ("wide", "long").index(follows)
        other, usual = (footprint_mm(p, known, density)[place] for p in (piece, bare))
        if follows in names and not usual / SIZE_FACTOR <= other <= usual * SIZE_FACTOR:
            shown = figure(self.units.length_value(other), 0 if self.units.length == "mm" else 1)
            self.add_error(typed, format_html(
                'At this mass it would be {} {} {}. <button type="button" class="act-quiet" data-do="sure:{}">'
                "It is right</button>", shown, self.units.length, follows, right,
            ))  # fmt: skip

    def piece(self, old: Mapping[str, Any]) -> dict[str, Any]:
        """The piece as the core's JSON, after validation; `old` is the saved piece of the same cut, or empty."""
        typed = self.cleaned_data
        values = {key: value for key, value in self.carried.items() if key not in PIECE_FIELDS}
        values |= {
            "cut": typed["cut"],
            "shape": shape_of(typed["shape"], typed["size"], old.get("shape", {})),
            "start_c": typed["start"],
            "count": typed["count"],
            "spread_mm": typed["spread"] or 0,
            "history": [
                *([typed["history"]] if typed["history"] else []),
                *(done for done in old.get("history", []) if done not in dict(HISTORY)),
            ],
            "origin": typed["origin"] or "farmed",
        }
        if "long" in self.fields or typed.get("outline"):  # an outline says them itself
            values |= {"width_mm": typed.get("wide"), "length_mm": typed.get("long")}
        shape = {
            "mass_g": typed["mass"] or None, "fat_cap_mm": typed["fat_cap"], "trim_pct": typed["trim"] or None,
            "bone_pct": typed["bone"], "portions": typed["portions"], "stuffed": typed["stuffed"] or None,
            "outline": outline_form.outline_from(typed, self.carried.get("outline")),
        }  # fmt: skip
        return {key: value for key, value in (values | shape).items() if value is not None}

    def target_and_guests(self) -> dict[str, Any]:
        """Target and guests as the plan's JSON."""
        typed = self.cleaned_data
        return {
            "target": {"core_c": typed["target_core"]} if typed["target"] == "core" else {"doneness": typed["target"]},
            "guests": typed["guests"] or "general",
            "advisory": typed["advisory"],
        }


def sure_of(name: str, value: float) -> str:
    """How the form remembers that a measure in SI is right."""
    return f"{name}={value:.4g}"


def usual_mass_g(cut_entry: Cut) -> float:
    """Mass of a cut's usual piece, g."""
    return typical_mass_g(cut_entry.form, float(cut_entry.mass_fractions.density(20.0)))


def shape_of(kind: str, size_mm: float | None, old: Mapping[str, Any]) -> dict[str, Any]:
    """A shape as the core's JSON; shapes in between keep their exponent."""
    match kind:
        case "from_mass":
            return {"kind": kind} | {key: old[key] for key in ("size_factor",) if key in old}
        case "general":
            return {"kind": kind, "thickness_mm": size_mm, "exponent": old.get("exponent", BETWEEN_EXPONENT)}
        case "slab":
            return {"kind": kind, "thickness_mm": size_mm}
        case _:
            return {"kind": kind, "diameter_mm": size_mm}


def size_mm(piece: Mapping[str, Any]) -> float:
    """The deciding size of a saved piece, mm, also if it follows from its mass."""
    shape = piece["shape"]
    known = shape.get("thickness_mm") or shape.get("diameter_mm")
    if known is not None:
        return float(known)
    cut_entry = cut(piece["cut"])
    return body_size(Piece.model_validate(piece), cut_entry, float(cut_entry.mass_fractions.density(20.0))).size_mm


def out_of_fridge_min(stages: Sequence[Mapping[str, Any]]) -> float | None:
    """How long the piece stands out of the fridge first, min."""
    first = stages[0] if stages else {}
    return _number(first.get("minutes")) if first.get("kind") == "temper" else None


def _number(value: Any) -> float | None:
    return float(value) if value else None


def piece_initial(document: Mapping[str, Any]) -> dict[str, Any]:
    """Form values of a plan in JSON."""
    piece, target = document["piece"], document.get("target") or {}
    shape = piece["shape"]
    cut_entry = cut(piece["cut"])
    carried = {key: value for key, value in piece.items() if key not in PIECE_FIELDS and value is not None}
    outline = piece.get("outline")
    if outline and (kept := outline_form.kept_of(outline)):
        carried["outline"] = kept
    history = [done for done in piece.get("history", []) if done in dict(HISTORY)]
    return {
        "name": document.get("name", ""),
        "cut": piece["cut"],
        "sure": " ".join(
            sure_of(name, value)
            for name, value in (
                ("mass", piece.get("mass_g")),
                ("size", size_mm(piece)),
                ("wide", piece.get("width_mm")),
                ("long", piece.get("length_mm")),
            )
            if value
        ),
        "shape": shape["kind"] if shape["kind"] in dict(SHAPES) else "slab",
        "size": size_mm(piece),
        "wide": _number(piece.get("width_mm")),
        "long": _number(piece.get("length_mm") or shape.get("length_mm")),
        "mass": _number(piece.get("mass_g")),
        "count": piece.get("count", 1),
        "spread": _number(piece.get("spread_mm")),
        "fat_cap": float(piece["fat_cap_mm"]) if piece.get("fat_cap_mm") is not None else None,
        "trim": _number(piece.get("trim_pct")),
        "bone": float(piece["bone_pct"]) if piece.get("bone_pct") is not None else None,
        "portions": piece.get("portions") if piece.get("portions", 1) != 1 else None,
        "out": out_of_fridge_min(document["stages"]),
        "start": float(piece["start_c"]),
        "history": history[0] if history else "",
        "origin": piece.get("origin", "farmed"),
        "stuffed": piece.get("stuffed", False),
        ALONG: json.dumps(carried) if carried else "",
        "target": "core"
        if target.get("core_c")
        else target.get("doneness") or usual_word(cut_entry, own_words(carried)),
        "target_core": _number(target.get("core_c")),
        "guests": document.get("guests", "general"),
        "advisory": document.get("advisory", False),
        **outline_form.initial_of(outline),
    }
