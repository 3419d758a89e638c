"""The outline of a piece on the bench: which family, its sizes, and what a cook who has just chosen one begins with."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from django import forms

from ember.files.outline import MIRRORED, NEAR_ALL_ROUND, TAPERED, THINNEST, Outline
from ember.files.piece import Piece
from ember.food.catalogue import Cut
from ember.food.geometry import footprint_mm
from ember.quantities import Units
from ember.shape.of_piece import made_from
from ember.shape.usual import usual_outline
from kitchen.units import fields
from kitchen.units.number_text import figure

from .trace_field import TraceField, read_trace, trace_text

EVEN = ("", "Even all over")
TRACED = ("traced", "Traced, place by place")
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
    "breast": ("Length", "Width"), "tail": ("Length", ""), "roll": ("Length", ""), "traced": ("", "Across"),
}  # fmt: skip
TRACED_AT = 7  # places that a trace begins with
THIN_SHARE, BONE_MM = 0.4, 12.0  # what a thin end and a bone begin with; common practice
UNSHOWN = ("keep", "shield_mm")
NO_EDGES = ("lump", "dome", "traced")  # they say themselves how they end
SQUARE: tuple[tuple[str, str], ...] = (("square", "Square"), ("round", "Round"))
DRAPE = ("fillet", "breast", "dome", "lump", "traced")  # of the others all of a face is level
LIES: tuple[tuple[str, str], ...] = (("soft", "Drapes"), ("stiff", "Keeps its form"))


def choices_for(shape: str) -> list[tuple[str, str]]:
    """Families of a shape."""
    found = {"slab": FLAT, "cylinder": ROLLS}.get(shape, [])
    return [EVEN, *found, TRACED] if found else [EVEN]


def add_fields(form: forms.Form, units: Units, shape: str, family: str) -> None:
    """Fields of the outline, those of its family only."""
    form.fields["outline"] = forms.ChoiceField(choices=choices_for(shape), required=False)
    if family not in ROW_WORDS:
        return
    row, other = ROW_WORDS[family]
    if family == "traced":
        form.fields["trace"] = TraceField(units)
    else:
        form.fields["row"] = fields.length(row, units, 1, 2000)
    if other and shape == "slab":
        form.fields["other"] = fields.length(other, units, 1, 2000, required=family in NEAR_ALL_ROUND)
    if family in TAPERED:
        form.fields["thin"] = fields.length("Thin end", units, 1, 600)
    if family == "chop":
        form.fields["rib"] = fields.length("Bone at one end", units, 1, 80, required=False)
    if family not in NO_EDGES:
        form.fields["edge"] = forms.ChoiceField(choices=SQUARE, required=False)
    if family in DRAPE and shape == "slab":
        form.fields["lies"] = forms.ChoiceField(choices=LIES, required=False)


def kept_of(outline: Mapping[str, Any]) -> dict[str, Any]:
    """What a saved outline has that no field shows, with its family."""
    kept = {key: outline[key] for key in UNSHOWN if outline.get(key) is not None}
    if outline.get("family") in NO_EDGES and outline.get("ends") is not None:
        kept["ends"] = outline["ends"]
    return {**kept, "family": outline["family"]} if kept else {}


def outline_from(typed: Mapping[str, Any], kept: Any = None) -> dict[str, Any] | None:
    """The outline as the core's JSON; None for a piece that is even all over. `kept`: what no field shows of the saved
    one, which stays while the family does.
    """
    family = typed.get("outline") or ""
    if family not in ROW_WORDS:
        return None
    found: dict[str, Any] = (
        dict(kept) if isinstance(kept, dict) and kept.get("family") == family else {"family": family}
    )
    if family == "traced":
        found["trace"] = [[round(mm, 2) for mm in pair] for pair in typed["trace"]]
    else:
        found["row_mm"] = typed["row"]
    if typed.get("lies") == "stiff":
        found["lies"] = "stiff"
    if typed.get("other"):
        found["other_mm"] = typed["other"]
    if family in TAPERED:
        found["thin_mm"] = typed["thin"]
    if family == "chop" and typed.get("rib"):
        found["bone"] = {"end": "thick", "mm": typed["rib"]}
    if typed.get("edge"):
        found["ends"] = ["cut" if family in MIRRORED else typed["edge"], typed["edge"]]
    return found


def initial_of(outline: Mapping[str, Any] | None) -> dict[str, Any]:
    """Form values of a saved outline."""
    if not outline:
        return {"outline": ""}
    return {
        "outline": outline["family"], "row": outline.get("row_mm"), "other": outline.get("other_mm"),
        "thin": outline.get("thin_mm"), "rib": (outline.get("bone") or {}).get("mm"),
        "edge": (outline.get("ends") or ["cut", "square"])[1],
        "trace": outline.get("trace"), "lies": outline.get("lies", "soft"),
    }  # fmt: skip


def fill_in(values: dict[str, str], cut_entry: Cut, units: Units) -> None:
    """Give an outline that was just chosen the sizes of its cut's usual piece, to be corrected by who measures."""
    family, shape = values.get("outline", ""), values.get("shape", "")
    if family not in dict(choices_for(shape)):
        values["outline"] = ""
        return
    if family == "traced" and values.get("trace"):
        _size_from_trace(values, units)
    if family not in ROW_WORDS or values.get("row") or values.get("trace"):
        return
    kind = shape
    try:
        size = fields.length("Size", units, 1, 600).clean(values.get("size"))
    except forms.ValidationError:
        return
    if size is None:
        return
    named = {"diameter_mm" if kind == "cylinder" else "thickness_mm": size}
    piece = Piece.model_validate({"cut": cut_entry.id, "shape": {"kind": kind, **named}, "start_c": 5.0})
    wide, long = footprint_mm(piece, cut_entry, float(cut_entry.mass_fractions.density(20.0)))
    if family == "traced":
        usual = usual_outline(piece, cut_entry, size, wide, long) or Outline(family="steak", row_mm=max(wide, size))
        values["trace"] = trace_text(_traced(usual, size, kind == "cylinder"), units)
        return
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


def _size_from_trace(values: dict[str, str], units: Units) -> None:
    """A traced piece is as thick as its thickest place."""
    try:
        thickest = max(thick for _, thick in read_trace(values["trace"], units))
    except forms.ValidationError:
        return
    values["size"] = figure(units.length_value(thickest), 1 if units.length == "mm" else 3)


def _traced(usual: Outline, size_mm: float, is_round: bool) -> list[tuple[float, float]]:
    """An outline as a few places with their thicknesses, to be corrected."""
    x, half = (1e3 * values for values in made_from(usual, 1e-3 * size_mm, is_round).mirrored())
    at = np.linspace(x[0], x[-1], TRACED_AT)
    thick = np.maximum(2.0 * np.interp(at, x, half), THINNEST * size_mm)
    return [(float(place), float(mm)) for place, mm in zip(at - at[0], thick, strict=True)]
