"""Thicknesses along a piece, as text in a field: `0 26, 30 20, 70 9`, each a place and how thick it is there."""

from __future__ import annotations

import re
from collections.abc import Iterable
from itertools import pairwise
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from ember.errors import BadInput
from ember.numbers import number_of
from ember.quantities import Units
from kitchen.units.number_text import figure

FEWEST, MOST = 3, 60
Trace = list[tuple[float, float]]


class TraceField(forms.CharField):
    """Reads places and thicknesses in the person's unit into mm, from the thick end on."""

    def __init__(self, units: Units, **kwargs: Any) -> None:
        self.units = units
        widget = forms.TextInput(attrs={"autocomplete": "off", "spellcheck": "false"})
        super().__init__(label="Places and thicknesses", max_length=1000, widget=widget, **kwargs)

    def prepare_value(self, value: Any) -> Any:
        """A trace in mm as text; typed text unchanged."""
        return value if value is None or isinstance(value, str) else trace_text(value, self.units)

    def clean(self, value: Any) -> Trace | None:
        """Places in order, in mm. Raises ValidationError with what is wrong."""
        text = super().clean(value)
        return read_trace(text, self.units) if text else None


def trace_text(trace: Iterable[tuple[float, float]], units: Units) -> str:
    """A trace as its field shows it."""
    digits = 1 if units.length == "mm" else 2
    return ", ".join(" ".join(figure(units.length_value(mm), digits) for mm in pair) for pair in trace)


def read_trace(text: str, units: Units) -> Trace:
    """Places and thicknesses in mm. Raises ValidationError with what is wrong."""
    found: Trace = []
    for pair in filter(None, (part.strip() for part in re.split(r"[,;\n]+", text))):
        numbers = pair.split()
        try:
            place, thick = (number_of(number, point_is_decimal=True) for number in numbers)
        except (BadInput, ValueError):
            raise ValidationError(f"“{pair}” is not a place and a thickness, such as “30 20”.") from None
        mm = 25.4 if units.length != "mm" else 1.0
        found.append((mm * place, mm * thick))
    if not FEWEST <= len(found) <= MOST:
        raise ValidationError(f"Give from {FEWEST} to {MOST} places, each with how thick it is there.")
    if any(b[0] <= a[0] for a, b in pairwise(found)):
        raise ValidationError("The places go upwards, from one end to the other.")
    return found
