"""The composition of a brine: grams of everything, its nitrite, and the limit that applies.

Ingoing sodium nitrite has one formula for each method of curing, as ppm of green meat: USDA FSIS, Processing
Inspectors' Calculations Handbook (Directive 7620.3, 1995), from memory. Equilibrium (method 2): nitrite over meat and
water together. Pumped, or immersed with a pick-up (method 1): the brine's nitrite fraction times pick-up. Dry and
comminuted: nitrite over meat. Method 1 is 1 + P times method 2 if all brine is taken up: they must not be mixed up.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..errors import BadInput
from ..files.brine import BrineRequest, Product
from .products import ruling_of
from .rows import limits
from .steps import weighed

KNO2_OVER_NANO2 = 1.233
NANO2_OVER_ION = 1.5
PPM = 1e6


def dry_ppm(cure_g: float, nitrite_share: float, meat_g: float) -> float:
    """Ingoing nitrite of a dry cure or mince, ppm.

    >>> round(dry_ppm(2.5, 0.0625, 1000.0), 2)  # a level teaspoon of 6.25 % cure in 5 lb: a quarter ounce in 100 lb
    156.25
    """
    return PPM * cure_g * nitrite_share / meat_g


def equilibrium_ppm(cure_g: float, nitrite_share: float, meat_g: float, water_g: float) -> float:
    """Ingoing nitrite of meat and water at equilibrium, ppm.

    >>> round(equilibrium_ppm(24.0, 0.005, 1000.0, 1000.0), 1)
    60.0
    """
    return PPM * cure_g * nitrite_share / (meat_g + water_g)


def pickup_ppm(cure_g: float, nitrite_share: float, brine_g: float, pickup_share: float) -> float:
    """Ingoing nitrite of a pumped cure, or an immersion, by pick-up of brine, ppm.

    >>> round(pickup_ppm(2.0, 1.0, 1000.0, 0.10), 1)  # 2 lb of nitrite in 100 gal of pickle of 10 lb, a tenth pumped
    200.0
    """
    return PPM * cure_g * nitrite_share / brine_g * pickup_share


PICKUP_PCT = 10.0  # where nobody weighed it: the handbook's own assumption
NAMES: dict[Product, str] = {
    "immersion": "immersed", "pumped": "pumped", "dry": "dry-cured whole cut", "comminuted": "minced",
    "bacon-pumped": "bacon, pumped", "bacon-immersion": "bacon, immersed", "bacon-dry": "bacon, dry-cured",
    "fish-smoked": "smoked cured fish",
}  # fmt: skip
ROUNDED_PPM = 0.3  # a quarter ounce in 100 lb is 156.25 ppm, and is written 156


@dataclass(frozen=True)
class Mixed:
    """The recipe in grams: salt including the curing salt's own, nitrite, and the whole brine."""

    salt_g: float
    nitrite_share: float
    cure_g: float
    brine_g: float
    added_g: float


def mix(request: BrineRequest) -> Mixed:
    """Grams of everything. Curing salt is salt except for its nitrite, and counts as such."""
    cure_g = request.cure.grams if request.cure else 0.0
    share = request.cure.nitrite_pct / 100.0 if request.cure else 0.0
    from_cure = cure_g * (1.0 - share)
    if request.salt_g is not None:
        salt, added = request.salt_g + from_cure, request.salt_g
    else:
        pct = (request.salt_pct or 0.0) / 100.0
        if request.school == "equilibrium":
            salt = pct * (request.meat_g + request.water_g)
        elif request.school == "dry":
            salt = pct * request.meat_g
        else:
            salt = pct * request.water_g
        added = max(salt - from_cure, 0.0)
        salt = max(salt, from_cure)
    water = request.water_g if request.school != "dry" else 0.0
    return Mixed(salt, share, cure_g, water + added + cure_g + request.sugar_g, added)


def weighed_words(request: BrineRequest) -> str:
    """The amounts to weigh in a line: "120 g salt, 40 g sugar in 2000 g of water"."""
    words = weighed(request, mix(request).added_g)
    return words if request.school == "dry" else f"{words} in {request.water_g:g} g of water"


def nitrite_of(request: BrineRequest, mixed: Mixed) -> tuple[float | None, str]:
    """Ingoing sodium nitrite, ppm, and the formula used."""
    if request.cure is None:
        return None, ""
    if request.school == "equilibrium":
        ppm = equilibrium_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g, request.water_g)
        return ppm, "nitrite ÷ (meat + water)"
    if request.school == "dry":
        return dry_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g), "nitrite ÷ meat"
    pickup = pickup_of(request)
    return pickup_ppm(mixed.cure_g, mixed.nitrite_share, mixed.brine_g, pickup), "brine's nitrite share × pick-up"


@dataclass(frozen=True)
class Allowed:
    """Whether a cure is allowed, its limit and product (None: unknown, or there is none), and why."""

    limit_ppm: float | None
    allowed: bool
    why: str
    product: Product | None


def allowed_of(request: BrineRequest, ppm: float | None) -> Allowed:
    """A cure judged by its standard. Raises BadInput for an unknown standard."""
    if request.standard not in limits():
        raise BadInput(f"Unknown standard “{request.standard}”. There is: {', '.join(limits())}.", "standard")
    limit_rows = limits()[request.standard]
    ruling = ruling_of(request, limit_rows)
    limit, product = ruling.limit_ppm, ruling.product
    if ppm is None:
        return Allowed(limit, True, "No curing salt: no limit applies.", product)
    if limit is None or product is None:
        return Allowed(None, False, ruling.why, None)
    section = limit_rows.fish_section if product == "fish-smoked" else limit_rows.section
    limit_text = f"{limit_rows.authority}, {section}: at most {limit:g} ppm, {NAMES[product]}"
    if ppm > limit + ROUNDED_PPM:
        return Allowed(
            limit, False, f"{ppm:.0f} ppm of sodium nitrite is {ppm - limit:.0f} over. {limit_text}.", product
        )
    if ruling.least_ppm is not None and ppm < ruling.least_ppm - ROUNDED_PPM:
        text = f"{ppm:.0f} ppm of sodium nitrite is under the {ruling.least_ppm:g} ppm it must have. {limit_text}."
        return Allowed(limit, False, text, product)
    return Allowed(limit, True, f"{ppm:.0f} ppm of sodium nitrite, {limit - ppm:.0f} under. {limit_text}.", product)


def pickup_of(request: BrineRequest) -> float:
    """Pick-up of brine, kg for a kg of meat."""
    return (request.pickup_pct if request.pickup_pct is not None else PICKUP_PCT) / 100.0


# What is weighed, with the decimals a kitchen's scale shows; curing salt has a finer one.
WEIGHED = {"meat_g": 0, "water_g": 0, "salt_g": 1, "sugar_g": 1}
CURE_DECIMALS = 2


def scaled(recipe: Mapping[str, Any], meat_g: float) -> dict[str, Any]:
    """An `open-ember/brine` request in JSON scaled to `meat_g` of meat. Raises ValueError without meat.

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
