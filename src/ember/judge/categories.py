"""The safety category of a piece: by its cut and its history."""

from __future__ import annotations

from collections.abc import Iterable

from ..files.judge import JudgedPiece
from ..files.piece import Piece
from ..food.catalogue import Cut

# The safety categories, in a cook's words; every standard says what it asks of each.
CATEGORIES = {
    "meat": "Whole meat and farmed game", "beef-steak": "Beef steak, whole muscle",
    "meat-roast": "Whole roast", "offal": "Offal", "cured-ham": "Cured ham", "minced": "Minced meat",
    "non-intact": "Pierced, tenderised or injected", "non-intact-roast": "Pierced or injected roast",
    "ratite": "Ostrich", "poultry": "Poultry", "poultry-offal": "Poultry liver", "game-wild": "Wild game",
    "stuffed": "Stuffed", "fish": "Fish", "shellfish": "Prawns, crab, lobster", "molluscs": "Mussels, clams, oysters",
    "molluscs-stuffed": "Stuffed mussels, clams, oysters",
    "egg-served": "Egg, served at once", "egg-pooled": "Egg, pooled or held",
}  # fmt: skip
# US Food Code 3-401.11(A)(2), 1-201.10 "mechanically tenderized", "injected": the inside is no longer sterile.
PIERCING = frozenset({"pierced", "tenderised", "injected"})
ROASTS = frozenset({"meat-roast", "cured-ham", "non-intact-roast"})
# Intact only until something goes through the surface; the others have a rule of their own whatever is done to them.
MAMMALS = frozenset({"meat", "beef-steak", "meat-roast", "offal", "cured-ham"})


def category_of(cut_entry: Cut, history: Iterable[str], origin: str, treated: bool = False) -> str:
    """The safety category of a piece.

    `history`: as in the plan's format. `treated`: bought with added salt or water, which is injected.
    """
    done = set(history)
    base = cut_entry.category_wild if origin == "wild" and cut_entry.category_wild else cut_entry.category
    if "stuffed" in done:
        return "molluscs-stuffed" if base == "molluscs" else "stuffed"
    if base not in MAMMALS:
        return base
    if "minced" in done:
        return "minced"
    if done & PIERCING or treated or cut_entry.treated:
        return "non-intact-roast" if base in ROASTS else "non-intact"
    return base


def category_of_piece(cut_entry: Cut, piece: Piece | JudgedPiece) -> str:
    """The safety category of a piece by itself, whatever a plan does to it; stuffing is part of its history."""
    history = [*piece.history, "stuffed"] if piece.stuffed else piece.history
    return category_of(cut_entry, history, piece.origin, piece.treated)
