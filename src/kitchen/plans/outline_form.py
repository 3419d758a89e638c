"""The outline of a piece on the bench: which family, its sizes, and what a cook who has just chosen one begins with."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from ember.files.outline import MIRRORED, NEAR_ALL_ROUND, ROUND, TAPERED
from ember.files.piece import Piece
from ember.food.catalogue import Cut
from ember.food.geometry import footprint_mm
from ember.quantities import Units
from kitchen.units import fields
from kitchen.units.number_text import figure

EVEN = ("", "Even all over")
TRACED = ("traced", "As traced")
FLAT = [
    ("steak", "Steak"), ("medallion", "Medallion"), ("fillet", "Fillet, thin on one side"),
    ("breast", "Breast, thin at its tip"), ("chop", "Chop"), ("chunk", "Block"), ("lump", "Domed lump"),
    ("dome", "Domed, thin at both sides"),
]  # fmt: skip
ROLLS = [("roll", "Roll"), ("tail", "With a tail")]
# What the size along the row is called, and the third one; none where the row says both.
ROW_WORDS = {
    "steak": ("Width", "Length"), "fillet": ("Width", "Length"), "chop": ("Width", "Length"),
    "chunk": ("Width", "Length"), "lump": ("Width", "Length"), "dome": ("Width", "Length"), "medallion": ("Across", ""),
    "breast": ("Length", "Width"), "tail": ("Length", ""), "roll": ("Length", ""),
}  # fmt: skip
THIN_SHARE, BONE_MM = 0.4, 12.0  # what a thin end and a bone begin with; common practice
HAVE_EDGES = ("steak", "medallion", "chunk", "roll")
SQUARE: tuple[tuple[str, str], ...] = (("square", "Square"), ("round", "Round"))


def choices_for(shape: str, family: str) -> list[tuple[str, str]]:
    """Families of a shape; a traced one stays what it is."""
    found = {"slab": FLAT, "cylinder": ROLLS}.get(shape, [])
    return [EVEN, *found, *([TRACED] if family == "traced" and found else [])]


def add_fields(form: forms.Form, units: Units, shape: str, family: str) -> None:
    """Fields of the outline, those of its family only."""
    form.fields["outline"] = forms.ChoiceField(choices=choices_for(shape, family), required=False)
    if family not in ROW_WORDS:
        return
    row, other = ROW_WORDS[family]
    form.fields["row"] = fields.length(row, units, 1, 2000)
    if other:
        form.fields["other"] = fields.length(other, units, 1, 2000, required=family in NEAR_ALL_ROUND)
    if family in TAPERED:
        form.fields["thin"] = fields.length("Thin end", units, 1, 600)
    if family == "chop":
        form.fields["rib"] = fields.length("Bone at one end", units, 1, 80, required=False)
    if family in HAVE_EDGES:
        form.fields["edge"] = forms.ChoiceField(choices=SQUARE, required=False)


def outline_from(typed: Mapping[str, Any]) -> dict[str, Any] | None:
    """The outline as the core's JSON; None for a piece that is even all over."""
    family = typed.get("outline") or ""
    if family not in ROW_WORDS:
        return None
    found: dict[str, Any] = {"family": family, "row_mm": typed["row"]}
    if typed.get("other"):
        found["other_mm"] = typed["other"]
    if family in TAPERED:
        found["thin_mm"] = typed["thin"]
    if family == "chop" and typed.get("rib"):
        found["bone"] = {"end": "thick", "mm": typed["rib"]}
    if family in MIRRORED and typed.get("edge"):
        found["ends"] = ["cut", typed["edge"]]
    return found


def initial_of(outline: Mapping[str, Any] | None) -> dict[str, Any]:
    """Form values of a saved outline."""
    if not outline:
        return {"outline": ""}
    return {
        "outline": outline["family"], "row": outline.get("row_mm"), "other": outline.get("other_mm"),
        "thin": outline.get("thin_mm"), "rib": (outline.get("bone") or {}).get("mm"),
        "edge": (outline.get("ends") or ["cut", "square"])[1],
    }  # fmt: skip


def fill_in(values: dict[str, str], cut_entry: Cut, units: Units) -> None:
    """Give an outline that was just chosen the sizes of its cut's usual piece, to be corrected by who measures."""
    family, shape = values.get("outline", ""), values.get("shape", "")
    if family not in dict(choices_for(shape, family)):
        values["outline"] = ""
        return
    if family not in ROW_WORDS or values.get("row"):
        return
    kind = "cylinder" if family in ROUND else "slab"
    try:
        size = fields.length("Size", units, 1, 600).clean(values.get("size"))
    except forms.ValidationError:
        return
    if size is None:
        return
    named = {"diameter_mm" if kind == "cylinder" else "thickness_mm": size}
    piece = Piece.model_validate({"cut": cut_entry.id, "shape": {"kind": kind, **named}, "start_c": 5.0})
    wide, long = footprint_mm(piece, cut_entry, float(cut_entry.mass_fractions.density(20.0)))
    row = long if ROW_WORDS[family][0] == "Length" else wide

    def shown(mm: float) -> str:
        return figure(units.length_value(round(mm)), 0 if units.length == "mm" else 2)

    values["row"] = shown(max(row, size))
    values["edge"] = "square"
    if family in NEAR_ALL_ROUND:
        values["other"] = shown(max(long, size))
    if family in TAPERED:
        values["thin"] = shown(THIN_SHARE * size)
    if family == "chop" and cut_entry.bone:
        values["rib"] = shown(BONE_MM)
