"""Where a face browns: not at its mean temperature, but at the spots with the best contact or that dry first."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .chain import AROUND, Block, State, call
from .faces import media
from .grid import FloatArray
from .problem import Problem
from .terms import CONTACT_C, FROM_AROUND, H_CONTACT, MEDIUM_C, STOP_TIME, WETNESS, Stop

DRY_AIR_C = 110.0  # in cooler air the whole face stays wet for long
DRY_HEAT = ("oven", "fry", "torch", "reheat")  # in water, in a bag and at rest nothing browns
COOL_C = 20.0


def browning_c(problem: Problem, blocks: list[Block]) -> FloatArray:
    """Temperatures [row, side] of the browning spots of the two faces, °C."""
    paths: list[FloatArray] = []
    dry: State | None = None
    for number, block in enumerate(blocks):
        kind = problem.plan.stages[block.stage].kind
        if kind in ("pan", "plancha"):
            paths.append(_touching_spots(problem, block))
        elif kind == "grill":
            paths.append(_under_bars(block))
        elif kind == "oven" and block.segment.faces[1, MEDIUM_C] > DRY_AIR_C:
            if dry is None or blocks[number - 1].stage != block.stage:
                dry = replace(block.state(0), food=block.core_state(0))
            faces, dry = _dry_spots(problem, block, dry)
            paths.append(faces)
        elif kind in DRY_HEAT:
            paths.append(_faces(block.history))
        else:
            paths.append(np.full((len(block.t_s), 2), COOL_C))
    return np.concatenate(paths)


def _faces(history: FloatArray) -> FloatArray:
    return history[:, [0, history.shape[1] // 5 - 1]].copy()


def _touching_spots(problem: Problem, block: Block) -> FloatArray:
    """On a pan: contact averages over spots that touch and gaps that do not; through a spot the crust receives the same
    heat with a better film, so that it is closer to the pan's temperature.
    """
    faces = _faces(block.history)
    for side in (0, 1):
        face = block.segment.faces[side]
        if face[H_CONTACT] > 0:
            plate = block.sums[:, AROUND] if face[FROM_AROUND] else face[CONTACT_C]
            share = 1.0 if problem.grid.two_faces else media()["pan-round"]["contact_share"]
            ratio = min(face[H_CONTACT] / share / media()["pan"]["h_spot"], 1.0)
            faces[:, side] = plate - ratio * (plate - faces[:, side])
    return faces


def _under_bars(block: Block) -> FloatArray:
    """On a grill: where a bar lies the crust comes nearer to it than the face."""
    faces = _faces(block.history)
    for side in (0, 1):
        face = block.segment.faces[side]
        if face[H_CONTACT] > 0:
            faces[:, side] += media()["grill"]["mark"] * np.maximum(face[CONTACT_C] - faces[:, side], 0.0)
    return faces


def _dry_spots(problem: Problem, block: Block, start: State) -> tuple[FloatArray, State]:
    """In an oven: juice keeps part of the face wet; the rest is dry, and browns."""
    no_juice = problem.food._replace(press=np.zeros_like(problem.food.press))
    conditions = block.segment.faces.copy()
    conditions[:, WETNESS] = 0.0
    segment = replace(block.segment, faces=conditions)
    stop = Stop(max(block.end_s, 1e-6), STOP_TIME, 0.0, True)
    run = call(replace(problem, food=no_juice, row=None), block.stage, start, segment, stop)
    seen = _faces(run.history)
    return np.stack([np.interp(block.t_s, run.t_s, seen[:, side]) for side in (0, 1)], axis=1), run.state(-1)
