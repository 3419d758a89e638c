"""Salt on its way through a piece: the body, its concentration over time, and soaking in fresh water."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import BadInput
from ..files.brine import BrineRequest, SaltPoint
from ..files.piece import Cylinder, FromMass, General, Piece, Shape, Slab, Sphere
from ..food.catalogue import cut
from ..food.geometry import body_size
from .diffusion import Body, Uptake, make_body, soak
from .mixing import Mixed, pickup_of
from .rows import FLESH_OF, Flesh, salt_data

COURSE_POINTS = 60
PROFILE_POINTS = 41


def flesh_of(request: BrineRequest) -> Flesh:
    """Diffusion of salt in the request's flesh: by its cut, else as stated."""
    kind: str = request.flesh
    if request.cut is not None:
        cut_entry = cut(request.cut)
        family = (
            "fish"
            if cut_entry.category == "fish"
            else "shellfish"
            if cut_entry.category in ("shellfish", "molluscs")
            else ""
        )
        kind = family or FLESH_OF.get(cut_entry.species, "meat")
    return salt_data().diffusivity[kind]


def body_of(request: BrineRequest) -> Body | None:
    """The piece as a body; None without a size."""
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
            cut_entry = cut(request.cut)
            piece = Piece(cut=request.cut, shape=shape, start_c=4.0, mass_g=min(request.meat_g, 60_000.0))
            found = body_size(piece, cut_entry, 1050.0)
            return make_body(found.size_mm, found.exponent)


@dataclass(frozen=True)
class Salting:
    """The piece in salt: concentrations in brine and water, per cent of the water, and their change."""

    body: Body
    flesh: Flesh
    own_u: float
    brine_u: float
    ratio: float | None
    d_m2s: float

    def pct(self, u: float) -> float:
        """Salt as per cent of the meat from per cent of its water."""
        return u * self.flesh.water_share


def salting_of(request: BrineRequest, mixed: Mixed, body: Body, flesh: Flesh) -> Salting:
    """The salting of a request by its method."""
    meat_water = request.meat_g * flesh.water_share
    own = 100.0 * flesh.salt_pct / 100.0 / flesh.water_share
    d = flesh.diffusivity(request.temp_c)
    if request.school == "dry":
        # Rubbed-on salt makes its brine of the meat's own juice: saturated, as long as there is some left.
        juice = 0.1 * meat_water
        return Salting(body, flesh, own, 100.0 * mixed.salt_g / juice, juice / meat_water, d)
    brine_u = 100.0 * mixed.salt_g / request.water_g
    if request.school == "injected":
        pickup = pickup_of(request)
        taken = pickup * request.meat_g
        share = request.water_g / mixed.brine_g
        even = own + 100.0 * taken * mixed.salt_g / mixed.brine_g / (meat_water + taken * share)
        return Salting(body, flesh, even, even, None, d)
    return Salting(body, flesh, own, brine_u, request.water_g / meat_water, d)


def even_pct_of(request: BrineRequest, mixed: Mixed, flesh: Flesh) -> float:
    """Salt in the meat at equilibrium, per cent of the meat; for dry and injected cures all that went in."""
    if request.school == "dry":
        return 100.0 * mixed.salt_g / request.meat_g
    if request.school == "injected":
        pickup = pickup_of(request)
        return flesh.salt_pct + 100.0 * pickup * mixed.salt_g / mixed.brine_g / (1.0 + pickup)
    meat_water = request.meat_g * flesh.water_share
    salt = mixed.salt_g + flesh.salt_pct / 100.0 * request.meat_g
    return 100.0 * salt / (meat_water + request.water_g) * flesh.water_share


def salt_course_of(request: BrineRequest, salting: Salting | None) -> tuple[list[SaltPoint], tuple[Any, Any]]:
    """Salt over the hours requested, and the profile at the end: mm from the middle, per cent of the meat."""
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


def _taken(salting: Salting, seconds: float) -> Uptake:
    return soak(salting.body, salting.own_u, salting.brine_u, seconds, salting.d_m2s, salting.ratio)


def after_soak(request: BrineRequest, salting: Salting | None) -> float | None:
    """Mean salt after soaking, per cent of the meat."""
    if salting is None or request.soak is None or request.hours is None:
        return None
    before = _taken(salting, 3600.0 * request.hours).at(3600.0 * request.hours)[0]
    back = request.soak
    ratio = None if back.water_g is None else back.water_g / (request.meat_g * salting.flesh.water_share)
    out = soak(salting.body, before, 0.0, 3600.0 * back.hours, salting.flesh.diffusivity(back.temp_c), ratio)
    return round(salting.pct(float(out.mean(3600.0 * back.hours)[0])), 3)
