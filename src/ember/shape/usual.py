"""The usual outline of a cut, which is drawn where nobody has measured one; heat follows it only once somebody has."""

from __future__ import annotations

from typing import Literal

from ..files.outline import Outline
from ..files.piece import FromMass, Piece
from ..food.catalogue import Cut

# Shares of the greatest thickness and of the row, from handbook drawings (from memory).
THIN = {"breast": 0.35, "tail": 0.4}
BONE_MM = 12.0
KEPT = ("breast", "supreme")
CHOPS = ("chop", "cutlet")
LUMPS = ("cheek", "knuckle")

Confidence = Literal["sure", "fair", "unsure"]


def usual_outline(piece: Piece, cut_entry: Cut, size_mm: float, wide_mm: float, long_mm: float) -> Outline | None:
    """The outline of a cut's usual piece at a size, in mm; None for whole birds, balls and pieces in between."""
    name = cut_entry.id.split("/")[1]
    if cut_entry.thigh_share is not None or isinstance(piece.shape, FromMass):
        return None
    match piece.shape.kind:
        case "slab":
            return _flat(name, cut_entry, size_mm, wide_mm, long_mm)
        case "cylinder":
            tail = name in ("tenderloin", "tenderloin-whole", "tail")
            row = max(long_mm, size_mm)
            thin = {"thin_mm": THIN["tail"] * size_mm} if tail else {}
            return Outline(family="tail" if tail else "roll", row_mm=row, **thin)
        case _:
            return None


def _flat(name: str, cut_entry: Cut, size_mm: float, wide_mm: float, long_mm: float) -> Outline:
    wide, long = max(wide_mm, size_mm), max(long_mm, size_mm)
    if cut_entry.form.dome < 1.0:
        return Outline(family="dome", row_mm=wide, other_mm=long)
    if name in KEPT:
        return Outline(family="breast", row_mm=long, other_mm=wide, thin_mm=THIN["breast"] * size_mm)
    if name in CHOPS or name.endswith(CHOPS):
        bone = {"bone": {"end": "thick", "mm": min(BONE_MM, wide / 3)}} if cut_entry.bone else {}
        return Outline.model_validate({"family": "chop", "row_mm": wide, "other_mm": long, **bone})
    if name in LUMPS:
        return Outline(family="lump", row_mm=wide, other_mm=long)
    return Outline(family="steak", row_mm=wide, other_mm=long)


def confidence_of(cut_entry: Cut) -> Confidence:
    """How sure the usual outline is: fair at best, as it is drawn from a form."""
    return "unsure" if cut_entry.confidence == "unsure" else "fair"
