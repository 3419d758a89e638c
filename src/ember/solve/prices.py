"""The cost of small choices: the plan run again with one change.

For a plan that waits for its core in minutes, for one that runs by the clock in degrees.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ..errors import EmberError
from ..files.plan import Plan
from ..files.stages import Bath, Oven, Pan, Rest, Stage, Temper
from ..food.catalogue import cut
from ..food.geometry import body_size, with_size
from ..heat.problem import density_of
from ..heat.simulate import simulate_roughly
from ..heat.trajectory import Trajectory
from .log_ends import with_log_ends
from .pull import timed

Choice = Literal["temper", "rest", "thicker", "medium"]

OUT_MIN, THICKER_MM = 20.0, 5.0
# How far a setting is off in a kitchen that trusts it; common practice.
OFF_K = {"bath": 1.0, "oven": 10.0, "pan": 20.0}
KEYS = {"bath": "water_c", "oven": "air_c", "pan": "pan_c"}


@dataclass(frozen=True)
class Price:
    """The cost of one choice.

    `choice`; `stage` it is about, if any; `amount` in the choice's own unit (min, mm, K); `minutes`: how much longer
    (negative: shorter) the plan takes, if it waits for its core; `kelvin`: how much hotter the core peaks at the same
    times; `start_k`: how much warmer the core is as heating begins; `before`, `after`: a rest's cover as planned and
    instead.
    """

    choice: Choice
    stage: int | None
    amount: float
    minutes: float | None = None
    kelvin: float | None = None
    start_k: float | None = None
    before: str = ""
    after: str = ""


def _swapped(plan: Plan, index: int, stage: Stage) -> Plan:
    return plan.model_copy(update={"stages": [*plan.stages[:index], stage, *plan.stages[index + 1 :]]})


def _temper(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """Out of the fridge first, or straight from it."""
    first = plan.stages[0]
    if isinstance(first, Temper):
        if len(plan.stages) == 1:
            return
        without = simulate_roughly(with_log_ends(plan.model_copy(update={"stages": plan.stages[1:]})))
        amount, with_it, bare = (run.stages[0].end_s - run.stages[0].start_s) / 60.0, run, without
    else:
        stages = [Temper(minutes=OUT_MIN), *plan.stages]
        with_it = simulate_roughly(with_log_ends(plan.model_copy(update={"stages": stages})))
        amount, bare = OUT_MIN, run
    begins = with_it.stages[0]
    warmer = float(with_it.core_c[begins.last] - with_it.core_c[begins.first])
    yield Price(
        "temper", None, amount, start_k=warmer,
        minutes=(with_it.end_s - begins.end_s - bare.end_s) / 60.0, kelvin=with_it.peak()[0] - bare.peak()[0],
    )  # fmt: skip


def _rest(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The last rest with another cover, everything else at the same times."""
    rests = [(i, stage) for i, stage in enumerate(plan.stages) if isinstance(stage, Rest)]
    if not rests:
        return
    index, stage = rests[-1]
    instead = "wrapped" if stage.cover == "open" else "open"
    fixed = timed(plan, run)
    rested = fixed.stages[index]
    other = simulate_roughly(_swapped(fixed, index, rested.model_copy(update={"cover": instead})))
    yield Price("rest", index, 0.0, kelvin=other.peak()[0] - run.peak()[0], before=stage.cover, after=instead)


def _thicker(plan: Plan, run: Trajectory) -> Iterator[Price]:
    density = density_of(plan)
    size = body_size(plan.piece, cut(plan.piece.cut), density).size_mm
    by_mm = THICKER_MM if size >= 2 * THICKER_MM else 1.0
    piece = with_size(plan.piece, cut(plan.piece.cut), density, size + by_mm)
    other = simulate_roughly(with_log_ends(plan.model_copy(update={"piece": piece})))
    as_timed = simulate_roughly(timed(plan, run).model_copy(update={"piece": piece}))
    yield Price(
        "thicker", None, by_mm, minutes=(other.end_s - run.end_s) / 60.0, kelvin=as_timed.peak()[0] - run.peak()[0]
    )


def _medium(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The pull's own medium with a typical offset, at the same times."""
    index = plan.pull_stage
    stage = plan.stages[index] if index is not None else None
    if index is None or not isinstance(stage, Bath | Oven | Pan):
        return
    key, off = KEYS[stage.kind], OFF_K[stage.kind]
    value = getattr(stage, key)
    if value is None or (stage.kind == "bath" and value + off > 100.0):
        return
    fixed = timed(plan, run)
    changed = fixed.stages[index].model_copy(update={key: value + off})
    other = simulate_roughly(_swapped(fixed, index, changed))
    yield Price("medium", index, off, kelvin=other.peak()[0] - run.peak()[0])


def prices(plan: Plan) -> list[Price]:
    """Costs of small choices, as far as they can be computed.

    Raises BadInput and NeverReached like simulate if the plan itself cannot be cooked.
    """
    plan = with_log_ends(plan)
    run = simulate_roughly(plan)
    price_list: list[Price] = []
    for look in (_temper, _rest, _thicker, _medium):
        try:
            price_list += look(plan, run)
        except EmberError:
            continue  # otherwise it would not cook to its end
    return price_list
