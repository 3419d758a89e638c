"""The effect of an oven's humidity, cover, door and other choices on the time: the plan run without each in turn."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..errors import EmberError
from ..files.plan import Plan
from ..files.stages import Oven
from ..heat.simulate import simulate_roughly
from ..heat.trajectory import Trajectory
from .log_ends import with_log_ends

LEAST_MIN, LEAST_K = 0.5, 0.2  # what is less is not worth a line


@dataclass(frozen=True)
class Effect:
    """The effect of one choice in oven stage `stage`, compared with the plain oven.

    `choice`: humidity, water_tray, cover, door, in, fan, combi, smoker or offset. `minutes`: how much longer (negative:
    shorter) the stage took, if it ends by the piece; else None, and `kelvin` is how much hotter the core became.
    """

    stage: int
    choice: str
    minutes: float | None
    kelvin: float | None


def _plain(stage: Oven) -> Iterator[tuple[str, Oven]]:
    """The stage without one of its choices."""
    if stage.humidity is not None:
        yield "humidity", stage.model_copy(update={"humidity": None})
    if stage.water_tray and stage.humidity is None:
        yield "water_tray", stage.model_copy(update={"water_tray": False})
    if stage.cover != "none":
        yield "cover", stage.model_copy(update={"cover": "none"})
    if stage.door_every_min is not None:
        yield "door", stage.model_copy(update={"open_every_min": None, "baste_every_min": None})
    if stage.where != "rack":
        yield "in", stage.model_copy(update={"where": "rack"})
    if stage.mode != "still":
        yield stage.mode, stage.model_copy(update={"mode": "still"})
    if stage.offset_k:
        yield "offset", stage.model_copy(update={"offset_k": 0.0})


def effects(plan: Plan) -> list[Effect]:
    """The effects of the choices of the plan's ovens, stage by stage, without negligible ones.

    Raises BadInput and NeverReached like simulate.
    """
    plan = with_log_ends(plan)
    chosen = [
        (index, choice, plain)
        for index, stage in enumerate(plan.stages)
        if isinstance(stage, Oven)
        for choice, plain in _plain(stage)
    ]
    if not chosen:
        return []
    as_it_is = simulate_roughly(plan)
    effects: list[Effect] = []
    for index, choice, plain in chosen:
        stages = [plain if i == index else other for i, other in enumerate(plan.stages)]
        try:
            without = simulate_roughly(plan.model_copy(update={"stages": stages}))
        except EmberError:
            continue  # without it the stage would never end
        if effect := _effect(index, choice, plain.until is not None, as_it_is, without):
            effects.append(effect)
    return effects


def _effect(index: int, choice: str, by_piece: bool, run: Trajectory, without: Trajectory) -> Effect | None:
    mine, other = run.stages[index], without.stages[index]
    if by_piece:
        minutes = ((mine.end_s - mine.start_s) - (other.end_s - other.start_s)) / 60.0
        return Effect(index, choice, minutes, None) if abs(minutes) >= LEAST_MIN else None
    kelvin = float(run.core_c[mine.last] - without.core_c[other.last])
    return Effect(index, choice, None, kelvin) if abs(kelvin) >= LEAST_K else None
