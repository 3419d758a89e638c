"""Edits of the chain of stages and steps on the bench, by button, drag or key.

They work on posted data before validation: stages keep their input, valid or not.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from django.core.exceptions import ValidationError

from ember.files.plan import CHANGES_FORM
from ember.food.catalogue import Cut, cuts
from ember.judge.doneness import scale_of
from ember.methods.apply import applied
from ember.methods.library import methods
from ember.methods.prep import place_for, prep_kinds
from ember.quantities import Units
from kitchen.units import fields
from kitchen.units.number_text import figure, minutes_text

from .piece_form import own_words, read_along, usual_word
from .prep_form import OF_THE_THIN_END, PrepForm
from .stage_form import StageForm
from .stage_kinds import STAGE_KINDS
from .trace_field import read_trace

Values = dict[str, str]
TAKE = re.compile(r"(\d+):(seconds_a_side|peak_c|water_c|air_c|minutes):([\d.]+)")
KEPT_STEPS = ("season", "rub", "snip", "score", *CHANGES_FORM)  # a method brings its own of the other kinds
THIN_END_SHARE = 0.2  # of the row: what is cut off or folded to begin with
NUMBERED = re.compile(r"[sp]\d+-")
USUAL_TEMPER_AIR_C = 21.0


@dataclass
class Chain:
    """Stages and steps as posted, a mapping each; `rest`: everything else on the bench.

    A step belongs to the stage it precedes, so that it moves along; steps at the end belong to none.
    """

    units: Units
    rest: Values
    stages: list[Values] = field(default_factory=list)
    steps: list[Values] = field(default_factory=list)
    places: list[Values | None] = field(default_factory=list)

    @classmethod
    def of(cls, data: Mapping[str, str], units: Units) -> Chain:
        """Read posted data."""
        rest = {key: value for key, value in data.items() if not NUMBERED.match(key)}
        chain = cls(units, rest, _numbered(data, "s"))
        for step in _numbered(data, "p"):
            before = step.pop("before", "0")
            place = int(before) if before.isdecimal() else 0
            chain.steps.append(step)
            chain.places.append(chain.stages[place] if place < len(chain.stages) else None)
        return chain

    def values(self) -> Values:
        """The data as it would have been posted."""
        values = dict(self.rest)
        for i, stage in enumerate(self.stages):
            values |= {f"s{i}-{key}": value for key, value in stage.items()}
        index = {id(stage): i for i, stage in enumerate(self.stages)}
        for j, (step, place) in enumerate(zip(self.steps, self.places, strict=True)):
            before = len(self.stages) if place is None else index.get(id(place), 0)
            values |= {f"p{j}-{key}": value for key, value in {**step, "before": str(before)}.items()}
        return values

    @property
    def cut(self) -> Cut:
        """The cut on the bench."""
        return cuts().get(self.rest.get("cut", "")) or next(iter(cuts().values()))

    @property
    def aim_c(self) -> float:
        """Target peak core, °C, as far as it can be read."""
        own = own_words(read_along(self.rest.get("along")))
        scale = scale_of(self.cut.doneness, own)
        if self.rest.get("target") == "core":
            try:
                typed = float(self.rest.get("target_core", "").replace(",", "."))
            except ValueError:
                pass
            else:
                return typed if self.units.temperature == "C" else (typed - 32.0) / 1.8
        wanted = {word.word: word for word in scale}.get(self.rest.get("target", ""))
        return (wanted or next(word for word in scale if word.word == usual_word(self.cut, own))).aim_c

    @property
    def thin_end_mm(self) -> float | None:
        """A thin end's usual share of the row, mm; None as long as the row cannot be read."""
        trace, row = self.rest.get("trace", "").strip(), self.rest.get("row", "").strip()
        length = fields.length("Row", self.units, 1, 2000, required=False)
        try:
            row_mm: float | None = read_trace(trace, self.units)[-1][0] if trace else length.clean(row)
        except ValidationError:
            return None
        return THIN_END_SHARE * row_mm if row_mm else None

    def fresh(self, stage: Mapping[str, Any]) -> Values:
        """A stage in the core's JSON as it would be posted."""
        form = StageForm(stage["kind"], 0, None, self.units, StageForm.initial_of(stage))
        shown = {name: form[name].value() for name in form.fields}
        return {"kind": stage["kind"], **{name: str(value) for name, value in shown.items() if value is not None}}

    # What can be asked ---------------------------------------------------------------------------------------------

    def add(self, what: str) -> None:
        """add:KIND"""
        if what in STAGE_KINDS:
            self.stages.append(self.fresh({"kind": what, **STAGE_KINDS[what].fresh}))

    def remove(self, what: str) -> None:
        """remove:STAGE. Its steps go to the stage after it."""
        i = self._stage(what)
        if i is None:
            return
        gone = self.stages.pop(i)
        after = self.stages[i] if i < len(self.stages) else None
        self.places = [after if place is gone else place for place in self.places]

    def move(self, what: str) -> None:
        """move:FROM:TO"""
        begin, _, end = what.partition(":")
        i, j = self._stage(begin), self._stage(end)
        if i is not None and j is not None:
            self.stages.insert(j, self.stages.pop(i))

    def left(self, what: str) -> None:
        """left:STAGE"""
        self._swap(what, -1)

    def right(self, what: str) -> None:
        """right:STAGE"""
        self._swap(what, 1)

    def end(self, what: str) -> None:
        """end:STAGE, after another kind of end was chosen: fill in a usual number."""
        i = self._stage(what)
        if i is not None:
            ends = self.stages[i].get("ends")
            usual = {"minutes": "30", "log10": "6.5"}
            self.stages[i]["end_value"] = usual.get(ends or "", figure(self.units.temperature_value(self.aim_c), 1))

    def take(self, what: str) -> None:
        """take:STAGE:KEY:VALUE, in the person's unit"""
        match = TAKE.fullmatch(what)
        if not match or int(match[1]) >= len(self.stages):
            return
        stage, key, value = self.stages[int(match[1])], match[2], match[3]
        if key in ("peak_c", "minutes"):
            stage |= {"ends": key, "end_value": value}
        else:
            stage[key] = value

    def size(self, what: str) -> None:
        """size:VALUE, in the person's unit"""
        self.rest["size"] = what

    def sure(self, what: str) -> None:
        """sure:MEASURE=VALUE, in SI: an odd measure is right"""
        self.rest["sure"] = f"{self.rest.get('sure', '')} {what}".strip()[-200:]

    def prep(self, what: str) -> None:
        """prep:KIND"""
        if kind := prep_kinds().get(what):
            place = place_for(kind, [stage["kind"] for stage in self.stages])
            of_row = {"mm": self.thin_end_mm} if what in OF_THE_THIN_END else {}
            self._add_step({"kind": what, "minutes": kind.minutes, "before": place, **of_row})

    def unprep(self, what: str) -> None:
        """unprep:STEP"""
        if what.isdecimal() and int(what) < len(self.steps):
            del self.steps[int(what)], self.places[int(what)]

    def other(self, what: str) -> None:
        """other:STEP:STAGE: move a rub to the other time."""
        step, _, stage = what.partition(":")
        if step.isdecimal() and stage.isdecimal() and int(step) < len(self.steps):
            self.places[int(step)] = self.stages[int(stage)] if int(stage) < len(self.stages) else None

    def method(self, what: str) -> None:
        """method:ID: replace the stages by a method's; steps of the piece stay."""
        if what not in methods():
            return
        document = applied(methods()[what], self.cut.id, round(self.aim_c, 1))
        stages = [
            (step, place) for step, place in zip(self.steps, self.places, strict=True) if step["kind"] in KEPT_STEPS
        ]
        was_first = [bool(self.stages) and place is self.stages[0] for _, place in stages]
        self.stages = [self.fresh(stage) for stage in document["stages"]]
        self.steps = [step for step, _ in stages]
        self.places = [self.stages[0] if first else None for first in was_first]
        for step in document["prep"]:
            if step["kind"] not in {kept_step["kind"] for kept_step in self.steps}:
                self._add_step(step)
        if target := document.get("target"):
            core = figure(self.units.temperature_value(target["core_c"]), 1)
            self.rest |= {"target": "core", "target_core": core}
        if "start_c" in document:
            self.rest["start"] = figure(self.units.temperature_value(document["start_c"]), 1)

    # ---------------------------------------------------------------------------------------------------------------

    def temper(self) -> None:
        """Update the first stage after the minutes out of the fridge were changed."""
        out, was = self.rest.get("out", "").strip(), self.rest.get("was_out", "").strip()
        if "out" not in self.rest or out == was:
            return
        tempers = bool(self.stages) and self.stages[0].get("kind") == "temper"
        if not out or out == "0":
            if tempers:
                self.remove("0")
            return
        if not tempers:
            self.stages.insert(0, self.fresh({"kind": "temper", "air_c": USUAL_TEMPER_AIR_C, "minutes": 20.0}))
        self.stages[0] |= {"ends": "minutes", "end_value": out}

    def _add_step(self, step: Mapping[str, Any]) -> None:
        initial = PrepForm.initial_of(step, len(self.stages))
        place = int(initial.pop("before"))
        mm = initial.pop("mm", None)
        shown = {name: minutes_text(v) if name == "minutes" else "on" for name, v in initial.items()}
        if mm is not None:
            shown["mm"] = figure(self.units.length_value(mm), 0 if self.units.length == "mm" else 2)
        self.steps.append({"kind": step["kind"], **shown})
        self.places.append(self.stages[place] if place < len(self.stages) else None)

    def _stage(self, text: str) -> int | None:
        return int(text) if text.isdecimal() and int(text) < len(self.stages) else None

    def _swap(self, what: str, by: int) -> None:
        i = self._stage(what)
        if i is not None and 0 <= i + by < len(self.stages):
            self.move(f"{i}:{i + by}")


def _numbered(data: Mapping[str, str], letter: str) -> list[Values]:
    numbered: list[Values] = []
    while f"{letter}{len(numbered)}-kind" in data:
        prefix = f"{letter}{len(numbered)}-"
        numbered.append({key[len(prefix) :]: value for key, value in data.items() if key.startswith(prefix)})
    return numbered


VERBS: dict[str, Callable[[Chain, str], None]] = {
    "add": Chain.add, "remove": Chain.remove, "move": Chain.move, "left": Chain.left, "right": Chain.right,
    "end": Chain.end, "take": Chain.take, "size": Chain.size, "sure": Chain.sure, "prep": Chain.prep,
    "unprep": Chain.unprep, "other": Chain.other, "method": Chain.method,
}  # fmt: skip


def changed(data: Mapping[str, str], units: Units) -> Values:
    """The posted data after the edit that `do` requests: "VERB:WHAT"."""
    verb, _, what = data.get("do", "").partition(":")
    chain = Chain.of(data, units)
    chain.temper()
    if verb in VERBS:
        VERBS[verb](chain, what)
    return chain.values()
