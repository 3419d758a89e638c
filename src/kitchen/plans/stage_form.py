"""One stage of the bench as a form; its fields follow from its kind."""

from __future__ import annotations

import json
import re
from collections.abc import Collection, Mapping
from typing import Any

from django import forms

from ember.files.result import StageOut
from ember.files.stages import HEATING
from ember.quantities import Units
from kitchen.units import fields

from .stage_kinds import DEFAULTS, DOOR_KEYS, HEAT_KEYS, LOAD_KEYS, STAGE_KINDS, USUAL_DOOR_MIN, YES_NO, Choice, Number

FORTNIGHT_MIN = 14 * 1440
ENDS = (
    ("minutes", "for"), ("core_c", "until core"), ("peak_c", "to peak at"), ("surface_c", "until outside"),
    ("log10", "until log"),
)  # fmt: skip
# Keys of a stage that the bench has no field for travel along in this one.
ALONG = "along"


def _field(spec: Number | Choice, units: Units) -> forms.Field:
    if isinstance(spec, Choice):
        return forms.ChoiceField(choices=spec.choices, label=spec.label, required=spec.required)
    if spec.whole:
        return forms.IntegerField(
            min_value=int(spec.low), max_value=int(spec.high), label=spec.label,
            widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        )  # fmt: skip
    if spec.unit == "pot":
        return fields.pot_volume(spec.label, units, spec.low, spec.high, required=spec.required, label=spec.label)
    if spec.unit == "c":
        return fields.temperature(spec.label, units, spec.low, spec.high, required=spec.required)
    return fields.plain_number(spec.label, spec.low, spec.high, spec.unit, required=spec.required)


LONG_TEXT = 6


def _with_heat(stage: dict[str, Any]) -> dict[str, Any]:
    """The form fields of a stage with several kinds of heat: its medium and one temperature."""
    if stage["kind"] not in HEAT_KEYS:
        return stage
    key = next((key for key in ("water_c", "air_c", "pan_c") if stage.get(key) is not None), None)
    heat = {"at_c": stage[key]} if key else {}
    usual_in = {"in": "bath" if key == "water_c" else "cupboard"} if stage["kind"] == "hold" else {}
    return {**usual_in, **{name: value for name, value in stage.items() if name != key}, **heat}


def _with_load(stage: dict[str, Any]) -> dict[str, Any]:
    """The form fields of a load; how many go in at once is carried along."""
    load = stage.get("load")
    if not load or not set(LOAD_KEYS) <= set(STAGE_KINDS[stage["kind"]].fields):
        return stage
    shown = {name: load[key] for name, key in LOAD_KEYS.items() if load.get(key) is not None}
    rest = {key: value for key, value in load.items() if key not in LOAD_KEYS.values() and value is not None}
    return {key: value for key, value in stage.items() if key != "load"} | shown | ({"load": rest} if rest else {})


def _with_door(stage: dict[str, Any]) -> dict[str, Any]:
    """The form fields of door openings: how long, and how often."""
    door = next((key for key in reversed(DOOR_KEYS) if stage.get(key)), None)
    if door is None:
        return stage
    return {name: value for name, value in stage.items() if name != door} | {"door": door, "door_every": stage[door]}


def _shown(spec: Number | Choice, value: Any) -> Any:
    """A value as its field shows it."""
    return ("yes" if value else "no") if isinstance(spec, Choice) and spec.flag else value


def _along(stage: Mapping[str, Any], known: Collection[str]) -> dict[str, Any]:
    """Keys of a stage that the bench has no field for."""
    of_forms = {*known, "kind", "minutes", "until"}
    along = {key: value for key, value in stage.items() if key not in of_forms and value is not None}
    until = stage.get("until") or {}
    extra = {key: until[key] for key in ("organism", "max_minutes") if until.get(key) is not None}
    return along | ({"until": extra} if extra else {})


class StageForm(forms.Form):
    """A stage; `kind` selects its fields, and keys without a field are carried along."""

    run: StageOut  # how the stage runs in the plan's result, once that is there

    def __init__(
        self, kind: str, index: int, data: Mapping[str, str] | None, units: Units, initial: dict[str, Any] | None = None
    ) -> None:
        if data is not None and data.get(f"s{index}-door") and f"s{index}-door_every" not in data:
            data = {**data, f"s{index}-door_every": str(USUAL_DOOR_MIN)}  # just chosen
        super().__init__(data, prefix=f"s{index}", initial=initial)
        self.kind, self.index, self.units = kind, index, units
        self.row = STAGE_KINDS[kind]
        self.by_sides = "seconds_a_side" in self.row.fields and not self._value("ends")
        hidden = set() if self.by_sides else {"seconds_a_side", "sides"}
        if not self._value("door"):
            hidden.add("door_every")
        for name, spec in self.row.fields.items():
            if name not in hidden:
                self.fields[name] = _field(spec, units)
        if not self.by_sides:
            self.fields["ends"] = forms.ChoiceField(choices=ENDS if kind in HEATING else ENDS[:2])
            self.fields["end_value"] = self._end_field()
        self.fields[ALONG] = forms.CharField(required=False, max_length=2000, widget=forms.HiddenInput)
        self._mark()

    def _mark(self) -> None:
        """Set names for screen readers, and attributes for scripts and styles."""
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"s{self.index}-{name}"
            field.widget.attrs["aria-label"] = f"{self.title}: {field.label or name.replace('_', ' ')}"
        if "ends" in self.fields:
            if len(str(self["end_value"].value() or "")) > LONG_TEXT:
                self.fields["end_value"].widget.attrs["class"] = "long"
            self.fields["ends"].widget.attrs["data-verb-of"] = f"end:{self.index}"

    def _value(self, name: str) -> Any:
        return self.data.get(f"{self.prefix}-{name}") if self.is_bound else (self.initial or {}).get(name)

    def _end_field(self) -> fields.MeasureField:
        """The field of minutes or of a temperature, by the choice beside it."""
        ends = self._value("ends")
        if ends in (None, "", "minutes"):
            return fields.minutes("Time", 1 / 60, FORTNIGHT_MIN)
        if ends == "log10":
            return fields.plain_number("Log reduction", 0.1, 20)
        if ends == "surface_c":
            return fields.temperature("Outside", self.units, -40, 300)
        if ends == "peak_c":
            return fields.temperature("Peak", self.units, 20, 99)
        return fields.temperature("Core", self.units, -40, 120)

    def clean_along(self) -> dict[str, Any]:
        """The keys that are carried along."""
        try:
            values = json.loads(self.cleaned_data[ALONG] or "{}")
        except ValueError:
            values = None
        if not isinstance(values, dict):
            raise forms.ValidationError("This stage is damaged. Remove it and add it again.")
        return values

    @property
    def title(self) -> str:
        """The stage's name for cooks."""
        return self.row.title

    @property
    def head(self) -> tuple[forms.BoundField, str] | None:
        """The large field, with its unit."""
        name = self.row.head
        if name is not None and name not in self.fields:  # a pan told by minutes: its heat stands large
            name = next(key for key in self.row.fields if key in self.fields and key.endswith("_c"))
        return None if name is None else (self[name], self._unit(name))

    @property
    def small(self) -> list[tuple[str, forms.BoundField, str]]:
        """The small fields: label, field, unit."""
        head = self.head[0].name if self.head else None
        return [
            (words, self[name], self._unit(name))
            for words, name in self.row.small
            if name in self.fields and name != head
        ]

    def _unit(self, name: str) -> str:
        spec = self.row.fields[name]
        if isinstance(spec, Choice):
            return ""
        return {"c": self.units.degree, "pot": self.units.pot_volume}.get(spec.unit, spec.unit)

    @property
    def ends_unit(self) -> str:
        """The unit behind the end's number."""
        value = self["ends"].value() if "ends" in self.fields else None
        if value == "minutes":
            text = str(self["end_value"].value() or "")
            return "" if re.search(r"[a-z:]", text) else "min"
        if value == "log10":
            return ""
        return self.units.degree

    def stage(self) -> dict[str, Any]:
        """The stage as the core's JSON, after validation."""
        values: dict[str, Any] = {"kind": self.kind, **self.cleaned_data[ALONG]}
        for name, spec in self.row.fields.items():
            value = self.cleaned_data.get(name)
            if value in (None, ""):
                continue
            values[name] = YES_NO[value] if isinstance(spec, Choice) and spec.flag else value
        if self.kind in HEAT_KEYS:
            at_c, key = values.pop("at_c", None), HEAT_KEYS[self.kind][values["in"]]
            if at_c is not None and key is not None:
                values[key] = at_c
            if self.kind == "hold":
                del values["in"]
        every = values.pop("door_every", None)
        if door := values.pop("door", None):
            values[door] = every
        if load := {key: values.pop(name) for name, key in LOAD_KEYS.items() if name in values}:
            values["load"] = {**values.get("load", {}), **load}
        until = values.pop("until", {})
        if "ends" in self.fields:
            ends, value = self.cleaned_data["ends"], self.cleaned_data["end_value"]
            if ends == "minutes":
                values["minutes"] = value
            else:
                if ends == "log10":
                    until.setdefault("organism", "salmonella")
                else:
                    until.pop("organism", None)
                values["until"] = {**until, ends: round(value, 3)}
        return values

    @staticmethod
    def initial_of(stage: Mapping[str, Any]) -> dict[str, Any]:
        """Form values of a stage in JSON."""
        known = STAGE_KINDS[stage["kind"]].fields
        whole = _with_load(_with_door(_with_heat({**DEFAULTS.get(stage["kind"], {}), **stage})))
        values = {name: _shown(spec, whole[name]) for name, spec in known.items() if name in whole}
        if along := _along(whole, known):
            values[ALONG] = json.dumps(along)
        if stage.get("seconds_a_side") is None:
            until = stage.get("until") or {}
            ends = next((key for key, _ in ENDS[1:] if until.get(key) is not None), "minutes")
            values["ends"] = ends
            values["end_value"] = float(until[ends] if ends != "minutes" else stage.get("minutes") or 1.0)
        return values


def passthrough_of(text: str | None) -> dict[str, Any]:
    """Keys of a stage to carry along; empty if they are invalid, which the form reports."""
    try:
        values = json.loads(text or "{}")
    except ValueError:
        return {}
    return values if isinstance(values, dict) else {}
