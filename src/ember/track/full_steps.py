"""All steps of a cook: those of the chain, with washing, basting and preparation in between."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from ..files.actions import Action, Place
from ..files.plan import Plan, Prep
from ..files.result import StageOut
from ..files.stages import Oven, Pan
from ..food.catalogue import Cut
from ..methods.prep import prep_kinds
from .steps import BEGINS, MOVES, PLACES, Step, steps_of

BOARD = Place.BOARD  # where a piece lies while it is prepared; a piece that tempers stands on the worktop
# Raw poultry, eggs and game: hands and board before anything ready to eat (common practice).
WASHED_AFTER = ("poultry", "poultry-offal", "ratite", "game-wild")
LEAST_BEFORE_END_S = 60.0  # no basting just before the oven is opened anyway
MOST_BASTES = 60
# How early a hand is told of, s (common practice): time to walk there, to heat a pan, to lay out a tray.
EARLY_S = {
    "start": 0.0, "move": 120.0, "pull": 120.0, "lay": 120.0, "turn": 10.0, "baste": 30.0, "wash": 0.0, "prep": 60.0,
    "end": 60.0,
}  # fmt: skip
PAN_READY_S = 180.0
PAN_READY = (
    "The pan is ready when the oil shimmers, the first wisp of smoke rises, butter foam sinks and the meat sizzles on "
    "contact. No sizzle means it is cold or crowded."
)


def full_steps_of(plan: Plan, runs: Sequence[StageOut], cut_entry: Cut) -> list[Step]:
    """All steps in order, numbered: those of steps_of, with washing, basting and preparation.

    Without the preparation before the first stage, which `with_preparation` adds.
    """
    steps: list[Step] = []
    last = len(plan.stages)
    for step in steps_of(plan, runs):
        preps = _preps(plan, step.stage, last) if step.kind in ("move", "pull", "end") else []
        if not preps:
            steps.append(step)
        elif step.stage == last and step.action is not Action.PULL:
            steps += [_prep(prep, step, step.from_place) for prep in preps]
            steps.append(step)
        elif step.stage == last:
            steps.append(replace(step, kind="pull", to_place=BOARD))
            steps += [_prep(prep, step, BOARD) for prep in preps]
            steps.append(_again(step, action=Action.CHECK, from_place=BOARD, reading_c=None))
        else:
            steps.append(replace(step, to_place=BOARD, to_c=None))
            steps += [_prep(prep, step, BOARD) for prep in preps]
            action = BEGINS[plan.stages[step.stage].kind]
            steps.append(_again(step, kind="lay", action=action, from_place=BOARD, reading_c=None))
        if step.kind == "start" and _is_washed_after(plan, cut_entry):
            steps.append(
                _again(step, kind="wash", action=Action.WASH, from_place=step.to_place, how="hands; change the board")
            )
    for i, (stage, run) in enumerate(zip(plan.stages, runs, strict=True)):
        steps += _bastes(stage, run, i)
    in_order = sorted(enumerate(steps), key=lambda pair: (pair[1].at_s, pair[0]))
    return [replace(step, number=number) for number, (_, step) in enumerate(in_order)]


def with_preparation(steps: list[Step], plan: Plan) -> list[Step]:
    """The steps with the preparation before the first stage in front, due so that it ends when heating begins."""
    preps = [prep for prep in plan.prep if min(prep.before, len(plan.stages)) == 0]
    before_s = 60.0 * sum(prep.minutes for prep in preps)
    in_order: list[Step] = []
    for prep in preps:
        in_order.append(replace(_prep(prep, steps[0], BOARD), at_s=-before_s))
        before_s -= 60.0 * prep.minutes
    in_order += [replace(steps[0], from_place=BOARD) if preps else steps[0], *steps[1:]]
    return [replace(step, number=number) for number, step in enumerate(in_order)]


def into_a_pan(step: Step) -> bool:
    """Whether the step lays a piece into a pan, which must be ready by then."""
    return step.to_place in (PLACES["pan"], PLACES["plancha"]) and step.kind in MOVES


def early_s(step: Step) -> float:
    """How long before it a step is announced, s."""
    return PAN_READY_S if into_a_pan(step) else EARLY_S[step.kind]


def _is_washed_after(plan: Plan, cut_entry: Cut) -> bool:
    wild = cut_entry.category_wild if plan.piece.origin == "wild" else None
    return (wild or cut_entry.category) in WASHED_AFTER


def _preps(plan: Plan, stage: int, last: int) -> list[Prep]:
    return [prep for prep in plan.prep if min(prep.before, last) == stage and stage > 0]


def _again(step: Step, **changes: Any) -> Step:
    """A step with another action and its word."""
    return replace(step, verb="", **changes)


def _prep(prep: Prep, step: Step, place: Place) -> Step:
    how = f"with {', '.join(prep.holds)}" if prep.holds else f"{prep.minutes:g} min" if prep.minutes else ""
    how = f"the last {prep.mm:g} mm" if prep.mm is not None else how
    return replace(
        step, kind="prep", action=Action.PREPARE, verb=prep_kinds()[prep.kind].name, from_place=place,
        to_place=place, to_c=None, reading_c=None, how=how,
    )  # fmt: skip


def _bastes(stage: object, run: StageOut, i: int) -> Iterator[Step]:
    if isinstance(stage, Pan) and stage.baste is not None and run.start_s + stage.baste.from_s < run.end_s:
        place = PLACES["pan"]
        how = f"spoon it over to the end, flame {stage.baste.flame}"
        yield Step(0, "baste", Action.BASTE, i, run.start_s + stage.baste.from_s, None, place, place, None, how)
    if isinstance(stage, Oven) and stage.baste_every_min is not None:
        every, place = stage.baste_every_min * 60.0, PLACES["oven"]
        count = int((run.end_s - run.start_s - LEAST_BEFORE_END_S) // every)
        for k in range(1, min(count, MOST_BASTES) + 1):
            yield Step(
                0, "baste", Action.BASTE, i, run.start_s + k * every, None, place, place, None, "and shut the door"
            )
