"""One step of preparation on the bench."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, get_args

from django import forms

from ember.files.plan import Spice
from ember.methods.prep import PrepKind, prep_kinds
from ember.quantities import Units
from kitchen.units import fields

SPICES: tuple[str, ...] = get_args(Spice)
WITH_SPICES = ("rub", "season")
OF_THE_THIN_END = ("trim", "fold", "shield")
FORTNIGHT_MIN = 14 * 1440


def _key(spice: str) -> str:
    return f"with_{spice.replace(' ', '_')}"


class PrepForm(forms.Form):
    """A step's minutes, the stage it precedes, and the contents of a rub. Its kind is fixed."""

    def __init__(
        self,
        kind: str,
        index: int,
        data: Mapping[str, str] | None,
        stages: Sequence[str],
        units: Units,
        initial: Mapping[str, Any] | None = None,
    ) -> None:
        super().__init__(data, prefix=f"p{index}", initial=dict(initial or {}))
        self.kind, self.index = kind, index
        self.fields["minutes"] = fields.minutes(self.row.name, 0, FORTNIGHT_MIN, required=False)
        places = [(str(i), f"before {name.lower()}") for i, name in enumerate(stages)]
        self.fields["before"] = forms.ChoiceField(choices=[*places, (str(len(stages)), "at the end")])
        if kind in OF_THE_THIN_END:
            self.fields["mm"] = fields.length("How much of it", units, 1, 1000)
        if kind in WITH_SPICES:
            for spice in SPICES:
                self.fields[_key(spice)] = forms.BooleanField(required=False, label=spice)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"p{index}-{name}"
            field.widget.attrs["aria-label"] = f"{self.row.name}: {field.label or name}"

    @property
    def row(self) -> PrepKind:
        """The library's entry for it."""
        return prep_kinds()[self.kind]

    @property
    def spices(self) -> list[forms.BoundField]:
        """Checkboxes for the contents of a rub."""
        return [self[_key(spice)] for spice in SPICES if _key(spice) in self.fields]

    @property
    def holds(self) -> list[str]:
        """The contents that are ticked."""
        return [str(spice.label).lower() for spice in self.spices if spice.value()]

    def step(self) -> dict[str, Any]:
        """The step as the core's JSON, after validation."""
        typed = self.cleaned_data
        holds = [spice for spice in SPICES if typed.get(_key(spice))]
        values = {"kind": self.kind, "minutes": typed["minutes"] or 0, "before": int(typed["before"])}
        return values | ({"with": holds} if holds else {}) | ({"mm": typed["mm"]} if typed.get("mm") else {})

    @staticmethod
    def initial_of(step: Mapping[str, Any], stages: int) -> dict[str, Any]:
        """Form values of a step in JSON, in a plan of that many stages."""
        values: dict[str, Any] = {
            "minutes": float(step.get("minutes") or 0),
            "before": str(min(step.get("before", 0), stages)),
        }
        if step.get("mm") is not None:
            values["mm"] = float(step["mm"])
        return values | {_key(spice): True for spice in step.get("with", [])}
