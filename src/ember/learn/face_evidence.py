"""What a photographed face says of its cook's size, media and heat transfer, beside or instead of a probe.

Where its bands end is compared with where they would end for each way the cook may have been; a few Gauss-Newton steps
from the probe's posterior (or from the prior, without a probe) give the posterior with the face.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..face.bands import edge_mm
from ..face.palette import LOOKS_ITS_HEAT_C, RAW, bands_of, is_red
from ..heat.ensemble_runner import ThermalHistory
from ..heat.grid import FloatArray
from ..kinetics.colour import as_if_heated_c, pigment_history, tint_of
from ..track.unknowns import Unknowns

TIMES = 160
STEP, STEPS, LONGEST_STEP = 0.2, 4, 1.5
# How far an edge and the look of the middle may be off, one deviation: the reading (docs/science.md), and a face that
# was not cut where the plan's line is. Fitted on faces of simulated kitchens.
EDGE_MM, LOOKS_K = 0.8, 2.5
CRUST = "crust"  # how deep it goes hangs on the last half millimetre, which no ensemble resolves
FREEDOM = 4.0
FLAT_C = 66.0  # hotter middles all look alike


@dataclass(frozen=True)
class FaceSeen:
    """A face as it was read. `edges`: (°C that looks end at, from the top, share of the thickness) of each band but the
    crust and the middle; `middle_c`: what the middle looks like, None where it says nothing; `mm`: thickness; `at_s`:
    when it was cut, from the cook's start.
    """

    cut: str
    mm: float
    edges: tuple[tuple[float, bool, float], ...]
    middle_c: float | None
    at_s: float

    @classmethod
    def of(cls, cut_id: str, told: Mapping[str, Any], mm: float, at_s: float) -> FaceSeen:
        """From a reading as told by `face.answer`."""
        edges: list[tuple[float, bool, float]] = []
        depth = [0.0, 0.0]
        for celsius, word in bands_of(cut_id)[:-1]:
            band = told["bands_mm"].get(word, 0.0)
            if word == told["middle"] or not isinstance(band, list | tuple):
                break
            depth = [depth[0] + band[0], depth[1] + band[1]]
            if word != CRUST:
                edges += [(celsius, True, depth[0] / mm), (celsius, False, depth[1] / mm)]
        middle = told["core_c"]["p50"]
        says = told["middle"] != RAW and is_red(cut_id) and middle < FLAT_C
        return cls(cut_id, mm, tuple(edges), middle if says else None, at_s)

    @property
    def count(self) -> int:
        """How many numbers it gives."""
        return len(self.edges) + (self.middle_c is not None)

    @property
    def values(self) -> FloatArray:
        """The numbers: shares of the thickness, then °C."""
        return np.array([share for _, _, share in self.edges] + ([] if self.middle_c is None else [self.middle_c]))

    @property
    def deviations(self) -> FloatArray:
        """How far each may be off, one deviation."""
        edges = [EDGE_MM / self.mm] * len(self.edges)
        return np.array(edges + ([] if self.middle_c is None else [LOOKS_K]))

    def expected(self, looks_c: FloatArray, share: FloatArray) -> FloatArray:
        """The same numbers of a face whose `looks_c` at `share` of its thickness from the top are known."""
        coldest = int(np.argmin(looks_c))
        numbers = []
        for celsius, from_top, _ in self.edges:
            if from_top:
                numbers.append(edge_mm(share[: coldest + 1], looks_c[: coldest + 1], celsius))
            else:
                numbers.append(edge_mm(1.0 - share[coldest:][::-1], looks_c[coldest:][::-1], celsius))
        return np.array(numbers + ([] if self.middle_c is None else [float(looks_c[coldest])]))


def looks_of_course(cut_id: str, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
    """What each place of `temperature_c[time, place]` looks as if it had seen at the end, °C."""
    hottest = temperature_c.max(axis=0)
    if not is_red(cut_id):
        return np.asarray(hottest)
    t50_c = tint_of(cut_id).t50_c
    left = pigment_history(time_s, temperature_c, t50_c)[-1]
    return np.asarray(np.maximum(as_if_heated_c(left, t50_c), np.minimum(hottest, LOOKS_ITS_HEAT_C)))


def with_face(
    course: ThermalHistory, unknowns: Unknowns, z: FloatArray, covariance: FloatArray, face: FaceSeen
) -> tuple[FloatArray, FloatArray]:
    """Mode and covariance of the unknowns of the cook with a face, from those without: `z[unknown]`,
    `covariance[unknown, unknown]`, of the cook's own alone.
    """
    if not face.count:
        return z, covariance
    n = len(z)
    before = np.linalg.inv(covariance)
    seen, sigma = face.values, face.deviations
    best, information = z.copy(), before
    for _ in range(STEPS):
        rows = np.repeat(best[None], n + 1, 0)
        rows[np.arange(1, n + 1), np.arange(n)] += STEP
        expected = _expected(course, unknowns, rows, face)
        slope = (expected[1:] - expected[0]).T / STEP
        r = (seen - expected[0]) / sigma
        weight = (FREEDOM + 1) / (FREEDOM + r**2) / sigma**2
        information = before + slope.T @ (weight[:, None] * slope)
        step = np.linalg.solve(information, slope.T @ (weight * (seen - expected[0])) - before @ (best - z))
        step *= min(1.0, LONGEST_STEP / max(float(np.abs(step).max()), 1e-9))
        best = best + step
    return best, np.linalg.inv(information)


def _expected(course: ThermalHistory, unknowns: Unknowns, z: FloatArray, face: FaceSeen) -> FloatArray:
    """The face's numbers for each member `z[member, unknown]`."""
    grid = course.problem.grid
    padded = np.concatenate([z, np.zeros((len(z), unknowns.count - z.shape[1]))], axis=1)
    end_s = min(face.at_s, sum(stretch.seconds for stretch in course.stretches))
    times = np.linspace(0.0, end_s, TIMES)
    nodes = np.arange(len(grid.x_m))
    followed = course.until(end_s + 1.0).follow(unknowns.members(padded), times, nodes)
    return np.array(
        [
            face.expected(*from_top(looks_of_course(face.cut, times, member), grid.x_m, grid.two_faces))
            for member in np.nan_to_num(followed.temperature_c, nan=-99.0)
        ]
    )


def from_top(looks_c: FloatArray, x_m: FloatArray, two_faces: bool) -> tuple[FloatArray, FloatArray]:
    """Looks from the top to the underside, and at which share of the thickness."""
    if two_faces:
        return looks_c[::-1], (x_m[-1] - x_m[::-1]) / x_m[-1]
    share = 0.5 * (x_m[-1] - x_m[::-1]) / x_m[-1]
    return np.concatenate([looks_c[::-1], looks_c[1:]]), np.concatenate([share, 1.0 - share[-2::-1]])
