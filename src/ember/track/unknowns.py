"""The unknowns of a cook: how its piece, media, heat transfer and probe may differ from the plan.

Each unknown is a coordinate z with a standard normal prior; `Unknowns` maps coordinates to members of an ensemble and a
position of the probe.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import NormalDist
from typing import Any

import numpy as np

from ..files.plan import Plan
from ..heat.ensemble_runner import Members, ThermalHistory
from ..heat.grid import FloatArray
from .thermal_history import OTHER, PULLED

# Deviations of the prior. Pieces are measured by eye and ruler, fridges and worktops differ: common practice. What the
# heat transfer may be is the width of the published ranges (docs/science.md): a factor of about three either way.
SIZE_SHARE = 0.10
SHAPE_SHARE = 0.05
START_K = 2.0
TRANSFER_LOG = 0.6
ALIKE = 0.6  # how much of it a piece takes from one stage to the next: its face is the same
MEDIUM_K = {"bath": 2.0, "oven": 12.0, "pan": 10.0, "plancha": 10.0, "grill": 60.0, "fry": 5.0}
USUAL_MEDIUM_K = 2.0
# How far off the middle a needle is, one deviation: m, or this share of the half thickness where that is more; and the
# share of it that is the most.
PLACED_M, PLACED_SHARE = 3.5e-3, 0.12
FARTHEST_SHARE = 0.7
GROUPS = 3
SIZE, SHAPE, START, MEDIUM, TRANSFER, OTHER_MEDIUM, OTHER_TRANSFER = range(7)
COLDEST_START_C = -1.0


_STEPS = np.linspace(-6.0, 6.0, 241)
_AS_HALF = np.array([NormalDist().inv_cdf(0.5 + 0.5 * NormalDist().cdf(min(z, 5.0))) for z in _STEPS])


def _half_normal(z: FloatArray) -> FloatArray:
    """The half-normal quantile with the same probability as a normal z."""
    return np.asarray(np.interp(z, _STEPS, _AS_HALF))


@dataclass(frozen=True)
class Unknowns:
    """The coordinates in order: size, shape, start, medium and transfer of the pull stage, then of the other heating
    stages if there are any, then the position of the probe (one for each insertion). `medium_seen`: the medium by a
    probe of its own, (K hotter than planned, standard deviation).
    """

    plan: Plan
    half_m: float
    medium_k: tuple[float, float]
    with_other: bool
    places: int
    signed: bool
    medium_seen: tuple[float, float] | None = None

    @property
    def of_members(self) -> int:
        """Number of coordinates of the cook; the rest belong to the probe."""
        return OTHER_TRANSFER + 1 if self.with_other else TRANSFER + 1

    @property
    def count(self) -> int:
        """Number of coordinates."""
        return self.of_members + self.places

    def members(self, z: FloatArray) -> Members:
        """Members of `z[member, unknown]`."""
        rows = len(z)
        medium, transfer = np.zeros((rows, GROUPS)), np.ones((rows, GROUPS))
        medium[:, PULLED] = self.medium_off_k(z[:, MEDIUM])
        transfer[:, PULLED] = np.exp(TRANSFER_LOG * z[:, TRANSFER])
        if self.with_other:
            medium[:, OTHER] = self.medium_k[1] * z[:, OTHER_MEDIUM]
            own = math.sqrt(1 - ALIKE**2) * z[:, OTHER_TRANSFER]
            transfer[:, OTHER] = np.exp(TRANSFER_LOG * (ALIKE * z[:, TRANSFER] + own))
        begins = self.plan.piece.start_c
        start = np.maximum(begins + START_K * z[:, START], min(COLDEST_START_C, begins))
        return Members(
            np.exp(SIZE_SHARE * z[:, SIZE]), np.exp(SHAPE_SHARE * z[:, SHAPE]), start, medium, transfer
        )  # fmt: skip

    def medium_off_k(self, z: float | FloatArray) -> Any:
        """How much hotter than planned the medium of the pull stage is, K."""
        centre, deviation = self.medium_seen or (0.0, self.medium_k[0])
        return centre + deviation * z

    @property
    def farthest_m(self) -> float:
        """Largest distance of the probe from the middle, m."""
        return FARTHEST_SHARE * self.half_m

    def off_centre_m(self, z_place: float | FloatArray) -> FloatArray:
        """Distance of the probe from the middle: normal (positive is above) if the sides differ, else half-normal."""
        scale = max(PLACED_M, PLACED_SHARE * self.half_m)
        z = np.asarray(z_place, dtype=float)
        off = scale * (z if self.signed else _half_normal(z))
        return np.asarray(self.farthest_m * np.tanh(off / self.farthest_m))


def unknowns_of(course: ThermalHistory, probe_places: int, medium_seen: tuple[float, float] | None = None) -> Unknowns:
    """The unknowns of a course."""
    plan = course.problem.plan
    kinds = [plan.stages[i].kind for i in range(len(plan.stages))]
    pulled = kinds[plan.pull_stage] if plan.pull_stage is not None else ""
    others = [s for s in course.stretches if s.group == OTHER]
    other = next((kind for kind in kinds if kind != pulled and kind in MEDIUM_K), "")
    grid = course.problem.grid
    lopsided = grid.two_faces and any(not np.array_equal(*s.segment.faces) for s in course.stretches)
    return Unknowns(
        plan, grid.half_m,
        (MEDIUM_K.get(pulled, USUAL_MEDIUM_K), MEDIUM_K.get(other, USUAL_MEDIUM_K)),
        bool(others), probe_places, lopsided, medium_seen,
    )  # fmt: skip


def thickness_mm(unknowns: Unknowns, z_size: float) -> float:
    """How much thicker than planned the piece is, mm."""
    return 2e3 * unknowns.half_m * (math.exp(SIZE_SHARE * z_size) - 1.0)
