"""The trajectory in the result's form: stages, curves and the depth map of temperatures."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..files.plan import Plan
from ..files.result import CurvesOut, DepthMapOut, FacesOut, PullOut, StageOut
from ..files.stages import CAN_BE_LOADED, Stage
from ..heat.grid import FloatArray
from ..heat.load import at_once, preheat_min
from ..heat.media import medium_c
from ..heat.trajectory import Trajectory

CURVE_POINTS = 300
MAP_POINTS = 300
BACK_WITHIN_K = 0.5


def rounded(values: FloatArray, digits: int) -> list[float]:
    """A list of plain floats."""
    values_rounded: list[float] = np.round(values, digits).tolist()
    return values_rounded


def curve_times(trajectory: Trajectory, points: int) -> FloatArray:
    """Times that give every stage its share, however short, and include the stage ends."""
    stages = trajectory.stages
    each = max((points - len(stages) - 1) // len(stages), 6)
    grids = [np.linspace(run.start_s, run.end_s, each + 1) for run in stages if run.end_s > run.start_s]
    return np.unique(np.concatenate(grids)) if grids else np.array([0.0])


def curves_of(trajectory: Trajectory) -> CurvesOut:
    """Core, coldest face, mean and reading over time."""
    t = curve_times(trajectory, CURVE_POINTS)
    core, under, top, mean = trajectory.core_faces_mean_c(t).T
    return CurvesOut(
        t_s=rounded(t, 1),
        core_c=rounded(core, 3),
        surface_c=rounded(np.minimum(under, top), 3),
        mean_c=rounded(mean, 3),
        reading_c=rounded(trajectory.reading_c(t), 3),
    )


def _preheat_min(stages: Sequence[Stage], number: int) -> float | None:
    """How long before a stage its oven, bath, fryer or pot is switched on; None where it is hot already."""
    if number and stages[number - 1].kind == stages[number].kind:
        return None
    minutes = preheat_min(stages[number], medium_c(stages[number]))
    return None if minutes is None else round(minutes, 1)


def _under_load(stage: Stage, count: int, t_s: FloatArray, around_c: FloatArray) -> dict[str, float | None]:
    """How far what holds `count` pieces falls under its load, when it is back, and how many it bears at once; nothing
    where its heat is held.
    """
    if not isinstance(stage, CAN_BE_LOADED) or stage.load is None:
        return {}
    lowest = int(np.argmin(around_c))
    back = np.flatnonzero(around_c[lowest:] >= around_c[0] - BACK_WITHIN_K)
    back_s = round(float(t_s[lowest + back[0]]), 1) if len(back) else None
    fits = at_once(stage, stage.load.pieces or count, float(around_c[0] - around_c[lowest]))
    return {"medium_low_c": round(float(around_c[lowest]), 2), "medium_back_s": back_s, "at_once": fits}


def stages_of(plan: Plan, trajectory: Trajectory) -> list[StageOut]:
    """Each stage as simulated."""
    T = trajectory.temperature_c
    face = np.minimum(T[:, 0], T[:, -1]) if trajectory.grid.two_faces else T[:, -1]
    readings = trajectory.reading_c(np.array([run.end_s for run in trajectory.stages]))
    out = []
    for number, (run, reading) in enumerate(zip(trajectory.stages, readings, strict=True)):
        faces = None
        if trajectory.grid.two_faces:
            faces = FacesOut(under=round(float(T[run.last, 0]), 3), top=round(float(T[run.last, -1]), 3))
        t_s, around = (values[run.first : run.last + 1] for values in (trajectory.t_s, trajectory.around_c))
        out.append(
            StageOut(
                kind=run.kind, start_s=round(run.start_s, 2), end_s=round(run.end_s, 2),
                core_c=(round(float(trajectory.core_c[run.first]), 3), round(float(trajectory.core_c[run.last]), 3)),
                surface_c=(round(float(face[run.first]), 3), round(float(face[run.last]), 3)),
                reading_c=round(float(reading), 2),
                faces_c=faces, ended_by=run.ended_by,
                coldest_pan_c=round(float(np.nanmin(around)), 1) if run.kind == "pan" else None,
                preheat_min=_preheat_min(plan.stages, number),
                **_under_load(plan.stages[number], plan.piece.count, t_s - run.start_s, around),
            )
        )  # fmt: skip
    return out


def pull_of(trajectory: Trajectory, stage: int | None) -> PullOut | None:
    """The end of the stage that decides the core, and the carryover of the reading."""
    if stage is None:
        return None
    run = trajectory.stages[stage]
    after = trajectory.reading_c(np.linspace(run.end_s, trajectory.end_s, 240))
    return PullOut(
        stage=stage, s=round(run.end_s, 1), core_c=round(float(trajectory.core_c[run.last]), 3),
        reading_c=round(float(after[0]), 2), carryover_c=round(max(float(after.max() - after[0]), 0.0), 2),
    )  # fmt: skip


def depth_map_of(trajectory: Trajectory) -> DepthMapOut:
    """Temperatures by time and depth."""
    t = curve_times(trajectory, MAP_POINTS)
    return DepthMapOut(
        t_s=rounded(t, 2),
        depth_m=rounded(trajectory.grid.x_m, 6),
        temperature_c=np.round(trajectory.profile(t), 3).tolist(),
    )
