"""The form of an own cut."""

from __future__ import annotations

from typing import Any

from django import forms

from ember.errors import BadInput
from ember.files.piece import OwnCut as CoreOwnCut
from ember.food.composition import COMPONENTS, Composition
from ember.quantities import Units
from kitchen.units import fields
from kitchen.units.fields import CutSelect, cut_choices

WORDS = 6
LABELS = {"water": "Water", "protein": "Protein", "fat": "Fat", "carbohydrate": "Carbohydrate", "ash": "Ash"}


class OwnCutForm(forms.Form):
    """Name, the cut it resembles, doneness words with their lower limits, and composition in g/100 g; the last two are
    optional.
    """

    name = forms.CharField(max_length=80, error_messages={"required": "Enter a name."})
    base = forms.ChoiceField(label="Like", widget=CutSelect)

    def __init__(self, data: Any, units: Units, initial: dict[str, Any] | None = None) -> None:
        super().__init__(data, initial=initial)
        base: forms.Field = self.fields["base"]
        assert isinstance(base, forms.ChoiceField)  # noqa: S101  (declared above)
        base.choices = cut_choices()
        for i in range(WORDS):
            self.fields[f"word{i}"] = forms.CharField(max_length=40, required=False, label=f"Word {i + 1}")
            self.fields[f"low{i}"] = fields.temperature("From", units, 20, 98, required=False)
            self.fields[f"word{i}"].widget.attrs["aria-label"] = f"Word {i + 1}"
            self.fields[f"low{i}"].widget.attrs["aria-label"] = f"Word {i + 1}, from"
        for key, label in LABELS.items():
            self.fields[key] = fields.plain_number(label, 0, 100, "g", required=False)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"own-{name}"
            field.widget.attrs.setdefault("autocomplete", "off")

    @property
    def word_rows(self) -> list[tuple[Any, Any]]:
        """Word and lower limit, row by row."""
        return [(self[f"word{i}"], self[f"low{i}"]) for i in range(WORDS)]

    @property
    def component_rows(self) -> list[Any]:
        """The composition's fields."""
        return [self[key] for key in LABELS]

    def clean(self) -> dict[str, Any]:
        """Require words in ascending order, and a composition that adds up or none."""
        super().clean()
        cleaned = self.cleaned_data
        words = []
        for i in range(WORDS):
            word, low = (cleaned.get(f"word{i}") or "").strip(), cleaned.get(f"low{i}")
            if word and low is None and f"low{i}" not in self.errors:
                self.add_error(f"low{i}", "Enter the temperature it starts at.")
            if low is not None and not word:
                self.add_error(f"word{i}", "Enter the word.")
            if word and low is not None:
                words.append([word.lower(), round(low, 2)])
        cleaned["doneness"] = words
        if cleaned.get("name") and not self.errors:
            try:
                CoreOwnCut(name=cleaned["name"], doneness=[(word, low) for word, low in words])
            except ValueError:
                self.add_error("word0", "Words must go up in temperature, at least one degree apart, each used once.")
        cleaned["composition"] = self._composition(cleaned)
        return cleaned

    def _composition(self, cleaned: dict[str, Any]) -> dict[str, float] | None:
        grams = {key: cleaned.get(key) for key in COMPONENTS}
        if all(value is None for value in grams.values()):
            return None
        shares = {key: (value or 0.0) / 100.0 for key, value in grams.items()}
        try:
            Composition.from_fractions(shares)
        except BadInput as error:
            self.add_error("water", error.message)
        return shares

    @staticmethod
    def initial_of(own: Any) -> dict[str, Any]:
        """Form values of a saved own cut."""
        values: dict[str, Any] = {"name": own.name, "base": own.base}
        for i, (word, low) in enumerate(own.doneness):
            values |= {f"word{i}": word, f"low{i}": float(low)}
        for key, share in (own.composition or {}).items():
            values[key] = 100.0 * share
        return values
