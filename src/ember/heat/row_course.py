"""All sections of a simulated piece with an outline, beside the trajectory of its core's section."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .grid import FloatArray
from .row_problem import RowPart
from .terms import BOILED, HOTTEST, PRESSED

OVER_K = 5.0  # flesh that was hotter than the core's peak by more than this is over


@dataclass(frozen=True)
class RowCourse:
    """Rows are those of the trajectory: `temperature_c[row, N, node]`, `slope_k_s` likewise; at the end `state[4, N,
    node]`.
    """

    part: RowPart
    temperature_c: FloatArray
    slope_k_s: FloatArray
    state: FloatArray

    @property
    def middle_c(self) -> FloatArray:
        """The middle line over time, [row, N]."""
        return self.temperature_c[:, :, self.part.body.core]

    @property
    def hottest_c(self) -> FloatArray:
        """Hottest temperature of each cell, [N, node]."""
        return np.asarray(self.state[HOTTEST])

    @cached_property
    def _mass_kg_m(self) -> FloatArray:
        """Raw mass of each cell, kg for one metre across."""
        return np.asarray(self.part.foods.rho * self.part.body.cell)

    @property
    def lost_share(self) -> float:
        """Mass lost, kg for a kg raw: pressed out, boiled off and dried from faces and ends."""
        cell, foods = self.part.body.cell, self.part.foods
        lost = float(((self.state[PRESSED] + self.state[BOILED]) * cell).sum())
        return min(lost, float((foods.water * cell).sum())) / float(self._mass_kg_m.sum())

    def over_share(self, peak_c: float) -> float:
        """Share of the flesh that was hotter than the core's peak by more than OVER_K: how uneven it is, 0 to 1."""
        flesh = self.part.flesh
        cell = self.part.body.cell[flesh]
        return float(cell[self.hottest_c[flesh] > peak_c + OVER_K].sum() / cell.sum())
