"""A recipe for another mass of meat: all that is weighed goes along, what is in per cent stays."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

# What is weighed, with the decimals a kitchen's scale shows; curing salt has a finer one.
WEIGHED = {"meat_g": 0, "water_g": 0, "salt_g": 1, "sugar_g": 1}
CURE_DECIMALS = 2


def scaled(recipe: Mapping[str, Any], meat_g: float) -> dict[str, Any]:
    """An `open-ember/brine` request in JSON for `meat_g` of meat. Raises ValueError for no meat.

    >>> scaled({"school": "equilibrium", "meat_g": 2000, "water_g": 1500, "salt_pct": 1.5}, 500)["water_g"]
    375.0
    """
    if meat_g <= 0:
        raise ValueError("a recipe is weighed for some meat")
    share = meat_g / recipe["meat_g"]
    recipe_scaled = dict(recipe)
    for key, decimals in WEIGHED.items():
        if recipe_scaled.get(key):
            recipe_scaled[key] = round(recipe_scaled[key] * share, decimals)
    if recipe_scaled.get("cure"):
        recipe_scaled["cure"] = {
            **recipe_scaled["cure"],
            "grams": round(recipe_scaled["cure"]["grams"] * share, CURE_DECIMALS),
        }
    if (soak := recipe_scaled.get("soak")) and soak.get("water_g"):
        recipe_scaled["soak"] = {**soak, "water_g": round(soak["water_g"] * share)}
    return recipe_scaled
