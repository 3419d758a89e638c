"""Fields of every egg form: time wanted, guests, consumer advisory."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.quantities import Units
from kitchen.desk.forms import DeskForm

EGG = (("kind", "Kind", ""), ("mass", "Mass", "oz"), ("count", "Eggs", ""), ("start", "Start", "c"))


class EggForm(DeskForm):
    """The base form of a method with eggs."""

    FORMAT: ClassVar[str] = "open-ember/egg"
    PREFIX: ClassVar[str] = "egg"
    ALSO: ClassVar[dict[str, str]] = {"guests": "guests", "advisory": "advisory", "pasteurised": "pasteurised"}

    up_at = forms.TimeField(
        required=False, input_formats=["%H:%M", "%H.%M", "%H"],
        error_messages={"invalid": "Enter a time of day, like 19:30."},
    )  # fmt: skip
    guests = forms.ChoiceField(choices=[("general", "Everybody"), ("susceptible", "Susceptible")], required=False)
    advisory = forms.BooleanField(required=False)
    pasteurised = forms.BooleanField(required=False)

    def __init__(self, data: Mapping[str, Any] | None, units: Units, altitude_m: float = 0.0) -> None:
        super().__init__(data, units, {"guests": "general", "altitude": altitude_m, **self.DEFAULTS})

    def document(self) -> dict[str, Any]:
        """The request, with its guests and what exempts it from the rule."""
        values, typed = super().document(), self.cleaned_data
        values["guests"] = typed.get("guests") or "general"
        values["advisory"], values["pasteurised"] = bool(typed.get("advisory")), bool(typed.get("pasteurised"))
        return values

    @property
    def wanted_at(self) -> dt.time | None:
        """The plate-up time."""
        return self.cleaned_data.get("up_at") if self.is_valid() else None
