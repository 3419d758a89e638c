"""What a brine is mixed of: grams of everything, its nitrite, and the limit that holds."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import BadInput
from ..files.brine import BrineRequest, Product
from .hands import weighed
from .nitrite import dry_ppm, equilibrium_ppm, pickup_ppm
from .products import ruling_of
from .rows import limits

PICKUP_PCT = 10.0  # where nobody weighed it: the handbook's own assumption
NAMES: dict[Product, str] = {
    "immersion": "immersed", "pumped": "pumped", "dry": "dry-cured whole cut", "comminuted": "minced",
    "bacon-pumped": "bacon, pumped", "bacon-immersion": "bacon, immersed", "bacon-dry": "bacon, dry-cured",
    "fish-smoked": "smoked cured fish",
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
        ppm = equilibrium_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g, request.water_g)
        return ppm, "nitrite ÷ (meat + water)"
    if request.school == "dry":
        return dry_ppm(mixed.cure_g, mixed.nitrite_share, request.meat_g), "nitrite ÷ meat"
    pickup = pickup_of(request)
    return pickup_ppm(mixed.cure_g, mixed.nitrite_share, mixed.brine_g, pickup), "brine's nitrite share × pick-up"


@dataclass(frozen=True)
class Allowed:
    """Whether a cure is allowed, its limit and product (None: not yet known, or none there is), and why."""

    limit_ppm: float | None
    allowed: bool
    why: str
    product: Product | None


def allowed_of(request: BrineRequest, ppm: float | None) -> Allowed:
    """A cure held against its standard. Raises BadInput for a standard that is not there."""
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
    """Brine taken up, kg a kg of meat."""
    return (request.pickup_pct if request.pickup_pct is not None else PICKUP_PCT) / 100.0
