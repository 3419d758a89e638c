"""A plan scaled to the portions of a dish: number of pieces, and amounts to weigh."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ember.cure.mixing import scaled, weighed_words
from ember.files.brine import parse_brine
from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.food.geometry import mass_of
from ember.heat.problem import density_of

A_PORTION_MOST_G = 600.0  # a piece up to this is one person's; of a larger one the plan says its portions
MOST_PIECES = 500


def for_portions(document: Mapping[str, Any], portions: int) -> dict[str, Any]:
    """The plan with the pieces needed for that many portions; unchanged if it does not say what a piece serves."""
    piece = document["piece"]
    a_piece = piece.get("portions") or 1
    if a_piece == 1 and piece_g(document) > A_PORTION_MOST_G:
        return dict(document)
    count = min(max(math.ceil(portions / a_piece), 1), MOST_PIECES)
    return {**document, "piece": {**piece, "count": count}}


def piece_g(document: Mapping[str, Any]) -> float:
    """The mass of one of a plan's pieces, g."""
    plan = parse_plan(document)
    return float(mass_of(plan.piece, cut(plan.piece.cut), density_of(plan)))


def meat_g(document: Mapping[str, Any]) -> float:
    """All of a plan's pieces, g."""
    return piece_g(document) * int(document["piece"].get("count", 1))


def brines_of(document: Mapping[str, Any]) -> list[str]:
    """Amounts to weigh for the brines of a plan, for its own meat, a line each."""
    meat = meat_g(document)
    recipes = [stage["recipe"] for stage in document["stages"] if stage.get("recipe")]
    return [weighed_words(parse_brine(scaled(recipe, meat))) for recipe in recipes]
