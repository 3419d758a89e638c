"""What the batch gives on plates, and what must be bought for it."""

from __future__ import annotations

from ..files.piece import Piece
from ..files.result import ServesOut
from ..food.catalogue import Cut

# What stays on the board when nobody weighed it; common practice, unsure.
BIRD_BONE_PCT, BONE_PCT = 35.0, 20.0


def usual_bone_pct(cut_entry: Cut, bone: bool | None) -> float:
    """Bone in the cooked piece, % of its mass, for a cut that has one."""
    if cut_entry.thigh_share is not None:
        return BIRD_BONE_PCT
    has_bone = cut_entry.bone or cut_entry.bone_share > 0 or "bone" in cut_entry.tissue
    return BONE_PCT if (has_bone if bone is None else bone) else 0.0


def serves_of(piece: Piece, cut_entry: Cut, mass_g: float, yield_share: float) -> ServesOut:
    """Portions and masses; `mass_g` is that of one piece as it goes on the heat."""
    bone = piece.bone_pct if piece.bone_pct is not None else usual_bone_pct(cut_entry, piece.bone)
    eaten_g = mass_g * yield_share * (1.0 - bone / 100.0)
    return ServesOut(
        portions=piece.count * piece.portions,
        portion_g=round(eaten_g / piece.portions, 1),
        bought_g=round(piece.count * mass_g / (1.0 - piece.trim_pct / 100.0), 1),
        bone_pct=bone,
    )
