"""The state of an egg after its course of temperatures: how set yolk and white are, by depth and in words."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..heat.grid import FloatArray
from ..kinetics.egg_gels import CHALKY_FROM_C, WHITE, YOLK, green_dose, seconds_above, yolk_word
from ..kinetics.lethality import log_reduction, organisms
from .egg_history import Course


@dataclass(frozen=True)
class EggState:
    """An egg at the end of a course, heated during its first `lifted_s`."""

    course: Course
    lifted_s: float

    @cached_property
    def _fine(self) -> tuple[FloatArray, FloatArray]:
        return self.course.fine()

    @cached_property
    def set_by_depth(self) -> FloatArray:
        """Set fraction of each node: of the yolk within its edge, of the white outside."""
        t, T = self._fine
        edge = self.course.body.edge
        return np.concatenate([YOLK.set_fraction(t, T[:, :edge]), WHITE.set_fraction(t, T[:, edge:])])

    @cached_property
    def hottest_c(self) -> FloatArray:
        """The hottest each node has been, °C."""
        return np.asarray(self._fine[1].max(axis=0))

    @property
    def yolk_set(self) -> float:
        """Set fraction of the yolk, mean by volume."""
        t, T = self._fine
        body = self.course.body
        upto = body.edge + 1
        return float(YOLK.set_fraction(t, T[:, :upto]) @ body.yolk_weights[:upto])

    @property
    def white_set(self) -> float:
        """Set fraction of the white, mean by volume."""
        body = self.course.body
        return float(self.set_by_depth[body.edge :] @ body.white_weights[body.edge :])

    @property
    def white_inside_set(self) -> float:
        """Set fraction of the white next to the yolk, where it sets last."""
        return float(self.set_by_depth[self.course.body.edge])

    @property
    def chalky_s(self) -> float:
        """Time its middle was hot enough to turn a set yolk chalky, s."""
        t, T = self._fine
        return seconds_above(t, T[:, 0], CHALKY_FROM_C)

    @property
    def yolk(self) -> str:
        """The yolk in a word."""
        return yolk_word(self.yolk_set, self.chalky_s)

    @property
    def white(self) -> str:
        """The white in a word."""
        return WHITE.word(self.white_set)

    @property
    def green(self) -> float:
        """Extent of a green edge; visible from 1 on."""
        t, T = self._fine
        return green_dose(t, T[:, self.course.body.edge])

    @property
    def salmonella_log10(self) -> float:
        """Log10 reduction of salmonella in the middle."""
        t, T = self._fine
        return float(log_reduction(organisms()["salmonella"], t, T[:, 0]))

    def middle(self) -> tuple[FloatArray, FloatArray]:
        """Times and temperatures of the coldest point, the middle of the yolk."""
        t, T = self._fine
        return t, T[:, 0]

    @property
    def middle_peak(self) -> tuple[float, float]:
        """Hottest middle, °C, and when, s."""
        t, T = self.middle()
        i = int(np.argmax(T))
        return float(T[i]), float(t[i])

    def at_lift_c(self) -> tuple[float, float, float]:
        """Middle and edge of the yolk and mean of the white at the end of heating, °C."""
        body = self.course.body
        T = self.course.profile(self.lifted_s)[0]
        return float(T[0]), float(T[body.edge]), float(T @ body.white_weights)
