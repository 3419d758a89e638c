"""Forms of photographs: what was cut, where its face is, and what a ruler says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from ember.face.frame import LEAST_MM, MOST_MM, Point
from ember.face.palette import bands_of
from ember.quantities import Units
from kitchen.units import fields

MOST_POINTS = 40
DONT_KNOW = [("", "–")]


def point_of(text: str) -> Point | None:
    """A point of a picture from "x,y" in px; None from an empty text. Raises ValidationError."""
    if not text.strip():
        return None
    try:
        x, y = (float(part) for part in text.split(","))
    except ValueError:
        raise ValidationError("A point is two numbers: x,y in pixels.") from None
    if not (0 <= x < 1e5 and 0 <= y < 1e5):  # NaN is refused too
        raise ValidationError("This point is outside the picture.")
    return x, y


def points_of(text: str) -> list[Point]:
    """Points from "x,y x,y"; what is none is left out."""
    points = []
    for part in text.split()[:MOST_POINTS]:
        try:
            point = point_of(part)
        except ValidationError:
            continue
        if point is not None:
            points.append(point)
    return points


class PointField(forms.CharField):
    """A point of a picture, px."""

    def __init__(self) -> None:
        super().__init__(max_length=40, required=False, widget=forms.HiddenInput())

    def clean(self, value: Any) -> Any:
        """(x, y), or None."""
        return point_of(super().clean(value))


def band_words(cut_id: str) -> list[str]:
    """The bands that can be seen on the face of a cut, from the outside in."""
    return [word for _, word in bands_of(cut_id)]


class PieceForm(forms.Form):
    """A piece that belongs to no cook: its cut and thickness."""

    def __init__(self, data: Mapping[str, Any] | None, units: Units, initial: Mapping[str, Any] | None = None) -> None:
        super().__init__(data, initial=dict(initial or {}))
        self.fields["cut"] = forms.ChoiceField(choices=fields.cut_choices(), widget=fields.CutSelect)
        self.fields["mm"] = fields.length("Thickness", units, LEAST_MM, MOST_MM)


class FrameForm(forms.Form):
    """Where the face is in its photograph, how thick the piece is there, and what somebody says before measuring."""

    def __init__(self, data: Mapping[str, Any] | None, cut_id: str, units: Units, mm: float | None = None) -> None:
        super().__init__(data, initial={"mm": mm})
        for name in ("top", "under", "white"):
            self.fields[name] = PointField()
        self.fields["mm"] = fields.length("Thickness", units, LEAST_MM, MOST_MM)
        words = [(word, word) for word in reversed(band_words(cut_id)[1:])]
        self.fields["guess_word"] = forms.ChoiceField(choices=[*DONT_KNOW, *words], required=False)
        self.fields["guess_mm"] = fields.length("Edge", units, 0.0, MOST_MM, required=False)


class RulerForm(forms.Form):
    """Where each band ends by a ruler, from both sides; the word of the middle; the highest core read."""

    def __init__(self, data: Mapping[str, Any] | None, cut_id: str, units: Units, mm: float) -> None:
        super().__init__(data)
        words = band_words(cut_id)
        self.edges = words[:-1]
        self.fields["word"] = forms.ChoiceField(choices=[(word, word) for word in reversed(words[1:])])
        for number, word in enumerate(self.edges):
            for side in ("top", "under"):
                label = f"{word.capitalize()}, {'top' if side == 'top' else 'underside'}"
                self.fields[f"{side}-{number}"] = fields.length(label, units, 0.0, mm, required=False)
        self.fields["core_c"] = fields.temperature("Highest core", units, -5, 120, required=False)

    @property
    def rows(self) -> list[tuple[str, Any, Any]]:
        """Each band with its two fields."""
        return [(word, self[f"top-{n}"], self[f"under-{n}"]) for n, word in enumerate(self.edges)]

    def bands(self) -> dict[str, list[float | None]]:
        """{word: [mm from the top, mm from the underside]} of those that were measured."""
        typed = self.cleaned_data
        rows = {word: [typed[f"top-{n}"], typed[f"under-{n}"]] for n, word in enumerate(self.edges)}
        return {word: row for word, row in rows.items() if row != [None, None]}
