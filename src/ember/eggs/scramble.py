"""Scrambled eggs: two bodies that exchange heat, and what stops the cooking.

The pan: M c dT/dt = P − h A (Tp − Te) − loss; the eggs: m c dT/dt = h A (Tp − Te). Strokes renew the layer in contact:
h is the oil film's contact in series with 2 √(kρc/πt), the mean over t seconds of a half-space (Carslaw & Jaeger 1959,
section 2.4; from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..heat.faces import media as heat_media
from ..heat.grid import FloatArray
from .body import WHOLE
from .pan_data import StopRow, pan_data, word_at

PAN_LOSS = "loss_w_m2k"
METAL = "clad-aluminium"
AIR_C = 22.0
STEP_S = 0.25
LONGEST_S = 1800.0
ON_PLATE_S = 60.0
PLATE_J_K, PLATE_H, PLATE_M2_EACH = 350.0, 120.0, 0.004
SET_C = 73.0  # beaten whole egg sets; McGee 2004
# Equal parts of milk or cream set 5 to 7 K later (McGee 2004; from memory).
LIQUID_LIFTS_K = 6.0
EGG_J_GK = 3.65
CURD_BELOW_K = 5.0  # curd is made in the last kelvins before it comes off


@dataclass(frozen=True)
class Pan:
    """A pan by its diameter: heat capacity, J/K, floor, m², and heat loss, W/K."""

    diameter_mm: float

    @property
    def floor_m2(self) -> float:
        """Area of its floor, m²."""
        return math.pi * (self.diameter_mm / 2000.0) ** 2

    @property
    def heat_j_k(self) -> float:
        """Heat capacity, J/K."""
        vessel = heat_media()["vessel"]
        share = (self.diameter_mm / vessel["diameter_mm"]) ** 2
        return float(vessel["mass_kg"] * share * vessel["heat_j_kgk"][METAL])

    @property
    def loss_w_k(self) -> float:
        """Heat loss to the air, W/K."""
        return float(heat_media()["vessel"][PAN_LOSS] * self.floor_m2)


@dataclass(frozen=True)
class Stirred:
    """The course of scrambled eggs: `t_s`, `egg_c` and `pan_c` until they are on the plate."""

    t_s: FloatArray
    egg_c: FloatArray
    pan_c: FloatArray
    off_s: float
    off_c: float
    peak_c: float
    stop_drop_k: float
    curd_mm: float
    film_mm: float
    reached: bool


def contact_h(stir_every_s: float) -> float:
    """Conductance between pan and stirred eggs, W/m²K."""
    k, rho, cp = (float(p(60.0)) for p in (WHOLE.conductivity, WHOLE.density, WHOLE.heat_capacity))
    renewed = 2.0 * math.sqrt(k * rho * cp / (math.pi * stir_every_s))
    return 1.0 / (1.0 / float(heat_media()["pan"]["h"]) + 1.0 / renewed)


def curd_mm(pan_c: float, egg_c: float, stir_every_s: float) -> float:
    """Thickness that reaches SET_C between two strokes, mm: a half-space under a constant flux (C&J 2.9; from
    memory).
    """
    k, rho, cp = (float(p(60.0)) for p in (WHOLE.conductivity, WHOLE.density, WHOLE.heat_capacity))
    spread = 2.0 * math.sqrt(k / (rho * cp) * stir_every_s)
    flux = contact_h(stir_every_s) * max(pan_c - egg_c, 0.0)

    def at(x: float) -> float:
        u = x / spread
        return egg_c + flux * spread / k * (math.exp(-u * u) / math.sqrt(math.pi) - u * math.erfc(u))

    if at(0.0) < SET_C:
        return 0.0
    low, high = 0.0, 4.0 * spread
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if at(middle) >= SET_C else (low, middle)
    return 1e3 * low


def drop_k(stop: StopRow, grams: float, egg_g: float, egg_c: float) -> float:
    """How much stirred-in ingredients cool the eggs, K.

    >>> from .pan_data import pan_data
    >>> round(drop_k(pan_data().stop["butter"], 20.0, 155.0, 70.0), 1)
    6.7
    """
    capacity = egg_g * EGG_J_GK + grams * stop.j_gk
    return grams * (stop.j_gk * (egg_c - stop.at_c) + stop.melt_j_g) / capacity


def grams_to_stop(stop: StopRow, by_k: float, egg_g: float, egg_c: float) -> float:
    """Amount that cools the eggs by that many kelvin, g."""
    gives = stop.j_gk * (egg_c - stop.at_c) + stop.melt_j_g - by_k * stop.j_gk
    return by_k * egg_g * EGG_J_GK / gives if gives > 0 else math.inf


def lift_k(liquid_g: float, egg_g: float) -> float:
    """How much liquid raises the setting point of eggs, K."""
    return LIQUID_LIFTS_K * min(liquid_g / egg_g, 1.5)


def set_word(peak_c: float, lifted_k: float = 0.0) -> str:
    """Doneness of scrambled eggs by the hottest they have been."""
    return word_at(pan_data().set, peak_c - lifted_k)


def stir(
    egg_g: float, start_c: float, pan: Pan, pan_c: float, power_w: float, every_s: float, off_c: float,
    stop: StopRow, stop_g: float, eggs: int, plate_c: float,
    to_plate_s: float,
) -> Stirred:  # fmt: skip
    """Simulate eggs from the pan to the plate; `reached` is False if they never reach `off_c`."""
    h, heat = contact_h(every_s), egg_g * EGG_J_GK
    area, t = pan.floor_m2, 0.0
    rows: list[tuple[float, float, float]] = [(0.0, start_c, pan_c)]
    egg = start_c

    def step(egg: float, pan_c: float, power: float, seconds: float) -> tuple[float, float]:
        # Exact for the two bodies' exchange, so that a thin film in a heavy pan stays stable.
        flow = h * area * (1.0 / heat + 1.0 / pan.heat_j_k)
        moved = (pan_c - egg) * (1.0 - math.exp(-flow * seconds)) / (1.0 / heat + 1.0 / pan.heat_j_k)
        given = (power - pan.loss_w_k * (pan_c - AIR_C)) * seconds
        return egg + moved / heat, pan_c + (given - moved) / pan.heat_j_k

    curd = 0.0
    while egg < off_c and t < LONGEST_S:
        egg, pan_c = step(egg, pan_c, power_w, STEP_S)
        t += STEP_S
        if egg <= off_c - CURD_BELOW_K:
            curd = curd_mm(pan_c, egg, every_s)
        rows.append((t, egg, pan_c))
    off_s, at_off, reached = t, egg, egg >= off_c
    dropped = drop_k(stop, stop_g, egg_g, egg)
    egg -= dropped
    heat += stop_g * stop.j_gk
    rows.append((t, egg, pan_c))
    while t < off_s + to_plate_s:
        egg, pan_c = step(egg, pan_c, 0.0, STEP_S)
        t += STEP_S
        rows.append((t, egg, pan_c))
    plate, given = plate_c, PLATE_H * PLATE_M2_EACH * eggs
    while t < off_s + to_plate_s + ON_PLATE_S:
        moved = given * (egg - plate) * STEP_S
        egg -= (moved + 15.0 * PLATE_M2_EACH * eggs * (egg - AIR_C) * STEP_S) / heat
        plate += moved / (PLATE_J_K * max(eggs / 3.0, 1.0))
        t += STEP_S
        rows.append((t, egg, pan_c))
    t_s, egg_c, pan_row = (np.array(column) for column in zip(*rows, strict=True))
    return Stirred(
        t_s, egg_c, pan_row, off_s, at_off, float(egg_c.max()), dropped, curd,
        1e3 * egg_g / 1e3 / float(WHOLE.density(20.0)) / area, reached,
    )  # fmt: skip


def curd_word(mm: float) -> str:
    """The size of the curd in a word."""
    return next(curd.word for curd in reversed(pan_data().curd) if mm >= curd.from_mm)
