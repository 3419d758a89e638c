"""The house's own limits."""

from __future__ import annotations

from typing import Any

from django import forms

from ember.files.base import House
from ember.judge.categories import CATEGORIES
from ember.quantities import Units
from kitchen.units import fields

HOLDING = {
    "hold_hot_c": ("Hot holding", 40, 95),
    "hold_cold_c": ("Cold holding", -5, 15),
    "reheat_c": ("Reheating", 55, 99),
}


class HouseForm(forms.Form):
    """A limit for each category, empty if the standard is enough."""

    def __init__(self, data: Any, units: Units, house: dict[str, Any]) -> None:
        super().__init__(data, initial={**house.get("core_c", {}), **{key: house.get(key) for key in HOLDING}})
        for category, words in CATEGORIES.items():
            self.fields[category] = fields.temperature(words, units, 40, 99, required=False, label=words)
        for key, (words, low, high) in HOLDING.items():
            self.fields[key] = fields.temperature(words, units, low, high, required=False, label=words)
        for name, field in self.fields.items():
            field.widget.attrs["id"] = f"house-{name}"

    def house(self) -> dict[str, Any]:
        """The limits as the core's JSON."""
        typed = self.cleaned_data
        core = {category: typed[category] for category in CATEGORIES if typed.get(category) is not None}
        limits = House(core_c=core, **{key: typed.get(key) for key in HOLDING})
        return limits.model_dump(exclude_none=True)
