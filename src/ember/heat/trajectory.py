"""The simulated piece: temperatures through its depth over time, and water loss."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .chain import State
from .grid import FloatArray, Grid
from .numerics import between
from .row_course import RowCourse

FOURTHS = np.array([0.0, 0.25, 0.5, 0.75])
PROBE_LAG_S = 5.0  # a thin hand probe; common practice
PROBE_OFF_CENTRE = 0.25  # of the half-thickness: a hand does not find the centre; common practice


@dataclass(frozen=True)
class StageRun:
    """One stage as simulated: times from the plan's start, its rows of the trajectory, its initial state."""

    kind: str
    start_s: float
    end_s: float
    ended_by: str
    first: int
    last: int
    state: State


@dataclass(frozen=True)
class Trajectory:
    """A simulated plan. Rows are accepted steps; the end of a stage (or side) and the start of the next share a time.

    By row and node: `temperature_c`, `slope_k_s`; and in consecutive pieces `pressed_kg_m3` and `boiled_kg_m3`, the
    water lost by each cell. By row: `around_c`, the body around (pan, board; NaN if there is none), and
    `browning_c[row, side]`, the browning spots of the faces, which `brown` computes on demand. At the end: `state[4,
    node]` (rows in terms). By node, raw: `rho_kg_m3`, `water_kg_m3`. In total, for a square metre of the grid's face:
    `heat_j[2]` and `dried_kg[2]` through the faces, `vapour_kg` boiled inside, `across_j` from its rim (rim.py). Of a
    piece in sections all this is the core's section's; `row` has them all.
    """

    grid: Grid
    t_s: FloatArray
    temperature_c: FloatArray
    slope_k_s: FloatArray
    pressed_kg_m3: tuple[FloatArray, ...]
    boiled_kg_m3: tuple[FloatArray, ...]
    around_c: FloatArray
    brown: Callable[[], FloatArray]
    state: FloatArray
    heat_j: FloatArray
    dried_kg: FloatArray
    vapour_kg: float
    across_j: float
    rho_kg_m3: FloatArray
    water_kg_m3: FloatArray
    stages: tuple[StageRun, ...]
    row: RowCourse | None = None

    @cached_property
    def browning_c(self) -> FloatArray:
        """Temperature of the browning spots, °C [row, side]."""
        return self.brown()

    @property
    def end_s(self) -> float:
        """When the plan ends, s."""
        return float(self.t_s[-1])

    @property
    def core_c(self) -> FloatArray:
        """Temperature at the geometric centre, row by row."""
        return self.temperature_c[:, self.grid.core]

    @property
    def hottest_c(self) -> FloatArray:
        """Hottest temperature of each depth, °C [node]."""
        return np.asarray(self.state[1])

    def profile(self, time_s: FloatArray) -> FloatArray:
        """Temperatures [time, node] at any times."""
        return between(self.t_s, self.temperature_c, self.slope_k_s, time_s)

    def node_c(self, time_s: FloatArray, node: int) -> FloatArray:
        """Temperature of one node at any times."""
        return between(self.t_s, self.temperature_c[:, node], self.slope_k_s[:, node], time_s)

    def core_faces_mean_c(self, time_s: FloatArray) -> FloatArray:
        """Core, underside (for a round body: outside), top and volume mean, [time, 4]."""
        last = self.temperature_c.shape[1] - 1
        weights = np.zeros((last + 1, 4))
        weights[self.grid.core, 0] = 1.0
        weights[0 if self.grid.two_faces else last, 1] = 1.0
        weights[last, 2] = 1.0
        weights[:, 3] = self.grid.volume / self.grid.volume.sum()
        return between(self.t_s, self.temperature_c @ weights, self.slope_k_s @ weights, time_s)

    def reading_c(self, time_s: FloatArray | float) -> FloatArray:
        """Reading of a probe: a quarter of the half-thickness off centre, a few seconds behind.

        On a ramp a first-order lag shows the value of one time constant ago.
        """
        at = np.maximum(np.atleast_1d(np.asarray(time_s, dtype=float)) - PROBE_LAG_S, 0.0)
        return between(self.t_s, *self._at_the_probe, at)

    @cached_property
    def _at_the_probe(self) -> tuple[FloatArray, FloatArray]:
        """Temperature and slope at the probe's position, row by row."""
        return self.temperature_c @ self._probe_weights, self.slope_k_s @ self._probe_weights

    @cached_property
    def _probe_weights(self) -> FloatArray:
        """Weight of each node in a reading."""
        half, x = self.grid.half_m, self.grid.x_m
        off = PROBE_OFF_CENTRE
        middle = x[self.grid.core]
        places = [half * (1 - off), half * (1 + off)] if self.grid.two_faces else [middle + (half - middle) * off]
        weights = np.zeros(len(x))
        for place in places:
            i = int(np.clip(np.searchsorted(x, place) - 1, 0, len(x) - 2))
            share = (place - x[i]) / (x[i + 1] - x[i])
            weights[i] += (1.0 - share) / len(places)
            weights[i + 1] += share / len(places)
        return weights

    @cached_property
    def fine_s(self) -> FloatArray:
        """Times with every step cut in four, for integrals over time."""
        return np.unique(
            np.concatenate([self.t_s[:-1, None] + np.diff(self.t_s)[:, None] * FOURTHS, [[self.end_s] * 4]])
        )

    def peak(self) -> tuple[float, float]:
        """(highest core °C, when s)."""
        i = int(np.argmax(self.core_c))
        near = np.linspace(self.t_s[max(i - 1, 0)], self.t_s[min(i + 1, len(self.t_s) - 1)], 21)
        core = self.node_c(near, self.grid.core)
        j = int(np.argmax(core))
        return float(core[j]), float(near[j])

    @cached_property
    def lost_kg_m3(self) -> FloatArray:
        """Water lost by each cell [row, node], pressed out or boiled off."""
        return np.concatenate(self.pressed_kg_m3) + np.concatenate(self.boiled_kg_m3)

    @property
    def water_lost_share(self) -> float:
        """Mass lost, kg for a kg raw: pressed out, boiled off and dried from the faces."""
        if self.row is not None:
            return self.row.lost_share
        mass = float((self.rho_kg_m3 * self.grid.volume).sum())
        water = float((self.water_kg_m3 * self.grid.volume).sum())
        inside = float(((self.state[2] + self.state[3]) * self.grid.volume).sum())
        return min(inside, water) / mass
