"""A film of egg in a pan for the solver: whole egg, foam, or white with a yolk on it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..food.composition import ThermalProperties, water_diffusivity_m2s
from ..heat import terms
from ..heat.grid import FloatArray, Grid, make_grid
from ..heat.numerics import between
from .body import WHITE, WHOLE, YOLK

HALF_INTERVALS = 16
FINEST_M = 0.08e-3
TOLERANCE_K = 0.05
LONGEST_STEP_S = 5.0
MAX_STEPS = 20_000
BOILS_C = 100.0
COMPOSITIONS = {"white": WHITE, "yolk": YOLK, "whole": WHOLE}


@dataclass(frozen=True)
class Film:
    """Grid and food of a film; layers run from the pan upwards."""

    grid: Grid
    body: terms.Body
    food: terms.Food

    def at(self, celsius: float) -> FloatArray:
        """The state of a film at uniform temperature, [row, node]."""
        state = np.zeros((terms.STATE_ROWS, len(self.grid.x_m)))
        state[:2] = celsius
        return state


@dataclass(frozen=True)
class Course:
    """Temperatures of a film over time: `temperature_c[row, node]` from the pan upwards, with slopes, and the last
    state.
    """

    t_s: FloatArray
    temperature_c: FloatArray
    slope_k_s: FloatArray
    state: FloatArray

    @property
    def end_s(self) -> float:
        """Duration, s."""
        return float(self.t_s[-1])

    def node_c(self, node: int, at_s: FloatArray) -> FloatArray:
        """Temperatures of one node at any times."""
        return between(self.t_s, self.temperature_c[:, node], self.slope_k_s[:, node], at_s)

    def joined(self, other: Course) -> Course:
        """Continued by another one."""
        return Course(
            np.concatenate([self.t_s, self.end_s + other.t_s]),
            np.concatenate([self.temperature_c, other.temperature_c]),
            np.concatenate([self.slope_k_s, other.slope_k_s]), other.state,
        )  # fmt: skip

    def turned(self) -> Course:
        """The same, upside down."""
        return Course(self.t_s, self.temperature_c[:, ::-1], self.slope_k_s[:, ::-1], turned(self.state))


def turned(state: FloatArray) -> FloatArray:
    """A state upside down."""
    return np.ascontiguousarray(state[:, ::-1])


def make_film(layers: list[tuple[float, str]], start_c: float, foam: tuple[float, float] | None = None) -> Film:
    """A film of layers (mm, "white", "yolk" or "whole") from the pan upwards.

    `foam`: density, kg/m³, and conductivity, W/mK, with beaten whites.
    """
    grid = make_grid(1e-3 * sum(mm for mm, _ in layers), 0.0, HALF_INTERVALS, FINEST_M)
    x = grid.x_m
    edges = np.concatenate([[x[0]], 0.5 * (x[1:] + x[:-1]), [x[-1]]])
    kinds, shares, below = [], [], 0.0
    for mm, name in layers:
        above = below + 1e-3 * mm
        inside = np.minimum(edges[1:], above) - np.maximum(edges[:-1], below)
        kinds.append(ThermalProperties.of(COMPOSITIONS[name], start_c, 1.0))
        shares.append(np.clip(inside, 0.0, None) / np.diff(edges))
        below = above
    if foam is not None:
        kinds = [_foamed(kinds[0], *foam)]
    shares[0] = np.zeros(len(x))  # what is first is there where nothing else is
    share = np.array(shares)

    def mixed(values: list[float]) -> FloatArray:
        return np.asarray(values[0] + share.T @ (np.array(values) - values[0]))

    food = terms.Food(
        k=np.array([kind.k_w_mk for kind in kinds]), c=np.array([kind.c_j_m3k for kind in kinds]), share=share,
        rho=mixed([kind.rho_kg_m3 for kind in kinds]), water=mixed([kind.water_kg_m3 for kind in kinds]),
        press=np.zeros(len(x)), loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0,
        water_d=water_diffusivity_m2s(),
    )  # fmt: skip
    return Film(grid, terms.Body(grid.volume, grid.area / np.diff(x), grid.face_area, grid.core), food)


def _foamed(whole: ThermalProperties, density: float, conductivity: float) -> ThermalProperties:
    thin = density / whole.rho_kg_m3
    return replace(
        whole, k_w_mk=conductivity * np.array([1.0, 0.0, 0.0, 0.0]), c_j_m3k=thin * whole.c_j_m3k, rho_kg_m3=density,
        water_kg_m3=thin * whole.water_kg_m3,
    )  # fmt: skip


def follow(film: Film, state: FloatArray, down: FloatArray, up: FloatArray, seconds: float) -> Course:
    """Simulate a film between two boundary conditions for a time."""
    from ..heat.kernel import run

    nodes = len(film.grid.x_m)
    t, history, _, _ = run(
        state, 20.0, film.body, film.food, np.stack([down, up]), terms.NOTHING_AROUND, BOILS_C,
        terms.Stop(max(seconds, 0.1), terms.STOP_TIME, 0.0, True), TOLERANCE_K, LONGEST_STEP_S, MAX_STEPS,
    )  # fmt: skip
    last = history[-1].reshape(5, -1)[[0, 2, 3, 4]]
    return Course(t, history[:, :nodes], history[:, nodes : 2 * nodes], last)
