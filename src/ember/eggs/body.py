"""An egg for the solver: a round body, yolk within white, in its shell or without it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..food.composition import Composition, ThermalProperties
from ..heat import terms
from ..heat.grid import FloatArray, Grid, make_grid
from .kinds import Egg

# USDA food tables, mass fractions, from memory.
WHITE = Composition(0.876, 0.109, 0.002, 0.007, 0.006)
YOLK = Composition(0.523, 0.159, 0.265, 0.036, 0.017)
WHOLE = Composition(0.761, 0.126, 0.095, 0.007, 0.011)
SHELL_K = 1.0  # W/mK, calcite with pores (unsure; minor)
INTERVALS = 48
FINEST_M = 0.15e-3


@dataclass(frozen=True)
class EggBody:
    """Grid and food of an egg; `edge`: the node where yolk and white meet, `shell_m2k_w`: resistance of the shell."""

    grid: Grid
    body: terms.Body
    food: terms.Food
    edge: int
    shell_m2k_w: float
    surface_m2: float
    start_c: float

    @property
    def yolk_weights(self) -> FloatArray:
        """Weight of each node in a mean over the yolk."""
        return _weights(self.grid.volume, slice(0, self.edge + 1))

    @property
    def white_weights(self) -> FloatArray:
        """Weight of each node in a mean over the white."""
        return _weights(self.grid.volume, slice(self.edge, len(self.grid.volume)))

    @property
    def depth_mm(self) -> FloatArray:
        """Distance of each node from the middle, mm."""
        return np.asarray(1e3 * self.grid.x_m)

    def start(self) -> FloatArray:
        """The initial state, [row, node]."""
        state = np.zeros((terms.STATE_ROWS, len(self.grid.x_m)))
        state[:2] = self.start_c
        return state


def _weights(volume: FloatArray, part: slice) -> FloatArray:
    weights = np.zeros(len(volume))
    weights[part] = volume[part]
    return np.asarray(weights / weights.sum())


def _body(radius_m: float, yolk_m: float, exponent: float, egg: Egg, shell_m2k_w: float, surface_m2: float) -> EggBody:
    grid = make_grid(2 * radius_m, exponent, INTERVALS, FINEST_M, yolk_m)
    x = grid.x_m
    edges = np.concatenate([[0.0], 0.5 * (x[1:] + x[:-1]), [x[-1]]])
    yolk = np.clip((x[grid.flesh] - edges[:-1]) / np.diff(edges), 0.0, 1.0)
    kinds = [
        ThermalProperties.of(WHITE, egg.start_c, 1.0),
        ThermalProperties.of(YOLK, egg.start_c, 1.0),
    ]
    none = np.zeros(len(x))
    rho = kinds[0].rho_kg_m3 + yolk * (kinds[1].rho_kg_m3 - kinds[0].rho_kg_m3)
    # Neither a shell nor hot water lets an egg lose its own water: nothing is pressed out, dries or boils.
    food = terms.Food(
        k=np.array([kind.k_w_mk for kind in kinds]), c=np.array([kind.c_j_m3k for kind in kinds]),
        share=np.array([none, yolk]), rho=rho, water=none, press=none,
        loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0, water_d=0.0,
    )  # fmt: skip
    body = terms.Body(grid.volume, grid.area / np.diff(x), grid.face_area, 0)
    return EggBody(grid, body, food, grid.flesh, shell_m2k_w, surface_m2, egg.start_c)


def in_shell(egg: Egg) -> EggBody:
    """An egg in its shell, as an ellipsoid: area grows as r^(1 + SI²), SI its breadth over its length."""
    exponent = 1.0 + egg.kind.shape_index**2
    shell_m = 1e-3 * egg.kind.shell_mm
    radius = 0.5e-3 * egg.breadth_mm - shell_m
    inside_m3 = _m3(egg.white_g, WHITE) + _m3(egg.yolk_g, YOLK)
    yolk = radius * (_m3(egg.yolk_g, YOLK) / inside_m3) ** (1.0 / (exponent + 1.0))
    return _body(radius, yolk, exponent, egg, shell_m / SHELL_K, surface_m2(egg))


def out_of_shell(egg: Egg, white_kept: float) -> EggBody:
    """A poached egg: a yolk coated by the share `white_kept` of its white, as a sphere."""
    yolk_m3 = _m3(egg.yolk_g, YOLK)
    yolk = (3 * yolk_m3 / (4 * math.pi)) ** (1 / 3)
    whole_m3 = yolk_m3 + white_kept * _m3(egg.white_g, WHITE)
    radius = (3 * whole_m3 / (4 * math.pi)) ** (1 / 3)
    return _body(radius, yolk, 2.0, egg, 0.0, 4 * math.pi * radius**2)


def surface_m2(egg: Egg) -> float:
    """Surface of an egg, m², as the ellipsoid of its breadth and length (Thomsen's approximation).

    >>> from .kinds import egg_of
    >>> round(1e4 * surface_m2(egg_of("hen", 58.0)))  # cm²; Paganelli et al. 1974, Condor 76:319: 4.835 m^0.662 = 71
    71
    """
    a, c = 0.5e-3 * egg.breadth_mm, 0.5e-3 * egg.length_mm
    p = 1.6075
    return float(4 * math.pi * ((a ** (2 * p) + 2 * (a * c) ** p) / 3) ** (1 / p))


def _m3(grams: float, of: Composition) -> float:
    return grams / 1e3 / float(of.density(20.0))
