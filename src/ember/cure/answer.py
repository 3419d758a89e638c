"""One brine request in, one answer out."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from ..errors import BadInput
from ..files.brine import BrineAnswer, BrineRequest, Product, SaltPoint
from ..files.piece import Cylinder, FromMass, General, Piece, Shape, Slab, Sphere
from ..food.catalogue import cut
from ..food.geometry import body_size
from .diffusion import Body, Uptake, hours_even, hours_until, make_body, soak
from .hands import brine_steps, hours_of, weighed
from .nitrite import dry_ppm, equilibrium_ppm, pickup_ppm
from .rows import FLESH_OF, Flesh, limits, salt_data

PICKUP_PCT = 10.0  # where nobody weighed it: the handbook's own assumption
SOLUBLE_PCT = 26.3  # salt in water near 5 °C, of the brine; steam-table handbooks, from memory
BRINE_G_ML = 1.03
HEAD_ROOM = 1.25  # a vessel is filled to four fifths
COURSE_POINTS = 60
PROFILE_POINTS = 41
PRODUCTS: dict[str, Product] = {
    "equilibrium": "immersion", "gradient": "immersion", "dry": "dry", "injected": "pumped",
}  # fmt: skip
ROUNDED_PPM = 0.3  # a quarter ounce in 100 lb is 156.25 ppm, and is written 156
STRENGTH_NEAR = 0.15  # of a strength that is sold


@cache
def words() -> dict[str, Any]:
    """The rows of words.toml."""
    return tomllib.loads(resources.files(__package__).joinpath("data/words.toml").read_text("utf-8"))


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
    pickup = _pickup(request)
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


def flesh_of(request: BrineRequest) -> Flesh:
    """How salt spreads in it: by its cut, else by what is said."""
    kind: str = request.flesh
    if request.cut is not None:
        row = cut(request.cut)
        family = "fish" if row.category == "fish" else "shellfish" if row.category in ("shellfish", "molluscs") else ""
        kind = family or FLESH_OF.get(row.species, "meat")
    return salt_data().diffusivity[kind]


def body_of(request: BrineRequest) -> Body | None:
    """The piece as a body; None where no size is said."""
    shape: Shape | None = request.size
    match shape:
        case None:
            return None
        case Slab(thickness_mm=size):
            return make_body(size, 0.0)
        case Cylinder(diameter_mm=size):
            return make_body(size, 1.0)
        case Sphere(diameter_mm=size):
            return make_body(size, 2.0)
        case General(thickness_mm=size, exponent=exponent):
            return make_body(size, exponent)
        case FromMass():
            if request.cut is None:
                raise BadInput("a size from its mass needs the cut", "size")
            row = cut(request.cut)
            piece = Piece(cut=request.cut, shape=shape, start_c=4.0, mass_g=min(request.meat_g, 60_000.0))
            found = body_size(piece, row, 1050.0)
            return make_body(found.size_mm, found.exponent)


@dataclass(frozen=True)
class _Salting:
    """The piece in its salt: what is in brine and water, per cent of the water, and how it goes."""

    body: Body
    flesh: Flesh
    own_u: float
    brine_u: float
    ratio: float | None
    d_m2s: float

    def pct(self, u: float) -> float:
        """Salt as per cent of the meat from per cent of its water."""
        return u * self.flesh.water_share

    @property
    def even_u(self) -> float:
        """Where all is even."""
        if self.ratio is None:
            return self.brine_u
        return (self.own_u + self.ratio * self.brine_u) / (1.0 + self.ratio)


def _salting(request: BrineRequest, mixed: Mixed, body: Body, flesh: Flesh) -> _Salting:
    meat_water = request.meat_g * flesh.water_share
    own = 100.0 * flesh.salt_pct / 100.0 / flesh.water_share
    d = flesh.diffusivity(request.temp_c)
    if request.school == "dry":
        # Rubbed-on salt makes its brine of the meat's own juice: saturated, as long as there is some left.
        juice = 0.1 * meat_water
        return _Salting(body, flesh, own, 100.0 * mixed.salt_g / juice, juice / meat_water, d)
    brine_u = 100.0 * mixed.salt_g / request.water_g
    if request.school == "injected":
        pickup = _pickup(request)
        taken = pickup * request.meat_g
        share = request.water_g / mixed.brine_g
        even = own + 100.0 * taken * mixed.salt_g / mixed.brine_g / (meat_water + taken * share)
        return _Salting(body, flesh, even, even, None, d)
    return _Salting(body, flesh, own, brine_u, request.water_g / meat_water, d)


def answer_brine(request: BrineRequest) -> BrineAnswer:
    """What a brine leads to. Raises BadInput for a standard, a cut or a size that is not there."""
    mixed, flesh, body = mix(request), flesh_of(request), body_of(request)
    ppm, formula = nitrite_of(request, mixed)
    limit, allowed, why, product = allowed_of(request, ppm)
    brine_pct = 100.0 * mixed.salt_g / mixed.brine_g if mixed.brine_g > 0 else 0.0
    even_pct = _even_pct(request, mixed, flesh)
    salting = _salting(request, mixed, body, flesh) if body is not None else None
    course, profile = _course(request, salting)
    wanted = None
    if salting is not None and request.want_pct is not None and request.school != "injected":
        wanted = hours_until(
            salting.body, salting.brine_u, salting.own_u, request.want_pct / flesh.water_share, salting.d_m2s,
            salting.ratio,
        )  # fmt: skip
    even_h = None
    if salting is not None:
        even_h = (
            0.0
            if request.school == "injected"
            else hours_even(salting.body, salting.brine_u, salting.own_u, salting.d_m2s, salting.ratio)
        )
    last = course[-1] if course else None
    plain_pct = _plain_pct(request, mixed, last)
    return BrineAnswer(
        school=request.school, salt_g=round(mixed.added_g, 2), salt_pct_meat=round(plain_pct, 3),
        salt_pct_brine=None if request.school == "dry" else round(brine_pct, 3),
        sugar_pct_brine=round(100.0 * request.sugar_g / mixed.brine_g, 3) if mixed.brine_g else 0.0,
        brine_g=round(mixed.brine_g, 1), nitrite_ppm=None if ppm is None else round(ppm, 2), limit_ppm=limit,
        allowed=allowed, why=why, formula=formula, product=product,
        centre_salt_pct=last.centre_pct if last else None, mean_salt_pct=last.mean_pct if last else None,
        hours_to_equilibrium=None if even_h is None else round(even_h, 2),
        hours_to_want=None if wanted is None else round(wanted, 2), salt_pct_even=round(even_pct, 3),
        vessel_l=round(_vessel_l(request, mixed), 2), course=course,
        profile_mm=[round(float(v), 2) for v in profile[0]], profile_pct=[round(float(v), 3) for v in profile[1]],
        after_soak_pct=_after_soak(request, salting),
        steps=brine_steps(request, mixed.added_g, hours_of(request, even_h, wanted)),
        warnings=_warnings(request, mixed, ppm, brine_pct, wanted, last),
        cautions=_cautions(request),
    )  # fmt: skip


def _plain_pct(request: BrineRequest, mixed: Mixed, last: SaltPoint | None) -> float:
    """Salt in the meat as a cook reckons it, per cent: shared evenly, rubbed in, or by what is taken up."""
    if request.school == "equilibrium":
        return 100.0 * mixed.salt_g / (request.meat_g + request.water_g)
    if request.school == "dry":
        return 100.0 * mixed.salt_g / request.meat_g
    if request.school == "gradient" and last is not None:
        return last.mean_pct
    return _pickup(request) * 100.0 * mixed.salt_g / mixed.brine_g


def _pickup(request: BrineRequest) -> float:
    """Brine taken up, kg a kg of meat."""
    return (request.pickup_pct if request.pickup_pct is not None else PICKUP_PCT) / 100.0


def _even_pct(request: BrineRequest, mixed: Mixed, flesh: Flesh) -> float:
    """Salt in the meat once all is even, per cent of the meat; of dry and injected all that went in."""
    if request.school == "dry":
        return 100.0 * mixed.salt_g / request.meat_g
    if request.school == "injected":
        pickup = _pickup(request)
        return flesh.salt_pct + 100.0 * pickup * mixed.salt_g / mixed.brine_g / (1.0 + pickup)
    meat_water = request.meat_g * flesh.water_share
    salt = mixed.salt_g + flesh.salt_pct / 100.0 * request.meat_g
    return 100.0 * salt / (meat_water + request.water_g) * flesh.water_share


def _course(request: BrineRequest, salting: _Salting | None) -> tuple[list[SaltPoint], tuple[Any, Any]]:
    """Salt in time over the hours asked, and the profile at their end: mm from the middle, per cent of the meat."""
    if salting is None or request.hours is None:
        return [], ([], [])
    seconds = 3600.0 * request.hours
    taken = _taken(salting, seconds)
    times = np.linspace(0.0, seconds, COURSE_POINTS)
    centre, mean = taken.centre(times), taken.mean(times)
    brine = np.interp(times, taken.t_s, taken.brine)
    course = [
        SaltPoint(
            hours=round(float(t) / 3600.0, 3), centre_pct=round(salting.pct(float(c)), 3),
            mean_pct=round(salting.pct(float(m)), 3), brine_pct=round(100.0 * float(b) / (100.0 + float(b)), 3),
        )
        for t, c, m, b in zip(times, centre, mean, brine, strict=True)
    ]  # fmt: skip
    grid = salting.body.grid
    middle = grid.half_m if grid.two_faces else 0.0
    at = np.linspace(-1.0, 1.0, PROFILE_POINTS) * grid.half_m
    there = np.abs(at) if not grid.two_faces else at + middle
    values = np.interp(there, grid.x_m, taken.at(seconds)[0]) * salting.flesh.water_share
    return course, (1e3 * at, values)


def _taken(salting: _Salting, seconds: float) -> Uptake:
    return soak(salting.body, salting.own_u, salting.brine_u, seconds, salting.d_m2s, salting.ratio)


def _after_soak(request: BrineRequest, salting: _Salting | None) -> float | None:
    """The mean salt after soaking back, per cent of the meat."""
    if salting is None or request.soak is None or request.hours is None:
        return None
    before = _taken(salting, 3600.0 * request.hours).at(3600.0 * request.hours)[0]
    back = request.soak
    ratio = None if back.water_g is None else back.water_g / (request.meat_g * salting.flesh.water_share)
    out = soak(salting.body, before, 0.0, 3600.0 * back.hours, salting.flesh.diffusivity(back.temp_c), ratio)
    return round(salting.pct(float(out.mean(3600.0 * back.hours)[0])), 3)


def _vessel_l(request: BrineRequest, mixed: Mixed) -> float:
    """A vessel that holds meat and brine with room to turn it, l."""
    liquid = 0.0 if request.school in ("dry", "injected") else mixed.brine_g / BRINE_G_ML
    return HEAD_ROOM * (request.meat_g / 1.05 + liquid) / 1000.0


def _warnings(
    request: BrineRequest, mixed: Mixed, ppm: float | None, brine_pct: float, wanted: float | None,
    last: SaltPoint | None,
) -> list[str]:  # fmt: skip
    found = []
    if request.treated:
        found.append(words()["cautions"]["treated"])
    if request.school != "dry" and brine_pct > SOLUBLE_PCT:
        found.append(f"{brine_pct:.0f} % does not dissolve: water holds {SOLUBLE_PCT:g} % at 5 °C.")
    if request.cure is not None:
        pct = request.cure.nitrite_pct
        near = [s for s in salt_data().strength if abs(pct - s.pct) <= STRENGTH_NEAR * s.pct]
        if not near:
            sold = ", ".join(s.name for s in salt_data().strength)
            found.append(f"{pct:g} % is no usual strength ({sold}): read the bag again, and have it read.")
        row = limits()[request.standard]
        if ppm is not None and row.minimum_ppm is not None and ppm < row.minimum_ppm:
            found.append(f"{ppm:.0f} ppm is little: {row.least_words}.")
        if request.school in ("gradient", "injected") and request.pickup_pct is None:
            found.append("Pick-up is taken as 10 %: weigh the meat before and after.")
    if request.want_pct is not None and wanted is None and request.school != "injected":
        found.append(f"The middle never comes to {request.want_pct:g} %: more salt, or more brine.")
    if last is not None and last.mean_pct > 3.5:
        found.append(f"{last.mean_pct:.1f} % is too salty to eat as it is: soak it back, or for less long.")
    if request.temp_c > 5.0 and (request.hours or 0.0) > 4.0:
        found.append(f"{request.temp_c:g} °C for {request.hours:g} h: colder than 5 °C, or within four hours.")
    return found


def _cautions(request: BrineRequest) -> list[str]:
    said = words()["cautions"]
    found = list(said["cure"]) if request.cure else []
    if request.school == "injected":
        found.append(said["injected"])
    return [*found, *said["always"]]
