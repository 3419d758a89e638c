"""Beliefs about differences from the plan, in a cook's words: only what readings support and is worth saying."""

from __future__ import annotations

import math

import numpy as np

from ..files.plan import Plan
from ..files.track import Belief, BeliefKind
from .fit import Fit
from .unknowns import (
    MEDIUM,
    SIZE,
    START,
    START_K,
    TRANSFER,
    TRANSFER_LOG,
    Unknowns,
    thickness_mm,
)

SURE = 1.3  # deviations from the plan before a single cause is named
LEARNT = 0.85  # what is left of the prior's deviation where the readings said something
LEAST_MM, LEAST_SHARE = 1.5, 0.035
LEAST_MEDIUM_K = {"bath": 0.7, "simmer": 2.0, "poach": 2.0, "oven": 6.0, "pan": 10.0, "plancha": 10.0, "fry": 6.0}
USUAL_MEDIUM_K = 3.0
LEAST_START_K = 1.2
LEAST_TRANSFER, LEAST_TRANSFER_OVEN = 1.35, 1.2
MOST_AS_IF_K = 60.0
WET_FACE_C = 75.0  # of a roast (docs/science.md): the oven's heat comes in by what it is above that
MOST_TOLD = 2
NAMES = {
    "bath": "bath", "oven": "oven", "pan": "pan", "plancha": "plancha", "simmer": "pot", "poach": "pot", "fry": "oil",
}  # fmt: skip


def beliefs_of(plan: Plan, unknowns: Unknowns, fit: Fit, set_c: float) -> list[Belief]:
    """Differences, the most certain first; `set_c`: setting of the pull stage."""
    if not len(fit.residual_k):
        return []
    deviation = np.sqrt(np.diag(fit.covariance))
    beliefs: list[tuple[float, Belief]] = []
    for index, say in ((SIZE, _size), (START, _start), (MEDIUM, _medium), (TRANSFER, _transfer)):
        z, left = float(fit.z[index]), float(deviation[index])
        seen = index == MEDIUM and unknowns.medium_seen is not None
        if not seen and (abs(z) < SURE * left or left > LEARNT):
            continue
        text = say(plan, unknowns, z, set_c)
        if text is not None:
            beliefs.append((abs(z) / left, text))
    return [belief for _, belief in sorted(beliefs, key=lambda pair: -pair[0])[:MOST_TOLD]]


def _size(plan: Plan, unknowns: Unknowns, z: float, set_c: float) -> Belief | None:
    by = thickness_mm(unknowns, z)
    if abs(by) < max(LEAST_MM, LEAST_SHARE * 2e3 * unknowns.half_m):
        return None
    word: BeliefKind = "thicker" if by > 0 else "thinner"
    text = f"The piece is {word} than planned by about {abs(by):.0f} mm"
    of_oven = plan.pull_stage is not None and plan.stages[plan.pull_stage].kind == "oven"
    if of_oven and unknowns.medium_seen is None:  # a core alone hardly tells the two apart
        text += f", or the oven is {'cooler' if by > 0 else 'hotter'} than it says"
    return Belief(what=word, amount=round(by, 1), text=text)


def _start(plan: Plan, unknowns: Unknowns, z: float, set_c: float) -> Belief | None:
    by = START_K * z
    if abs(by) < LEAST_START_K:
        return None
    word = "warmer" if by > 0 else "colder"
    start = plan.piece.start_c + by
    what: BeliefKind = "warmer-start" if by > 0 else "colder-start"
    return Belief(
        what=what,
        amount=round(by, 1),
        text=f"The piece started {word} than planned, at about {start:.0f} °C",
        stated_c=plan.piece.start_c,
    )


def _medium(plan: Plan, unknowns: Unknowns, z: float, set_c: float) -> Belief | None:
    if plan.pull_stage is None:
        return None
    stage = plan.stages[plan.pull_stage]
    by = unknowns.medium_off_k(z)
    if abs(by) < LEAST_MEDIUM_K.get(stage.kind, USUAL_MEDIUM_K):
        return None
    name = NAMES.get(stage.kind, "heat")
    digits = 1 if stage.kind == "bath" else 0
    what: BeliefKind = "cooler" if by < 0 else "hotter"
    word = "cool" if by < 0 else "hot"
    is_now, was = f"{set_c + by:.{digits}f}", f"{set_c:g}"
    text = f"The {name} runs about {abs(by):.{digits}f} °C {word}: {is_now} instead of {was}"
    return Belief(what=what, amount=round(by, 1), text=text, stated_c=set_c)


def _transfer(plan: Plan, unknowns: Unknowns, z: float, set_c: float) -> Belief | None:
    stage = plan.stages[plan.pull_stage or 0]
    factor, least = math.exp(TRANSFER_LOG * z), LEAST_TRANSFER_OVEN if stage.kind == "oven" else LEAST_TRANSFER
    if 1.0 / least < factor < least:
        return None
    name = NAMES.get(stage.kind, "heat")
    as_if, by = "", None
    if stage.kind == "oven" and abs((factor - 1.0) * (set_c - WET_FACE_C)) <= MOST_AS_IF_K:
        by = round((factor - 1.0) * (set_c - WET_FACE_C), 1)
        as_if = f", as if the oven ran {abs(by):.0f} °C {'hot' if by > 0 else 'cool'}"
    if factor > 1:
        why = as_if or f": the {name} moves or covers more"
        text = f"It takes heat faster than planned, about {factor:.1f} times{why}"
        return Belief(what="more-heat", amount=round(factor, 2), text=text, as_if_k=by)
    why = as_if or f": the {name} is full or still"
    text = f"Less heat is reaching it than planned, about {100 * factor:.0f} %{why}"
    return Belief(what="less-heat", amount=round(factor, 2), text=text, as_if_k=by)
