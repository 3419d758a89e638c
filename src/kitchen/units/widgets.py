"""Widgets of our own."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from django import forms
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from ember.food.catalogue import cuts


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
    """The catalogue as a select: written once a choice, for a page that is written at every key."""

    def render(self, name: str, value: Any, attrs: dict[str, Any] | None = None, renderer: Any = None) -> SafeString:
        """The select as HTML."""
        attributes = self.build_attrs(self.attrs, {"name": name, **(attrs or {})})
        written = format_html_join(
            "", ' {}="{}"', ((key, text) for key, text in attributes.items() if text not in (None, False))
        )
        return format_html("<select{}>{}</select>", written, _options(str(value or "")))
