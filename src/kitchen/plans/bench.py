"""The plan bench: forms of a piece, its preparation and a chain of stages, and their result."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any, cast

from django import forms
from django.forms.boundfield import BoundField

from ember.errors import EmberError
from ember.files.outline import MIRRORED
from ember.files.piece import FromMass
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import Cut, cut, cuts
from ember.food.geometry import body_size, footprint_mm, mass_of
from ember.heat.problem import density_of
from ember.judge.standards import standard
from ember.methods.prep import PrepKind, prep_kinds, thought_of
from ember.quantities import Units
from ember.report.serves import usual_bone_pct
from ember.shape.of_piece import times_m
from ember.track.steps import PLACES
from kitchen.drawings.piece import Kind
from kitchen.units.number_text import figure, in_units, minutes_text

from .evaluated import evaluated
from .first import first_document, name_from
from .outline_form import ROW_WORDS, fill_in
from .piece_form import ALONG, SIZES, PieceForm, piece_initial, usual_word, words_of
from .prep_form import PrepForm
from .stage_form import StageForm, passthrough_of
from .stage_kinds import STAGE_NAMES

MAX_STAGES = 12
MOST_READ = 40  # of stages, and of steps


class Bench:
    """A plan being edited."""

    def __init__(
        self, piece: PieceForm, stages: list[StageForm], preps: list[PrepForm], units: Units, cut_entry: Cut
    ) -> None:
        self.piece, self.stages, self.preps, self.units, self.cut = piece, stages, preps, units, cut_entry
        self.core: CorePlan | None = None
        self.result: Result | None = None
        self.problem = ""
        self.stated: Mapping[str, Any] = {}

    @classmethod
    def of_document(cls, document: Mapping[str, Any], units: Units) -> Bench:
        """A bench with a saved plan."""
        cut_entry = cut(document["piece"]["cut"])
        stages = [
            StageForm(stage["kind"], i, None, units, StageForm.initial_of(stage))
            for i, stage in enumerate(document["stages"])
        ]
        names = [form.title for form in stages]
        preps = [
            PrepForm(step["kind"], j, None, names, units, PrepForm.initial_of(step, len(stages)))
            for j, step in enumerate(document.get("prep", []))
        ]
        return cls(PieceForm(None, units, cut_entry, initial=piece_initial(document)), stages, preps, units, cut_entry)

    @classmethod
    def of_post(cls, data: Mapping[str, str], units: Units) -> Bench:
        """A bench from posted data; stages and steps in the order of their numbers."""
        values = dict(data.items())
        cut_entry = cuts().get(values.get("cut", "")) or next(iter(cuts().values()))
        if values.get("was_cut") and values["was_cut"] != cut_entry.id:
            _begin_anew(values, cut_entry, units)
        fill_in(values, cut_entry, units)
        kinds = _kinds(values, "s", STAGE_NAMES)
        stages = [StageForm(kind, i, values, units) for i, kind in enumerate(kinds)]
        names = [form.title for form in stages]
        steps = _kinds(values, "p", prep_kinds())
        preps = [PrepForm(kind, j, values, names, units) for j, kind in enumerate(steps)]
        return cls(PieceForm(values, units, cut_entry), stages, preps, units, cut_entry)

    # What the page says of the piece -------------------------------------------------------------------------------

    @property
    def size_word(self) -> str:
        """The name of the deciding size."""
        return "Thickness" if self.piece["shape"].value() == "slab" else "Diameter"

    @cached_property
    def size_fields(self) -> list[tuple[str, BoundField]]:
        """Width and length with their labels, where the piece has them; the assumed ones stand in empty fields."""
        sizes = SIZES.get(str(self.piece["shape"].value() or ""), ())
        there = [(label, self.piece[name]) for name, label in sizes if name in self.piece.fields]
        if self.core is not None:
            both = footprint_mm(self.core.piece, self.cut, density_of(self.core))
            shown = dict(zip(("wide", "long"), both, strict=True))
            for _, field in there:
                text = figure(self.units.length_value(round(shown[field.name])), 0 if self.units.length == "mm" else 1)
                field.field.widget.attrs["placeholder"] = text
        return there

    @property
    def assumed(self) -> str:
        """What the sizes that nobody measured follow from; empty if there are none."""
        if all(field.value() for _, field in self.size_fields):
            return ""
        return "its mass" if self.piece["mass"].value() else "the usual piece"

    @property
    def outline_fields(self) -> list[tuple[str, BoundField]]:
        """The sizes of the outline with their labels."""
        row, other = ROW_WORDS.get(str(self.piece["outline"].value() or ""), ("", ""))
        if self.core is not None and "other" in self.piece.fields and self.core.piece.outline is not None:
            volume = mass_of(self.core.piece, self.cut, density_of(self.core)) * 1e-3 / density_of(self.core)
            across_mm = 1e3 * times_m(self.core.piece, volume)
            halves = 2.0 if self.core.piece.outline.family in MIRRORED else 1.0
            shown = figure(self.units.length_value(round(across_mm / halves)), 0 if self.units.length == "mm" else 1)
            self.piece.fields["other"].widget.attrs["placeholder"] = shown
        labels = {"trace": "Places", "row": row, "thin": "Thin end", "rib": "Bone", "other": other}
        return [(label, self.piece[name]) for name, label in labels.items() if name in self.piece.fields]

    @property
    def grips_above(self) -> list[tuple[str, BoundField, bool]]:
        """Sizes that are dragged in the view from above: label, field, whether it is the longer way."""
        row, other = ROW_WORDS.get(str(self.piece["outline"].value() or ""), ("Width", "Length"))
        names = ("row", "other") if self.piece["outline"].value() else ("wide", "long")
        labelled = zip((row, other), names, strict=True)
        return [
            (label, self.piece[name], label in ("Length", "Across"))
            for label, name in labelled
            if name in self.piece.fields
        ]

    @property
    def own_name(self) -> str:
        """The kitchen's name for its own cut; empty for one of the catalogue."""
        own = self.piece.carried.get("own_cut")
        return str(own.get("name", "")) if isinstance(own, dict) else ""

    @property
    def out_text(self) -> str:
        """How long the piece stands out of the fridge first, as in its field."""
        first = self.stages[0] if self.stages else None
        if first is None or first.kind != "temper" or first["ends"].value() != "minutes":
            return ""
        value = first["end_value"].value()
        return minutes_text(float(value)) if isinstance(value, int | float) else str(value or "")

    @property
    def has_fat_cap(self) -> bool:
        """Whether the fat cap has a field."""
        return self.cut.fat_cap_mm > 0 or "fat-capped" in self.cut.tissue or bool(self.piece["fat_cap"].value())

    @property
    def usual_bone_pct(self) -> float:
        """Usual bone content of the cut, %."""
        return usual_bone_pct(self.cut, None)

    @property
    def drawn_as(self) -> Kind:
        """The drawing's shape: slab, cylinder, sphere or bird; for a size by mass the cut's typical shape."""
        shape = self.piece["shape"].value()
        if shape == "general":
            return "slab"
        if shape in ("slab", "cylinder", "sphere"):
            return cast(Kind, shape)
        return "bird" if self.cut.thigh_share is not None else self.cut.form.kind

    @property
    def by_mass_mm(self) -> float | None:
        """The size derived from the mass, mm; None if it was typed."""
        if self.core is None or not isinstance(self.core.piece.shape, FromMass):
            return None
        return float(round(body_size(self.core.piece, self.cut, float(self.cut.mass_fractions.density(20.0))).size_mm))

    @property
    def details_open(self) -> bool:
        """Whether the fold of the piece is open because a field in it has an error."""
        names = ("shape", "history", "origin", "portions", "trim", "bone", "guests", "fat_cap")
        return any(name in self.piece.errors for name in names)

    @property
    def more_preps(self) -> list[PrepKind]:
        """Preparation steps to add, the likely ones for this cut first."""
        first = [kind.id for kind in thought_of(self.cut)]
        rest = [key for key in prep_kinds() if key not in first]
        there = {form.kind for form in self.preps}
        return [prep_kinds()[key] for key in (*first, *rest) if key not in there]

    # What it says of the result --------------------------------------------------------------------------------------

    @property
    def standard_name(self) -> str:
        """The name of the plan's standard."""
        return standard(self.core.standard).name if self.core else ""

    @property
    def pull_from(self) -> str:
        """Where the piece is pulled from."""
        pull = self.result.pull if self.result else None
        return f"From the {PLACES[self.stages[pull.stage].kind]}." if pull else ""

    @property
    def advice_title(self) -> str:
        """The stage the advice is about."""
        advice = self.result.advice if self.result else None
        return self.stages[advice.stage].title if advice else ""

    @property
    def advice_do(self) -> str:
        """The form verb that follows the advice."""
        advice = self.result.advice if self.result else None
        if advice is None:
            return ""
        if advice.seconds_a_side is not None:
            return f"take:{advice.stage}:seconds_a_side:{advice.seconds_a_side:.0f}"
        return f"take:{advice.stage}:peak_c:{self.units.temperature_value(advice.peak_c):.1f}"

    @property
    def can_add(self) -> bool:
        """Whether the chain may grow."""
        return len(self.stages) < MAX_STAGES

    # Working it out --------------------------------------------------------------------------------------------------

    def forms(self) -> Iterator[forms.Form]:
        """All forms."""
        yield self.piece
        yield from self.preps
        yield from self.stages

    def document(self, carried: Mapping[str, Any]) -> dict[str, Any] | None:
        """The plan as JSON; None if there are errors. `carried`: parts that the forms do not show."""
        valid = [form.is_valid() for form in self.forms()]  # all of them, to show every error at once
        if not all(valid):
            return None
        if not self.stages:
            self.problem = "Add a stage: nothing heats the piece yet."
            return None
        typed = self.piece.cleaned_data
        old = carried.get("piece", {}) if carried else {}
        prep = [form.step() for form in self.preps]
        return {
            "format": "open-ember/plan",
            "version": 1,
            "name": typed["name"],
            "piece": self.piece.piece(old if old.get("cut") == typed["cut"] else {}),
            "standard": carried.get("standard", "us-food-code-2022"),
            **({"house": carried["house"]} if carried.get("house") else {}),
            **self.piece.target_and_guests(),
            **({"prep": prep} if prep else {}),
            "stages": [form.stage() for form in self.stages],
        }

    def work_out(self, carried: Mapping[str, Any], depth_map: bool = False) -> bool:
        """Compute the result of the posted data. True if there is one; else errors stand beside their fields."""
        document = self.document(carried)
        return document is not None and self.work_out_document({**document, "depth_map": depth_map})

    def work_out_document(self, document: Mapping[str, Any]) -> bool:
        """Compute the result of a whole document, stored as `stated`."""
        self.stated = document
        try:
            self.core = parse_plan(document)
            self.result = evaluated(self.core)
        except EmberError as error:
            self._place(error)
            return False
        return True

    def _place(self, error: EmberError) -> None:
        """Attach a core error to its field; one without a field is shown above the chain."""
        match = re.match(r"stages\[(\d+)\](?:\.(\w+))?", error.at)
        if match and int(match[1]) < len(self.stages):
            form = self.stages[int(match[1])]
            key = match[2] or ""
            name = key if key in form.fields else "end_value" if "end_value" in form.fields else next(iter(form.fields))
            if form.is_bound:
                form.add_error(name, in_units(error.message, self.units))
                return
        step = re.match(r"prep\[(\d+)\]", error.at)
        if step and int(step[1]) < len(self.preps) and self.preps[int(step[1])].is_bound:
            form_of_step = self.preps[int(step[1])]
            form_of_step.add_error("mm" if "mm" in form_of_step.fields else None, in_units(error.message, self.units))
            return
        names = {"piece.cut": "cut", "piece.start_c": "start", "piece.mass_g": "mass", "target.doneness": "target"}
        name = names.get(error.at, "size" if error.at.startswith("piece.shape") else "")
        if error.at in ("piece", "piece.outline") and self.piece["outline"].value():
            about = ("thin", "trace", "row") if "thin end" in error.message else ("trace", "row")
            name = next((field for field in about if field in self.piece.fields), "outline")
        if name and self.piece.is_bound:
            self.piece.add_error(name, in_units(error.message, self.units))
            return
        where = f"Stage {int(match[1]) + 1}: {match[2] or ''}".rstrip(": ") + " " if match else ""
        self.problem = where + in_units(error.message, self.units)


def _kinds(values: Mapping[str, str], letter: str, known: Mapping[str, Any]) -> list[str]:
    """The kinds of the numbered forms in posted data, as far as they are valid."""
    kinds: list[str] = []
    while (kind := values.get(f"{letter}{len(kinds)}-kind")) in known and len(kinds) < MOST_READ:
        kinds.append(str(kind))
    return kinds


def _names_nobody_gave(values: Mapping[str, str]) -> set[str]:
    """Names that a plan gets from its cut, or from the kitchen's own name for it."""
    was, own = cuts().get(values.get("was_cut", "")), passthrough_of(values.get(ALONG)).get("own_cut")
    names = [was.name] if was else []
    if isinstance(own, dict):
        names.append(str(own.get("name", "")))
    return {name_from(name) for name in names}


def _typical_size(cut_id: str, units: Units) -> str:
    """Typical size of a cut's piece, as in its field; empty for an unknown cut."""
    cut_entry = cuts().get(cut_id)
    return figure(units.length_value(cut_entry.form.size_mm), 1 if units.length == "mm" else 3) if cut_entry else ""


def _begin_anew(values: dict[str, str], cut_entry: Cut, units: Units) -> None:
    """Reset the piece after another cut was chosen: its own form, size and word, without the old piece's particulars.

    A plan that nobody named is renamed after its cut.
    """
    if values.get("name", "") in _names_nobody_gave(values):
        values["name"] = name_from(cut_entry.name)
    first = first_document(cut_entry)["piece"]
    shape = first["shape"]
    values["shape"] = shape["kind"]
    size = shape.get("thickness_mm") or shape.get("diameter_mm")
    if size is None:
        values["mass"] = figure(units.mass_value(first["mass_g"]), 0 if units.mass == "g" else 2)
    elif values.get("size") == _typical_size(values["was_cut"], units):  # nobody measured this piece
        values["size"] = _typical_size(cut_entry.id, units)
    if values.get("target") not in [*words_of(cut_entry), "core"]:
        values["target"] = usual_word(cut_entry)
    for name in (ALONG, "fat_cap", "bone", "outline", "row", "wide", "long", "trace"):
        values[name] = ""
