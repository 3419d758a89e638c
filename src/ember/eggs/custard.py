"""Custards: set in a dish in a water bath, stirred on the heat, or tempered with hot cream.

A dish is a short cylinder in the bath; its top receives about as much from the oven's air and roof as its floor from
the water (20 W/m²K over 90 K against 110 over 15 near the end). The solver's round body replaces it, with the exponent
that gives both the same lowest eigenvalue (Carslaw & Jaeger 1959, chapters III, VII and IX for slab, cylinder and
sphere; from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..errors import BadInput, NeverReached
from ..food.composition import Composition, ThermalProperties
from ..heat import terms
from ..heat.faces import both, film, vapour_pressure_pa
from ..heat.grid import FloatArray, Grid, make_grid
from ..heat.numerics import between, bracketed_root
from .sauce_data import CustardRow, sauce_data

CUSTARD = Composition(0.755, 0.056, 0.057, 0.122, 0.009)  # milk, egg, 12 % sugar; USDA tables (from memory)
INTERVALS = 32
FINEST_M = 0.3e-3
TOLERANCE_K = 0.03
LONGEST_S = 6 * 3600.0
AFTER_S = 3600.0
KELVIN, SIGMA = 273.15, 5.670374e-8
CP_AIR, LEWIS = 1030.0, 0.90
# A tray takes heat by its sides, its floor and its dishes, and gives vapour where no dish stands: fitted to McGee's
# baths at 80 to 87 °C in ovens of 160 to 180.
HEATED_TO_WET = 6.0
AFTER = {"lifted": (12.0, 22.0), "ice": (250.0, 2.0), "fridge": (8.0, 4.0)}
IN_BATH_TAU_S = 90 * 60.0  # a tray of hot water taken out of the oven; common practice
LEAST_SIDE = 0.15  # what a side takes from the oven's air where no water stands; unsure
NINE_TENTHS = 0.1
LEAST_EXPONENT = 0.02
RUNS_BELOW_K = 4.0  # what is so far under where it sets still runs


def bath_in_oven_c(oven_c: float, cover: bool, fan: bool = False) -> float:
    """Steady temperature of a tray of water in an oven, °C: heat gained by convection and radiation leaves as vapour.

    >>> 80 <= bath_in_oven_c(165.0, False) <= 87  # McGee 2004
    True
    """
    bath = sauce_data().bath
    if cover:
        return min(bath.covered_c, oven_c)
    h = bath.fan_h if fan else bath.still_h

    def gain(water_c: float) -> float:
        radiated = bath.emissivity * SIGMA * ((oven_c + KELVIN) ** 4 - (water_c + KELVIN) ** 4)
        p_s, p_a = vapour_pressure_pa(water_c, 1.0), bath.vapour_pa
        y_s, y_a = 0.622 * p_s / (101_325.0 - 0.378 * p_s), 0.622 * p_a / (101_325.0 - 0.378 * p_a)
        vapour = h / (CP_AIR * LEWIS) * math.log(1.0 + max((y_s - y_a) / (1.0 - y_s), 0.0))
        return HEATED_TO_WET * (h * (oven_c - water_c) + radiated) - vapour * (2.501e6 - 2370.0 * water_c)

    low, high = 20.0, min(oven_c, 99.5)
    if gain(high) > 0:
        return high
    return bracketed_root(gain, low, high, 0.5, 0.01)


def _eigenvalue(exponent: float, biot: float) -> float:
    """Lowest eigenvalue of a body whose area grows as r^exponent: λ J_{ν+1}(λ) = Bi J_ν(λ), ν = (exponent − 1)/2.

    >>> round(_eigenvalue(0.0, 1.0), 4), round(_eigenvalue(1.0, 1.0), 4), round(_eigenvalue(2.0, 1.0), 4)
    (0.8603, 1.2558, 1.5708)
    """
    from scipy.special import jn_zeros, jv

    order = 0.5 * (exponent - 1.0)
    # The first zero of J_ν, which λ stays under, lies between those of its neighbours.
    first = {0.0: math.pi / 2, 1.0: float(jn_zeros(0, 1)[0]), 2.0: math.pi}
    top = float(np.interp(exponent, list(first), list(first.values()))) * 1.02

    def f(x: float) -> float:
        return float(x * jv(order + 1.0, x) - biot * jv(order, x))

    low, high = 1e-4, top
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if f(middle) < 0 else (low, middle)
    return 0.5 * (low + high)


@dataclass(frozen=True)
class Dish:
    """A dish of custard as a round body for the solver."""

    grid: Grid
    body: terms.Body
    food: terms.Food
    resists_m2k_w: float
    exponent: float

    def follow(self, start: FloatArray, medium_c: float, h: float, seconds: float, tau_s: float = 0.0) -> DishCourse:
        """Simulate it in one medium for a time; `tau_s`: the medium is a tray of water that cools by itself."""
        from ..heat.kernel import run

        state = np.zeros((terms.STATE_ROWS, len(self.grid.x_m)))
        state[:2] = start
        face, around = film(medium_c, 1.0 / (1.0 / h + self.resists_m2k_w)), terms.NOTHING_AROUND
        if tau_s > 0.0:
            heavy = 1e9  # so much water that the dish does not cool it
            around = terms.Around(heavy, heavy / tau_s, 22.0, 0.0, 0.0)
            face[terms.FROM_AROUND] = terms.FILM
        nodes = len(self.grid.x_m)
        t, history, _, _ = run(
            state, medium_c, self.body, self.food, both(face), around, 150.0,
            terms.Stop(seconds, terms.STOP_TIME, 0.0, True), TOLERANCE_K, max(seconds / 120.0, 10.0), 20_000,
        )  # fmt: skip
        return DishCourse(t, history[:, :nodes], history[:, nodes : 2 * nodes])


@dataclass(frozen=True)
class DishCourse:
    """Temperatures of a dish over time, [row, node] from its middle outwards."""

    t_s: FloatArray
    temperature_c: FloatArray
    slope_k_s: FloatArray

    def at(self, seconds: float) -> FloatArray:
        """The profile at a time."""
        return np.asarray(between(self.t_s, self.temperature_c, self.slope_k_s, np.array([seconds]))[0])

    def middle_c(self, seconds: FloatArray) -> FloatArray:
        """Middle at any times, °C."""
        return between(self.t_s, self.temperature_c[:, 0], self.slope_k_s[:, 0], seconds)


def _amplitude(exponent: float, eigenvalue: float) -> float:
    """Share of the middle's temperature difference in the slowest mode: A₁ of the series of a uniform body.

    >>> round(_amplitude(0.0, 0.8603), 3), round(_amplitude(1.0, 1.2558), 3), round(_amplitude(2.0, 1.5708), 3)
    (1.119, 1.207, 1.273)
    """
    from scipy.special import gamma, jv

    order = 0.5 * (exponent - 1.0)
    r = np.linspace(1e-6, 1.0, 2001)
    at = eigenvalue * r
    shape = gamma(order + 1.0) * (2.0 / at) ** order * jv(order, at)  # 1 in the middle
    area = r**exponent
    return float(np.trapezoid(shape * area, r) / np.trapezoid(shape * shape * area, r))


@lru_cache(maxsize=64)
def make_dish(
    diameter_mm: float, depth_mm: float, water_level: float, h: float, wall_m2k_w: float | None = None
) -> Dish:
    """A dish by its measures; `water_level`: how far up its side the water stands, 0 to 1.

    The body gets its exponent from the lowest eigenvalue, its size from the time in which the middle goes nine tenths
    of the way.
    """
    flesh = ThermalProperties.of(CUSTARD, 20.0, 1.0)
    k = float(flesh.k_w_mk @ np.array([1.0, 40.0, 1600.0, 64000.0]))
    resists = sauce_data().bath.dish_m2k_w if wall_m2k_w is None else wall_m2k_w
    through = 1.0 / (1.0 / h + resists)
    half, radius = 0.5e-3 * depth_mm, 0.5e-3 * diameter_mm
    plate, cylinder = _eigenvalue(0.0, through * half / k), _eigenvalue(1.0, through * radius / k)
    side = max(water_level, LEAST_SIDE)
    rate = (plate / half) ** 2 + side * (cylinder / radius) ** 2
    amplitude = _amplitude(0.0, plate) * _amplitude(1.0, cylinder) ** side
    size = min(half, radius)
    exponent = _exponent(rate, size, through / k)
    for _ in range(30):
        eigenvalue = _eigenvalue(exponent, through * size / k)
        wanted = math.log(amplitude / NINE_TENTHS) / rate
        size = eigenvalue * math.sqrt(wanted / math.log(_amplitude(exponent, eigenvalue) / NINE_TENTHS))
    grid = make_grid(2 * size, max(exponent, LEAST_EXPONENT), INTERVALS, FINEST_M)
    nodes = len(grid.x_m)
    none = np.zeros(nodes)
    food = terms.Food(
        k=flesh.k_w_mk[None], c=flesh.c_j_m3k[None], share=none[None], rho=np.full(nodes, flesh.rho_kg_m3), water=none,
        press=none, loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0, water_d=0.0,
    )  # fmt: skip
    body = terms.Body(grid.volume, grid.area / np.diff(grid.x_m), grid.face_area, 0)
    return Dish(grid, body, food, resists, exponent)


def _exponent(rate: float, size_m: float, biot_per_m: float) -> float:
    """The exponent whose body of this size cools as fast, from nearly a slab to a sphere."""
    low, high = LEAST_EXPONENT, 2.0
    for _ in range(30):
        exponent = 0.5 * (low + high)
        slow = (_eigenvalue(exponent, biot_per_m * size_m) / size_m) ** 2 < rate
        low, high = (exponent, high) if slow else (low, exponent)
    return exponent


def row_of(kind: str, yolk_pct: float | None, sugar_pct: float) -> CustardRow:
    """The custard's window: sugar raises its setting point, yolk lowers it (2 K from 0 to 30 %, common practice)."""
    custard = sauce_data().custards[kind]
    lifted = sauce_data().bath.sugar_lifts_k * (sugar_pct - 12.0)
    if yolk_pct is not None:
        lifted -= 2.0 * (min(yolk_pct, 40.0) - 15.0) / 30.0
    return custard.model_copy(
        update={
            "set_c": custard.set_c + lifted, "low_c": custard.low_c + lifted, "high_c": custard.high_c + lifted,
            "curdles_c": custard.curdles_c + lifted,
        }
    )  # fmt: skip


@dataclass(frozen=True)
class Baked:
    """When a dish is pulled, and the peak it reaches."""

    minutes: float
    pull_c: float
    peak_c: float
    peak_min: float
    edge_c: float
    runs_share: float
    t_s: FloatArray
    middle_c: FloatArray


def bake(dish: Dish, start_c: float, bath_c: float, h: float, want_c: float, after: str) -> Baked:
    """Minutes in the bath after which the middle peaks at `want_c`.

    Raises NeverReached for a bath that cannot reach it, BadInput for a mix that starts above it.
    """
    if start_c >= want_c:
        raise BadInput(f"The mix starts at {start_c:g} °C, where it is set already: cool it first.", "start_c")
    if bath_c <= want_c + 0.2:
        raise NeverReached(
            f"A bath at {bath_c:.0f} °C never takes the middle to {want_c:.1f} °C: a hotter oven, or cover the tray.",
            "bath_c", bath_c,
        )  # fmt: skip
    course = dish.follow(np.full(len(dish.grid.x_m), start_c), bath_c, h, LONGEST_S)

    def went_on(seconds: float) -> DishCourse:
        profile = course.at(seconds)
        if after == "in-bath":
            return dish.follow(profile, bath_c, h, AFTER_S, IN_BATH_TAU_S)
        after_h, medium_c = AFTER[after]
        return dish.follow(profile, medium_c, after_h, AFTER_S)

    def miss(seconds: float) -> float:
        return float(went_on(seconds).temperature_c[:, 0].max()) - want_c

    there = np.flatnonzero(course.temperature_c[:, 0] >= want_c)
    if not len(there):
        raise NeverReached(
            f"The middle comes to {course.temperature_c[-1, 0]:.1f} °C in six hours: a smaller dish, or more heat.",
            "ramekin_mm", float(course.temperature_c[-1, 0]),
        )  # fmt: skip
    late = float(course.t_s[there[0]])
    pull_s = late if miss(late) <= 0 else bracketed_root(miss, 1.0, late, 0.02, 0.5)
    profile, later = course.at(pull_s), went_on(pull_s)
    i = int(np.argmax(later.temperature_c[:, 0]))
    running = dish.grid.x_m[profile < want_c - RUNS_BELOW_K]
    before = np.linspace(0.0, pull_s, 80)
    return Baked(
        pull_s / 60.0, float(profile[0]), float(later.temperature_c[i, 0]), (pull_s + float(later.t_s[i])) / 60.0,
        float(profile[-1]), float(running[-1] / dish.grid.x_m[-1]) if len(running) else 0.0,
        np.concatenate([before, pull_s + later.t_s]),
        np.concatenate([course.middle_c(before), later.temperature_c[:, 0]]),
    )  # fmt: skip
