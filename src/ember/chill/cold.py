"""Cooling: the places a piece goes through, as a plan for the heat model."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from ..files.chill import ChillRequest, ColdIn
from ..files.piece import MOST_MASS_G, Piece, Slab
from ..files.plan import Plan
from ..files.stages import Chill, IceBath, Stage, Until
from ..food.catalogue import cut
from ..food.geometry import body_size, with_size
from ..heat.faces import media
from ..heat.grid import FloatArray
from ..heat.problem import density_of
from ..heat.trajectory import Trajectory
from ..judge.record import TemperatureRecord

LONGEST_MIN = 2880.0
SHORTEST_MIN = 1.0 / 60.0
THICKEST_MM = 600.0
SAMPLES = 1200


@cache
def words() -> dict[str, Any]:
    """The rows of words.toml."""
    return tomllib.loads(resources.files(__package__).joinpath("data/words.toml").read_text("utf-8"))


def medium_of(step: ColdIn) -> float:
    """Temperature of the medium there, °C."""
    if step.way == "ice-bath":
        return float(media()["ice-bath"]["water_c"])
    return float(words()["ways"][step.way]["air_c"] if step.air_c is None else step.air_c)


def plan_for(request: ChillRequest, piece: Piece, stages: list[Stage]) -> Plan:
    """A plan for a piece of this request."""
    return Plan(format="open-ember/plan", version=1, piece=piece, standard=request.standard, stages=stages)


def size_of(request: ChillRequest, piece: Piece) -> float:
    """Thickness or diameter of a piece, mm."""
    plan = plan_for(request, piece, [Chill(minutes=1)])
    return body_size(piece, cut(piece.cut), density_of(plan)).size_mm


def sized(request: ChillRequest, size_mm: float) -> Piece:
    """The piece at another thickness or diameter."""
    plan = plan_for(request, request.piece, [Chill(minutes=1)])
    return with_size(request.piece, cut(request.piece.cut), density_of(plan), size_mm)


def stacked(request: ChillRequest, piece: Piece) -> Piece:
    """Pouches on top of each other: one flat piece as many times as thick, its rim ignored."""
    if request.layers == 1:
        return piece
    thick = min(request.layers * size_of(request, piece), THICKEST_MM)
    mass_g = None if piece.mass_g is None else min(request.layers * piece.mass_g, MOST_MASS_G)
    return piece.model_copy(update={"shape": Slab(thickness_mm=thick), "mass_g": mass_g})


def stages_of(request: ChillRequest, cold: list[ColdIn], wait_min: float) -> list[Stage]:
    """The room first, then each cold place."""
    bagged = request.bagged
    stages: list[Stage] = []
    if wait_min >= SHORTEST_MIN:
        stages.append(Chill(air_c=request.room_c, minutes=wait_min, bagged=bagged))
    for step in cold:
        ends: dict[str, Any] = {"minutes": step.minutes or LONGEST_MIN}
        if step.to_c is not None:
            ends = {"until": Until(core_c=step.to_c)}
        if step.way == "ice-bath":
            stages.append(IceBath(bagged=bagged, **ends))
        else:
            blown = {"blast": step.way == "blast", "walk_in": step.way == "walk-in"}
            stages.append(Chill(air_c=medium_of(step), bagged=bagged, **blown, **ends))
    return stages


class Cooling:
    """A simulated cooling: `t_s` from leaving the heat, the warmest and the coldest point, °C."""

    def __init__(self, trajectory: Trajectory, end_c: float) -> None:
        """Sampled densely while hot, to `end_c` or to the end."""
        t = trajectory.end_s * np.linspace(0.0, 1.0, SAMPLES) ** 2
        warmest = self._profile(trajectory, t).max(axis=1)
        under = np.flatnonzero(warmest <= end_c)
        last = float(t[under[0]]) if len(under) else trajectory.end_s
        self.t_s: FloatArray = last * np.linspace(0.0, 1.0, SAMPLES)
        profile = self._profile(trajectory, self.t_s)
        self.warmest_c: FloatArray = profile.max(axis=1)
        self.coldest_c: FloatArray = profile.min(axis=1)
        self.arrives = bool(len(under))

    @property
    def record(self) -> TemperatureRecord:
        """The warmest point, as a rule uses it."""
        return TemperatureRecord(self.t_s, self.warmest_c)

    @staticmethod
    def _profile(trajectory: Trajectory, t_s: FloatArray) -> FloatArray:
        return trajectory.profile(t_s)[:, trajectory.grid.eaten_from :]
