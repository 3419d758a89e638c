"""The plan bench's forms: a piece and a chain of stages, in the person's units, assembled into the core's plan."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django import forms

from ember.errors import EmberError
from ember.evaluate import evaluate
from ember.files.piece import FromMass, OwnCut, Piece
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import Cut, cut, cuts
from ember.food.geometry import body_size, typical_mass_g
from ember.judge.doneness import scale_of
from ember.judge.standards import standard
from ember.quantities import Units
from ember.solve.oven_shape import effects
from ember.track.steps import PLACES
from kitchen.units import fields
from kitchen.units.show import figure, in_units
from kitchen.units.widgets import CutSelect, cut_choices

from .oven_words import oven_lines
from .stage_form import StageForm
from .stage_kinds import STAGE_NAMES

SHAPES = [
    ("slab", "Flat piece"), ("cylinder", "Roll"), ("sphere", "Ball"), ("general", "Between"),
    ("from_mass", "By its mass"),
]  # fmt: skip
# 165 °F at once for poultry; 155 °F for 17 s for minced meat: US Food Code 3-401.11(A).
MEETS_FROM_C = {"poultry": 74.2, "minced": 69.0}
BETWEEN_EXPONENT = 0.6  # a thick short piece: half way from a flat one to a roll
# Keys of a plan's piece that have fields of their own; the others travel along as long as the cut stays.
ALONG = "along"  # what a piece has beside them travels in this one
PIECE_FIELDS = ("cut", "shape", "start_c", "mass_g", "count", "spread_mm", "history", "origin", "stuffed")
HISTORY = [("", "Whole"), ("pierced", "Pierced"), ("tenderised", "Tenderised"), ("injected", "Injected")]
MAX_STAGES = 12
THIN_MM = 20.0  # a sear alone cooks it through


Own = Sequence[tuple[str, float]]  # a kitchen's own doneness words with their low ends


def words_of(row: Cut, own: Own = ()) -> list[str]:
    """The doneness words a cook may ask of a cut; raw is none."""
    return [word.word for word in scale_of(row.doneness, own)[1:]]


def usual_word(row: Cut, own: Own = ()) -> str:
    """A middling word to begin with."""
    words = words_of(row, own)
    return words[(len(words) - 1) // 2]


def _read_along(text: Any) -> dict[str, Any]:
    """The keys of a piece that travel along; none where they came back damaged."""
    try:
        found = json.loads(text or "{}")
    except (TypeError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def _own_words(along: Mapping[str, Any]) -> Own:
    """A kitchen's own words, where the piece has some that are whole."""
    try:
        return OwnCut.model_validate(along.get("own_cut", {"name": "-"})).doneness
    except ValueError:
        return ()


class PieceForm(forms.Form):
    """What is cooked and what is wanted."""

    name = forms.CharField(
        max_length=120,
        error_messages={"required": "Give the plan a name."},
        widget=forms.TextInput(attrs={"autocomplete": "off"}),
    )
    cut = forms.ChoiceField(widget=CutSelect)
    shape = forms.ChoiceField(choices=SHAPES)
    count = forms.IntegerField(min_value=1, max_value=500, widget=forms.TextInput(attrs={"inputmode": "numeric"}))
    history = forms.ChoiceField(choices=HISTORY, required=False)
    origin = forms.ChoiceField(choices=[("farmed", "Farmed"), ("wild", "Wild")], required=False)
    target = forms.ChoiceField()
    guests = forms.ChoiceField(choices=[("general", "Everybody"), ("susceptible", "Susceptible")], required=False)
    advisory = forms.BooleanField(required=False)
    stuffed = forms.BooleanField(required=False)
    along = forms.CharField(required=False, max_length=4000, widget=forms.HiddenInput)

    def __init__(self, data: Mapping[str, str] | None, units: Units, row: Cut, **kwargs: Any) -> None:
        super().__init__(data, **kwargs)
        self.carried = _read_along((data if data is not None else self.initial).get(ALONG))
        own = _own_words(self.carried)
        by_mass = (data or {}).get("shape") == "from_mass"
        self.fields["size"] = fields.length("Thickness or diameter", units, 1, 600, required=not by_mass)
        self.fields["mass"] = fields.mass("Mass", units, 1, 60_000, required=False)
        self.fields["spread"] = fields.length("Spread", units, 0, 300, required=False)
        self.fields["start"] = fields.temperature("Start", units, -1, 95)
        self.fields["target_core"] = fields.temperature("Core", units, 20, 99, required=False)
        self.fields["cut"].choices = cut_choices()
        self.fields["target"].choices = [(word, word.capitalize()) for word in words_of(row, own)] + [
            ("core", "Core temperature")
        ]
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("id", f"piece-{name}")

    def clean(self) -> dict[str, Any]:
        """A core target needs its number; a spread may not eat the piece."""
        found = super().clean()
        if found.get("target") == "core" and found.get("target_core") is None and "target_core" not in self.errors:
            self.add_error("target_core", "Write the core temperature you want.")
        if found.get("shape") == "from_mass" and found.get("mass") is None and "mass" not in self.errors:
            self.add_error("mass", "Weigh it: its size follows from its mass.")
        size, spread = found.get("size"), found.get("spread")
        if size is not None and found.get("shape") != "from_mass" and spread is not None and spread / 2 >= size:
            self.add_error("spread", "The spread must be less than twice the size.")
        return found


class Bench:
    """A plan being worked on: forms, and what the core says of them."""

    def __init__(self, piece: PieceForm, stages: list[StageForm], units: Units, row: Cut) -> None:
        self.piece, self.stages, self.units, self.cut = piece, stages, units, row
        self.core: CorePlan | None = None
        self.result: Result | None = None
        self.problem = ""
        self.oven_lines: list[str] = []
        self.kept: dict[str, Any] = {}

    @classmethod
    def of_document(cls, document: Mapping[str, Any], units: Units) -> Bench:
        """A bench that shows a kept plan."""
        row = cut(document["piece"]["cut"])
        stages = [
            StageForm(stage["kind"], i, None, units, StageForm.initial_of(stage))
            for i, stage in enumerate(document["stages"])
        ]
        return cls(PieceForm(None, units, row, initial=_piece_initial(document)), stages, units, row)

    @classmethod
    def of_post(cls, data: Mapping[str, str], units: Units) -> Bench:
        """A bench of what was typed; stages in the order of their numbers."""
        values = dict(data.items())
        row = cuts().get(values.get("cut", "")) or next(iter(cuts().values()))
        if values.get("was_cut") and values["was_cut"] != row.id:
            first = first_document(row)["piece"]
            values["shape"] = first["shape"]["kind"]
            if first["shape"]["kind"] == "from_mass":
                values["mass"] = figure(units.mass_value(first["mass_g"]), 0 if units.mass == "g" else 2)
            if values.get("target") not in [*words_of(row), "core"]:
                values["target"] = usual_word(row)
            values[ALONG] = ""
        kinds: list[str] = []
        while (kind := values.get(f"s{len(kinds)}-kind")) in STAGE_NAMES and len(kinds) < 40:
            kinds.append(str(kind))
        stages = [StageForm(kind, i, values, units) for i, kind in enumerate(kinds)]
        return cls(PieceForm(values, units, row), stages, units, row)

    @property
    def size_word(self) -> str:
        """What the deciding size is called."""
        return "Thickness" if self.piece["shape"].value() == "slab" else "Diameter"

    @property
    def own_name(self) -> str:
        """What the kitchen calls its own cut; empty where it is the catalogue's."""
        own = self.piece.carried.get("own_cut")
        return str(own.get("name", "")) if isinstance(own, dict) else ""

    @property
    def standard_name(self) -> str:
        """The standard the plan is held against, as a page says it."""
        return standard(self.core.standard).name if self.core else ""

    @property
    def drawn_as(self) -> str:
        """The picture of the piece: slab, cylinder, sphere or bird; by its mass, as its cut's typical form."""
        shape = self.piece["shape"].value()
        if shape != "from_mass":
            return str(shape)
        return "bird" if self.cut.thigh_share is not None else self.cut.form.kind

    @property
    def by_mass_mm(self) -> float | None:
        """The size that followed from the mass; None where it was typed."""
        if self.core is None or not isinstance(self.core.piece.shape, FromMass):
            return None
        return float(round(body_size(self.core.piece, self.cut, float(self.cut.mass_fractions.density(20.0))).size_mm))

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
        """The change that takes the advice: "take:STAGE:WHAT:VALUE"."""
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

    def forms(self) -> Iterator[forms.Form]:
        """All forms."""
        yield self.piece
        yield from self.stages

    def document(self, kept: Mapping[str, Any]) -> dict[str, Any] | None:
        """The plan as JSON; None while something typed is wrong. `kept` gives what the forms do not show."""
        valid = [form.is_valid() for form in self.forms()]  # all of them, to show every error at once
        if not all(valid):
            return None
        if not self.stages:
            self.problem = "Add a stage: nothing happens to the piece yet."
            return None
        typed = self.piece.cleaned_data
        old = kept.get("piece", {}) if kept else {}
        if old.get("cut") != typed["cut"]:
            old = {}
        piece = {key: value for key, value in self.piece.carried.items() if key not in PIECE_FIELDS}
        piece |= {
            "cut": typed["cut"],
            "shape": _shape(typed["shape"], typed["size"], old.get("shape", {})),
            "start_c": typed["start"],
            "count": typed["count"],
            "spread_mm": typed["spread"] or 0,
            "history": [
                *([typed["history"]] if typed["history"] else []),
                *(done for done in old.get("history", []) if done not in dict(HISTORY)),
            ],
            "origin": typed["origin"] or "farmed",
            **({"stuffed": True} if typed["stuffed"] else {}),
        }
        if typed["mass"]:
            piece["mass_g"] = typed["mass"]
        wanted = {"core_c": typed["target_core"]} if typed["target"] == "core" else {"doneness": typed["target"]}
        return {
            "format": "open-ember/plan",
            "version": 1,
            "name": typed["name"],
            "piece": piece,
            "target": wanted,
            "standard": kept.get("standard", "us-food-code-2022"),
            **({"house": kept["house"]} if kept.get("house") else {}),
            "guests": typed["guests"] or "general",
            "advisory": typed["advisory"],
            **({"prep": kept["prep"]} if kept.get("prep") else {}),
            "stages": [form.stage() for form in self.stages],
        }

    def work_out(self, kept: Mapping[str, Any]) -> bool:
        """Ask the core. True when there is a result; else the errors stand beside their fields."""
        document = self.document(kept)
        if document is None:
            return False
        return self.work_out_document(document)

    def work_out_document(self, document: Mapping[str, Any]) -> bool:
        """Ask the core about a whole document."""
        try:
            self.core = parse_plan(document)
            self.result = evaluate(self.core)
            self.oven_lines = oven_lines(self.core.stages, effects(self.core), self.units)
        except EmberError as error:
            self._place(error)
            return False
        return True

    def _place(self, error: EmberError) -> None:
        """Put a core error beside the field it is about; what has no field is told above the chain."""
        match = re.match(r"stages\[(\d+)\](?:\.(\w+))?", error.at)
        if match and int(match[1]) < len(self.stages):
            form = self.stages[int(match[1])]
            key = match[2] or ""
            name = key if key in form.fields else "end_value" if "end_value" in form.fields else next(iter(form.fields))
            if form.is_bound:
                form.add_error(name, in_units(error.message, self.units))
                return
        names = {"piece.cut": "cut", "piece.start_c": "start", "piece.mass_g": "mass", "target.doneness": "target"}
        name = names.get(error.at, "size" if error.at.startswith("piece.shape") else "")
        if name and self.piece.is_bound:
            self.piece.add_error(name, in_units(error.message, self.units))
            return
        where = f"Stage {int(match[1]) + 1}: {match[2] or ''}".rstrip(": ") + " " if match else ""
        self.problem = where + in_units(error.message, self.units)


def _shape(kind: str, size_mm: float | None, old: Mapping[str, Any]) -> dict[str, Any]:
    """A shape as the core's JSON; what lies between keeps the exponent it had."""
    match kind:
        case "from_mass":
            return {"kind": kind}
        case "general":
            return {"kind": kind, "thickness_mm": size_mm, "exponent": old.get("exponent", BETWEEN_EXPONENT)}
        case "slab":
            return {"kind": kind, "thickness_mm": size_mm}
        case _:
            return {"kind": kind, "diameter_mm": size_mm}


def _size_mm(piece: Mapping[str, Any]) -> float:
    """The deciding size of a kept piece, where it follows from its mass too."""
    shape = piece["shape"]
    known = shape.get("thickness_mm") or shape.get("diameter_mm")
    if known is not None:
        return float(known)
    row = cut(piece["cut"])
    return body_size(Piece.model_validate(piece), row, float(row.mass_fractions.density(20.0))).size_mm


def _piece_initial(document: Mapping[str, Any]) -> dict[str, Any]:
    piece, target = document["piece"], document.get("target") or {}
    shape = piece["shape"]
    row = cut(piece["cut"])
    carried = {key: value for key, value in piece.items() if key not in PIECE_FIELDS and value is not None}
    history = [done for done in piece.get("history", []) if done in dict(HISTORY)]
    return {
        "name": document.get("name", ""),
        "cut": piece["cut"],
        "shape": shape["kind"] if shape["kind"] in dict(SHAPES) else "slab",
        "size": _size_mm(piece),
        "mass": float(piece["mass_g"]) if piece.get("mass_g") else None,
        "count": piece.get("count", 1),
        "spread": float(piece["spread_mm"]) if piece.get("spread_mm") else None,
        "start": float(piece["start_c"]),
        "history": history[0] if history else "",
        "origin": piece.get("origin", "farmed"),
        "stuffed": piece.get("stuffed", False),
        ALONG: json.dumps(carried) if carried else "",
        "target": "core" if target.get("core_c") else target.get("doneness") or usual_word(row, _own_words(carried)),
        "target_core": float(target["core_c"]) if target.get("core_c") else None,
        "guests": document.get("guests", "general"),
        "advisory": document.get("advisory", False),
    }


def first_document(row: Cut, own: Own = ()) -> dict[str, Any]:
    """A plan to begin with for a cut: its typical piece; a bath to its usual word, a sear and a rest.

    For a bird or a joint an oven and a rest.
    """
    form = row.form
    whole = form.radius_share is not None or form.own_exponent is not None
    piece: dict[str, Any] = {"cut": row.id, "start_c": 5, "count": 1}
    if whole:
        grams = typical_mass_g(form, float(row.mass_fractions.density(20.0)))
        piece |= {"shape": {"kind": "from_mass"}, "mass_g": float(50 * max(round(grams / 50), 1))}
    else:
        piece["shape"] = _shape(form.kind, form.size_mm, {})
    scale = scale_of(row.doneness, own)
    word = next(w for w in scale if w.word == usual_word(row, own))
    if needed_c := MEETS_FROM_C.get(row.category):  # where no advisory helps, begin with a word that meets the rule
        word = next((w for w in scale if w.aim_c >= needed_c), word)
    return {
        "format": "open-ember/plan",
        "version": 1,
        "name": f"New {row.name.lower()}",
        "piece": piece,
        "target": {"doneness": word.word},
        "standard": "us-food-code-2022",
        "stages": _first_stages(whole, form.size_mm if form.kind == "slab" else 100.0, word.aim_c),
    }


def _first_stages(whole: bool, slab_mm: float, aim_c: float) -> list[dict[str, Any]]:
    """An oven for what is whole, a pan alone for what is thin, a bath and a sear for the others."""
    peak = {"peak_c": round(aim_c, 1)}
    if whole:
        return [{"kind": "oven", "air_c": 165, "until": peak}, {"kind": "rest", "air_c": 22, "minutes": 25}]
    if slab_mm <= THIN_MM:
        pan = {"kind": "pan", "pan_c": 200, "turn_every_s": 30 if slab_mm > 10 else 15, "until": peak}
        return [pan, {"kind": "rest", "air_c": 22, "minutes": 2}]
    return [
        {"kind": "bath", "water_c": round(aim_c + 1.5, 1), "until": peak},
        {"kind": "pan", "pan_c": 220, "seconds_a_side": 45, "sides": 2},
        {"kind": "rest", "air_c": 22, "minutes": 4},
    ]
