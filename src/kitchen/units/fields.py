"""Form fields that read a measure in the person's unit and return SI (°C, mm, g, minutes)."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache, partial
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from ember.errors import BadInput
from ember.food.catalogue import cuts
from ember.numbers import NUMBER, number_of
from ember.quantities import (
    Units,
    parse_clock,
    parse_height,
    parse_length,
    parse_mass,
    parse_minutes,
    parse_temperature,
    parse_volume,
)

from .number_text import clock_span, figure, minutes_text


class MeasureField(forms.CharField):
    """A number with a unit. `low` and `high` are limits in SI; errors use the person's unit."""

    def __init__(
        self,
        what: str,
        read: Callable[[str], float],
        write: Callable[[float], str],
        unit: str,
        low: float,
        high: float,
        **kwargs: Any,
    ) -> None:
        self.what, self.read, self.write, self.unit = what, read, write, unit
        self.low, self.high = low, high
        kwargs.setdefault("widget", forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}))
        super().__init__(max_length=40, error_messages={"required": f"{what}: enter a number."}, **kwargs)

    def prepare_value(self, value: Any) -> Any:
        """SI numbers in the person's unit; typed text unchanged."""
        return self.write(float(value)) if isinstance(value, int | float) else value

    def clean(self, value: Any) -> float | None:
        """SI from text."""
        text = super().clean(value)
        if text in self.empty_values:
            return None
        try:
            number = self.read(text)
        except BadInput as error:
            raise ValidationError(error.message) from None
        if not self.low <= number <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise ValidationError(f"{self.what} must be from {self.write(self.low)} to {self.write(self.high)}{unit}.")
        return number


def _measured(
    what: str, read: Callable[[str], float], shown: Callable[[float], float], digits: int, unit: str, low: float,
    high: float, **kwargs: Any,
) -> MeasureField:  # fmt: skip
    """A field that reads a text into SI and shows SI as the person's number."""
    return MeasureField(what, read, lambda value: figure(shown(value), digits), unit, low, high, **kwargs)


def temperature(what: str, units: Units, low_c: float, high_c: float, **kwargs: Any) -> MeasureField:
    """°C from the person's scale."""
    read = partial(parse_temperature, unit=units.temperature)
    return _measured(what, read, units.temperature_value, 1, units.degree, low_c, high_c, **kwargs)


def length(what: str, units: Units, low_mm: float, high_mm: float, **kwargs: Any) -> MeasureField:
    """mm from the person's unit."""
    read, digits = partial(parse_length, unit=units.length), 1 if units.length == "mm" else 3
    return _measured(what, read, units.length_value, digits, units.length, low_mm, high_mm, **kwargs)


def mass(what: str, units: Units, low_g: float, high_g: float, **kwargs: Any) -> MeasureField:
    """g from the person's unit."""
    read, digits = partial(parse_mass, unit=units.mass), 0 if units.mass == "g" else 2
    return _measured(what, read, units.mass_value, digits, units.mass, low_g, high_g, **kwargs)


def small_mass(what: str, units: Units, low_g: float, high_g: float, **kwargs: Any) -> MeasureField:
    """g of something small, from the person's unit: grams or ounces."""
    read, digits = partial(parse_mass, unit=units.small_mass), 1 if units.mass == "g" else 2
    return _measured(what, read, units.small_mass_value, digits, units.small_mass, low_g, high_g, **kwargs)


def volume(what: str, units: Units, low_ml: float, high_ml: float, **kwargs: Any) -> MeasureField:
    """ml from the person's unit: millilitres or fluid ounces."""
    read = partial(parse_volume, unit=units.volume)
    return _measured(what, read, units.volume_value, 1, units.volume, low_ml, high_ml, **kwargs)


def pot_volume(what: str, units: Units, low_l: float, high_l: float, **kwargs: Any) -> MeasureField:
    """Litres from the person's unit: litres or quarts."""
    unit = units.pot_volume
    return _measured(
        what, lambda text: parse_volume(text, unit) / 1000.0, units.pot_volume_value, 1, unit, low_l, high_l, **kwargs
    )


def height(what: str, units: Units, low_m: float, high_m: float, **kwargs: Any) -> MeasureField:
    """m above the sea from the person's unit: metres or feet."""
    read = partial(parse_height, unit=units.height)
    return _measured(what, read, units.height_value, 0, units.height, low_m, high_m, **kwargs)


def _bare_number(text: str, point_is_decimal: bool = True) -> float:
    match = NUMBER.fullmatch(text.strip())
    if match is None:
        raise BadInput(f"“{text[:40]}” is not a number.")
    return number_of(match[0], point_is_decimal)


def temperature_rate(what: str, units: Units, low_k: float, high_k: float, **kwargs: Any) -> MeasureField:
    """K a minute, from the person's degrees a minute."""
    per, unit = units.temperature_step(1.0), f"{units.degree} a minute"
    return _measured(
        what, lambda text: _bare_number(text) / per, units.temperature_step, 2, unit, low_k, high_k, **kwargs
    )


def minutes(what: str, low: float, high: float, **kwargs: Any) -> MeasureField:
    """Minutes from "20", "1 h 50 min" or "45 s"."""
    return MeasureField(what, parse_minutes, minutes_text, "", low, high, **kwargs)


def clock(what: str, low: float, high: float, **kwargs: Any) -> MeasureField:
    """Minutes from a stopwatch's "7:10", or as minutes."""
    return MeasureField(what, parse_clock, lambda m: clock_span(round(60.0 * m)), "", low, high, **kwargs)


def plain_number(what: str, low: float, high: float, unit: str = "", **kwargs: Any) -> MeasureField:
    """A bare number."""

    def read(text: str) -> float:
        return _bare_number(text, unit not in ("g", "ml", "W"))

    return MeasureField(what, read, lambda v: figure(v, 1), unit, low, high, **kwargs)


def cut_choices() -> list[tuple[str, list[tuple[str, str]]]]:
    """Every cut, by species."""
    species: dict[str, list[tuple[str, str]]] = {}
    for cut_entry in cuts().values():
        species.setdefault(cut_entry.species.capitalize(), []).append((cut_entry.id, cut_entry.name))
    return list(species.items())


@lru_cache(maxsize=256)
def _options(chosen: str) -> SafeString:
    groups = (
        (
            name,
            format_html_join(
                "",
                '<option value="{}"{}>{}</option>',
                ((key, mark_safe(" selected") if key == chosen else "", words) for key, words in rows),
            ),
        )
        for name, rows in cut_choices()
    )
    return format_html_join("", '<optgroup label="{}">{}</optgroup>', groups)


class CutSelect(forms.Select):
    """The catalogue as a select, rendered once a choice, since its page is rendered at every key."""

    def render(self, name: str, value: Any, attrs: dict[str, Any] | None = None, renderer: Any = None) -> SafeString:
        """The select as HTML."""
        attributes = self.build_attrs(self.attrs, {"name": name, **(attrs or {})})
        written = format_html_join(
            "", ' {}="{}"', ((key, text) for key, text in attributes.items() if text not in (None, False))
        )
        return format_html("<select{}>{}</select>", written, _options(str(value or "")))
