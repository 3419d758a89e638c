"""Forms of the book's entries."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Equipment
from kitchen.units import fields
from kitchen.web import clean_text

from .models import Entry

Kind = Entry.Kind
STORES = {Kind.COLD: ("fridge", "chiller"), Kind.HOT: ("cupboard", "bath"), Kind.REHEAT: ()}


class EntryForm(forms.Form):
    """One entry; its kind selects the fields."""

    def __init__(self, kind: str, data: Mapping[str, Any] | None, kitchen: Kitchen, units: Units) -> None:
        super().__init__(data)
        self.kind = Kind(kind)
        stores = STORES.get(self.kind, ())
        self.equipment = list(Equipment.objects.of(kitchen).current().filter(kind__in=stores)) if stores else []
        if self.equipment:
            choices = [("", "something else"), *((str(place.pk), place.name) for place in self.equipment)]
            self.fields["equipment"] = forms.ChoiceField(choices=choices, required=False)
        self.fields["what"] = forms.CharField(max_length=120, required=False)
        if self.kind != Kind.NOTE:
            self.fields["celsius"] = fields.temperature("Read", units, -60, 300)
        if self.kind == Kind.DELIVERY:
            self.fields["accepted"] = forms.ChoiceField(choices=[("yes", "accepted"), ("no", "rejected")])
        self.fields["note"] = forms.CharField(max_length=500, required=False)
        for name, field in self.fields.items():
            field.widget.attrs |= {"id": f"entry-{name}", "autocomplete": "off"}

    def clean(self) -> dict[str, Any]:
        """Require what an entry of this kind needs."""
        cleaned = super().clean() or {}
        if not cleaned.get("equipment") and not clean_text(cleaned.get("what"), 120):
            self.add_error("what", "Enter the place or item.")
        if self.kind == Kind.NOTE and not clean_text(cleaned.get("note"), 500):
            self.add_error("note", "Enter a note.")
        return cleaned

    def found(self) -> dict[str, Any]:
        """The entry's fields, after validation."""
        typed = self.cleaned_data
        place = next((item for item in self.equipment if str(item.pk) == typed.get("equipment")), None)
        named = clean_text(typed["what"], 120) or (place.name if place else "")
        return {
            "kind": self.kind, "equipment": place, "what": named, "celsius": typed.get("celsius"),
            "note": clean_text(typed["note"], 500),
            "accepted": None if "accepted" not in typed else typed["accepted"] == "yes",
        }  # fmt: skip
