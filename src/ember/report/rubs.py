"""Rubs and seasonings: what burns and what only blooms, applied now or after the colour."""

from __future__ import annotations

from collections.abc import Sequence

from ..files.plan import Plan, Prep
from ..files.result import RubOut
from ..files.stages import COLOURING
from ..heat.trajectory import Trajectory
from ..kinetics.browning import BLOOMED, BURNT, indices

SEASONINGS = ("rub", "season")
USUAL_RUB = ("ground spice", "pepper")  # a rub of which nothing is said; common practice


def _after_colour(plan: Plan) -> int:
    """The stage after the last one that colours."""
    return max((i + 1 for i, stage in enumerate(plan.stages) if stage.kind in COLOURING), default=0)


def _what_comes(run: Trajectory, holds: Sequence[str], before: int) -> tuple[list[str], list[str]]:
    """(what burns, what blooms) of a rub applied before a stage, on the face that fares worse."""
    if before >= len(run.stages):
        return [], []
    rows = slice(run.stages[before].first, None)
    sides = (0, 1) if run.grid.two_faces else (1,)
    indices_by_side = [indices(run.t_s[rows], run.browning_c[rows, side]) for side in sides]
    worst = {name: max(index[name] for index in indices_by_side) for name in holds}
    burns = sorted((name for name in holds if worst[name] >= BURNT), key=lambda name: -worst[name])
    return burns, [name for name in holds if BLOOMED <= worst[name] < BURNT]


def _other_time(plan: Plan, step: Prep) -> int:
    after = _after_colour(plan)
    first = next((i for i, stage in enumerate(plan.stages) if stage.kind in COLOURING), 0)
    return after if step.before < after else first


def rubs_of(plan: Plan, run: Trajectory) -> list[RubOut]:
    """Every rub and seasoning with ingredients that heat can burn."""
    outcomes = []
    for number, step in enumerate(plan.prep):
        if step.kind not in SEASONINGS or not (step.holds or step.kind == "rub"):
            continue
        holds: Sequence[str] = tuple(dict.fromkeys(step.holds)) or USUAL_RUB
        other = _other_time(plan, step)
        burns, blooms = _what_comes(run, holds, step.before)
        other_burns, other_blooms = _what_comes(run, holds, other)
        outcomes.append(
            RubOut(
                step=number, before=step.before, burns=burns, blooms=blooms,
                other_before=other, other_burns=other_burns, other_blooms=other_blooms,
            )
        )  # fmt: skip
    return outcomes
