"""The steps of a plan: every move, turn and pull, with its planned time."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..cure.mixing import weighed_words
from ..files.actions import ACTION_WORDS, Action, Place, action_of
from ..files.plan import Plan
from ..files.result import StageOut
from ..files.stages import BY_SIDES, Brine
from ..heat.media import medium_c
from ..solve.batches import batches_of

StepKind = Literal["start", "move", "turn", "pull", "end", "wash", "baste", "prep", "lay"]

# By kind of stage: what a hand does to begin it, and where it happens.
BEGINS = {
    "temper": Action.TEMPER, "bath": Action.DROP, "pan": Action.LAY, "plancha": Action.LAY, "grill": Action.LAY,
    "oven": Action.LOAD, "fry": Action.DROP, "steam": Action.LOAD, "simmer": Action.DROP, "poach": Action.DROP,
    "boil": Action.DROP, "rest": Action.REST, "hold": Action.HOLD, "ice_bath": Action.CHILL, "chill": Action.CHILL,
    "reheat": Action.REHEAT, "torch": Action.TORCH, "brine": Action.BRINE, "medium": Action.START,
    "pressure": Action.LOAD, "freeze": Action.CHILL, "thaw": Action.CHILL,
}  # fmt: skip
PLACES = {
    "temper": Place.WORKTOP, "bath": Place.BATH, "pan": Place.PAN, "plancha": Place.PLANCHA, "grill": Place.GRILL,
    "oven": Place.OVEN, "fry": Place.FRYER, "steam": Place.STEAMER, "simmer": Place.POT, "poach": Place.POT,
    "boil": Place.POT, "rest": Place.REST_SHELF, "hold": Place.HOT_CUPBOARD, "ice_bath": Place.ICE_BATH,
    "chill": Place.CHILLER, "reheat": Place.HEAT, "torch": Place.TORCH, "brine": Place.BRINE, "medium": Place.MEDIUM,
    "pressure": Place.PRESSURE, "freeze": Place.FREEZER, "thaw": Place.THAW,
}  # fmt: skip


@dataclass(frozen=True)
class Step:
    """One step: `action` by code, `verb` the word for it as of the cook's start.

    `stage` is the stage that follows it (the number of stages after the last one), `at_s` its planned time from the
    start, `reading_c` the probe reading it waits for, if any. `to_c`: temperature of the medium the piece goes to,
    `how`: details.
    """

    number: int
    kind: StepKind
    action: Action
    stage: int
    at_s: float
    reading_c: float | None
    from_place: Place
    to_place: Place
    to_c: float | None
    how: str = ""
    verb: str = ""

    def __post_init__(self) -> None:
        """Use the word of the action if the step has none of its own."""
        if not self.verb:
            object.__setattr__(self, "verb", ACTION_WORDS[self.action])

    @property
    def is_check(self) -> bool:
        """Whether it ends the cook with a check of the piece, after it was taken out of its last stage."""
        return self.kind == "end" and self.action is Action.CHECK


MOVES = ("start", "move", "pull", "lay", "end")  # kinds of steps that bring a piece somewhere
ASIDE = ("wash",)  # kinds of steps that hold up no other: done when there is a hand for them


def step_from(row: Mapping[str, Any]) -> Step:
    """A step as stored with a cook; one from before codes is read by its words."""
    places = {"from_place": Place(row["from_place"]), "to_place": Place(row["to_place"])}
    return Step(**{**row, "action": action_of(row), **places})


def next_step(steps: Sequence[Step], done: Collection[int]) -> Step | None:
    """The first step of the chain after those done; None after the last."""
    last = max((n for n in done if steps[n].kind not in ASIDE), default=-1)
    return next((step for step in steps if step.number > last and step.kind not in ASIDE), None)


def steps_aside(steps: Sequence[Step], done: Collection[int]) -> list[Step]:
    """Steps beside the chain still to do, of the stages begun."""
    return [s for s in steps if s.kind in ASIDE and s.number not in done and s.number - 1 in done]


def steps_of(plan: Plan, runs: Sequence[StageOut]) -> list[Step]:
    """All steps in order; `runs`: when each stage runs. The first starts the cook, the last ends it."""
    steps: list[Step] = []
    last_place = Place.FRIDGE
    for i, (stage, run) in enumerate(zip(plan.stages, runs, strict=True)):
        steps.append(_into(plan, runs, i, last_place, len(steps)))
        place = PLACES[stage.kind]
        if isinstance(stage, BY_SIDES) and stage.side_s is not None:
            for at in _turns(run, stage.side_s, stage.exposures):
                steps.append(Step(len(steps), "turn", Action.TURN, i, at, None, place, place, medium_c(stage)))
        last_place = place
    steps.append(_into(plan, runs, len(plan.stages), last_place, len(steps)))
    return steps


def _how(plan: Plan, runs: Sequence[StageOut], i: int) -> str:
    """Amounts to weigh for a brine with a recipe; the batches in which pieces go in."""
    if i == len(plan.stages):
        return ""
    to = plan.stages[i]
    if isinstance(to, Brine) and to.recipe is not None:
        return weighed_words(to.recipe)
    return str(batches_of(plan, i, runs[i]) or "")


def _turns(run: StageOut, side_s: float, exposures: int | None) -> list[float]:
    """Planned times of the turns within a stage, s from the plan's start."""
    fits = int((run.end_s - run.start_s - 0.5) // side_s)
    turns = min(fits, exposures - 1) if exposures is not None else fits
    return [run.start_s + side * side_s for side in range(1, turns + 1)]


def _into(plan: Plan, runs: Sequence[StageOut], i: int, from_place: Place, number: int) -> Step:
    """The step that brings the piece into stage i, or off the plan after the last."""
    last = i == len(plan.stages)
    to = None if last else plan.stages[i]
    at = runs[i - 1].end_s if i else 0.0
    reading = None
    kind: StepKind = "start" if i == 0 else "end" if last else "move"
    action = Action.CHECK if to is None else BEGINS[to.kind]
    if i:
        before = plan.stages[i - 1]
        if before.until is not None:
            reading = runs[i - 1].reading_c
        if plan.pull_stage == i - 1:
            kind, action = ("end" if last else "pull"), Action.PULL
        elif before.kind in ("bath", "simmer", "poach", "boil", "fry") and to is not None:
            action = Action.LIFT
    return Step(
        number, kind, action, i, at, reading, from_place, Place.PLATE if to is None else PLACES[to.kind],
        None if to is None else medium_c(to), _how(plan, runs, i),
    )  # fmt: skip
