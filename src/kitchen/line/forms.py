"""Forms of the line: a typed reading, a check."""

from __future__ import annotations

from typing import Any

from django import forms

from ember.files.piece import Piece
from ember.food.catalogue import cut
from ember.judge.doneness import scale_of
from ember.quantities import Units
from kitchen.units import fields

from .words import OBSERVATIONS

SENSES = [
    ("probe", "Probe in the core"),
    ("press", "Press"),
    ("pin", "Cake tester on the lip"),
    ("juices", "Juices"),
    ("cut", "Cut face"),
]


class ReadingForm(forms.Form):
    """A reading taken by hand."""

    def __init__(self, data: Any, units: Units) -> None:
        super().__init__(data)
        self.fields["celsius"] = fields.temperature("Reading", units, -20, 300)


class TellForm(forms.Form):
    """An observation besides the plan's steps; a changed setting needs its value."""

    what = forms.ChoiceField(choices=list(OBSERVATIONS.items()), error_messages={"required": "Choose what happened."})
    late_s = forms.FloatField(required=False, min_value=0, max_value=14 * 86400)

    def __init__(self, data: Any, units: Units) -> None:
        super().__init__(data)
        self.fields["celsius"] = fields.temperature("Setting", units, -2, 500, required=False)

    def clean(self) -> dict[str, Any]:
        """Require the value of a changed setting."""
        super().clean()
        cleaned = self.cleaned_data
        if cleaned.get("what") == "setting" and cleaned.get("celsius") is None and "celsius" not in self.errors:
            self.add_error("celsius", "Setting: enter a number.")
        return cleaned if cleaned.get("what") == "setting" else {**cleaned, "celsius": None}


class CheckForm(forms.Form):
    """A check: its sense, and a temperature for the probe or a word for the others."""

    sense = forms.ChoiceField(choices=SENSES, initial="probe")
    note = forms.CharField(max_length=300, required=False)

    def __init__(self, data: Any, units: Units, piece: Piece) -> None:
        super().__init__(data)
        own = piece.own_cut.doneness if piece.own_cut else ()
        words = [word.word for word in scale_of(cut(piece.cut).doneness, own)[1:]]
        self.fields["core_c"] = fields.temperature("Core", units, -20, 150, required=False)
        self.fields["weighed_g"] = fields.mass("Cooked weight", units, 1, 200_000, required=False)
        self.fields["word"] = forms.ChoiceField(
            choices=[("", "Choose"), *((word, word.capitalize()) for word in words)], required=False
        )
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("id", f"check-{name}")

    def clean(self) -> dict[str, Any]:
        """Require a number for the probe, a word for a sense."""
        super().clean()
        cleaned = self.cleaned_data
        if cleaned.get("sense") == "probe" and cleaned.get("core_c") is None and "core_c" not in self.errors:
            self.add_error("core_c", "Enter the probe reading.")
        if cleaned.get("sense") not in (None, "probe") and not cleaned.get("word"):
            self.add_error("word", "Choose what you felt or saw.")
        return cleaned

    def found(self) -> dict[str, Any]:
        """The check's fields, after validation."""
        data = {key: value for key, value in self.cleaned_data.items() if value not in (None, "")}
        return {**data, "sense_name": dict(SENSES)[data["sense"]]}
