"""The base of every desk's form: a table of where its fields stand in the request."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from django import forms

from ember.errors import EmberError
from ember.quantities import Units
from kitchen.units.number_text import in_units
from kitchen.web import clean_text

MOST_NAME = 80


def read(document: Mapping[str, Any], path: str) -> Any:
    """The value at a path such as "egg.mass_g"; None if there is none."""
    value: Any = document
    for part in path.split("."):
        if not isinstance(value, Mapping):
            return None
        value = value.get(part)
    return value


def write(document: dict[str, Any], path: str, value: Any) -> None:
    """Set the value at a path."""
    *way, last = path.split(".")
    for part in way:
        document = document.setdefault(part, {})
    document[last] = value


class DeskForm(forms.Form):
    """The base form of a desk. Its fields show a request and build one."""

    METHOD: ClassVar[str] = ""
    FORMAT: ClassVar[str] = ""
    PREFIX: ClassVar[str] = "desk"
    PATHS: ClassVar[dict[str, str]] = {}
    DEFAULTS: ClassVar[dict[str, Any]] = {}
    ALSO: ClassVar[dict[str, str]] = {}  # places of fields that are shown, but written by the form itself
    # Fields in the left column, with their words and units; those in `MORE` stand in a fold.
    SHOWN: ClassVar[tuple[tuple[str, str, str], ...]] = ()
    MORE: ClassVar[tuple[tuple[str, str, str], ...]] = ()

    name = forms.CharField(max_length=MOST_NAME, required=False)

    def __init__(self, data: Mapping[str, Any] | None, units: Units, usual: Mapping[str, Any] | None = None) -> None:
        self.units = units
        super().__init__()
        self.build(units)
        for name, field in self.fields.items():
            field.widget.attrs.setdefault("id", f"{self.PREFIX}-{name}")
            field.widget.attrs.setdefault("autocomplete", "off")
        defaults = {**self.DEFAULTS, **(usual or {})}
        if not data:
            data = {k: self.fields[k].prepare_value(v) for k, v in defaults.items() if k in self.fields}
        self.data, self.is_bound = dict(data), True

    def build(self, units: Units) -> None:
        """Build the fields of the method."""

    @classmethod
    def data_of(cls, document: Mapping[str, Any], units: Units) -> dict[str, Any]:
        """Form data of a saved request."""
        form = cls(None, units)
        values = {}
        for name, path in {**cls.PATHS, **cls.ALSO}.items():
            value = read(document, path)
            if value is not None and name in form.fields:
                values[name] = form.fields[name].prepare_value(value)
        return values | form.more_data(document)

    def more_data(self, document: Mapping[str, Any]) -> dict[str, Any]:
        """Form data of the parts of a request that are not plain fields."""
        return {}

    def document(self) -> dict[str, Any]:
        """The request as the core's JSON, after validation."""
        typed = self.cleaned_data
        values: dict[str, Any] = {"format": self.FORMAT, "version": 1}
        if self.METHOD:
            values["method"] = self.METHOD
        for name, path in self.PATHS.items():
            if typed.get(name) not in (None, ""):
                write(values, path, typed[name])
        return values

    def field_of(self, place: str) -> str | None:
        """The field that stands for a place in the request."""
        return next((name for name, path in self.PATHS.items() if path == place and name in self.fields), None)

    def refuse(self, error: EmberError) -> str:
        """Attach core errors to their fields; returns the messages that belong to none."""
        words = in_units(error.message, self.units)
        name = self.field_of(error.at) if error.at else None
        if name is None:
            return words
        self.add_error(name, words)
        return ""

    @property
    def shown(self) -> list[tuple[Any, str, str]]:
        """Fields of the left column."""
        return [(self[name], label, self._unit(unit)) for name, label, unit in self.SHOWN]

    @property
    def more(self) -> list[tuple[Any, str, str]]:
        """Fields of its fold."""
        return [(self[name], label, self._unit(unit)) for name, label, unit in self.MORE]

    @property
    def more_wrong(self) -> bool:
        """Whether a field in the fold has an error."""
        return any(self[name].errors for name, _, _ in self.MORE)

    def _unit(self, unit: str) -> str:
        units = self.units
        known = {
            "c": units.degree, "g": units.mass, "mm": units.length, "oz": units.small_mass, "l": units.pot_volume,
            "ml": units.volume, "m": units.height,
        }  # fmt: skip
        return known.get(unit, unit)

    @property
    def title(self) -> str:
        """The name, tidied."""
        return clean_text(self.data.get("name"), MOST_NAME)


def count_field(what: str, most: int) -> forms.IntegerField:
    return forms.IntegerField(
        min_value=1, max_value=most, widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        error_messages={"required": f"{what}: enter a number."},
    )  # fmt: skip
