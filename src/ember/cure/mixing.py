"""What a brine is mixed of: grams of everything, its nitrite, and the limit that holds."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import BadInput
from ..files.brine import BrineRequest, Product
from .hands import weighed
from .nitrite import dry_ppm, equilibrium_ppm, pickup_ppm
from .rows import limits

PICKUP_PCT = 10.0  # where nobody weighed it: the handbook's own assumption
PRODUCTS: dict[str, Product] = {
    "equilibrium": "immersion", "gradient": "immersion", "dry": "dry", "injected": "pumped",
}  # fmt: skip
ROUNDED_PPM = 0.3  # a quarter ounce in 100 lb is 156.25 ppm, and is written 156


@dataclass(frozen=True)
class Mixed:
    """What the request says, in grams: salt with the curing salt's own, nitrite, and all of the brine."""

    salt_g: float
    nitrite_share: float
    cure_g: float
    brine_g: float
    added_g: float

    @property
    def nitrite_g(self) -> float:
        """Sodium nitrite, g."""
        return self.cure_g * self.nitrite_share


def mix(request: BrineRequest) -> Mixed:
    """Grams of everything. Curing salt is salt but for its nitrite, and counts as such."""
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
    """What is weighed, in a line: "120 g salt, 40 g sugar in 2000 g of water"."""
    words = weighed(request, mix(request).added_g)
    return words if request.school == "dry" else f"{words} in {request.water_g:g} g of water"


def nitrite_of(request: BrineRequest, mixed: Mixed) -> tuple[float | None, str]:
    """Ingoing sodium nitrite, ppm, and the formula it came by."""
    if request.cure is None:
        return None, ""
    if request.school == "equilibrium":
        found = equilibrium_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g, request.water_g)
        return found, "nitrite ÷ (meat + water)"
    if request.school == "dry":
        return dry_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g), "nitrite ÷ meat"
    pickup = pickup_of(request)
    return pickup_ppm(mixed.cure_g, mixed.nitrite_share, mixed.brine_g, pickup), "brine's nitrite share × pick-up"


def allowed_of(request: BrineRequest, ppm: float | None) -> tuple[float | None, bool, str, Product]:
    """The limit, whether it is kept, why, and the product it was held against."""
    product = request.product or PRODUCTS[request.school]
    if request.standard not in limits():
        raise BadInput(f"Unknown standard “{request.standard}”. There is: {', '.join(limits())}.", "standard")
    row = limits()[request.standard]
    limit = row.limits[product]
    if ppm is None:
        return limit, True, "No curing salt: no limit applies.", product
    said = f"{row.authority}, {row.section}: at most {limit:g} ppm, {product.replace('-', ' ')}"
    if ppm > limit + ROUNDED_PPM:
        return limit, False, f"{ppm:.0f} ppm of sodium nitrite is {ppm - limit:.0f} over. {said}.", product
    return limit, True, f"{ppm:.0f} ppm of sodium nitrite, {limit - ppm:.0f} under. {said}.", product


def pickup_of(request: BrineRequest) -> float:
    """Brine taken up, kg a kg of meat."""
    return (request.pickup_pct if request.pickup_pct is not None else PICKUP_PCT) / 100.0
