"""The cost of small choices: the plan run again with one change.

For a plan that waits for its core in minutes, for one that runs by the clock in degrees.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

from ..errors import BadInput, EmberError
from ..files.plan import Plan, Prep
from ..files.stages import Baste, Bath, Grill, Oven, Pan, Rest, Stage, Temper
from ..food.catalogue import cut
from ..food.geometry import body_size, with_size
from ..heat.problem import density_of
from ..heat.simulate import simulate_roughly
from ..heat.trajectory import Trajectory
from .log_ends import with_log_ends
from .pull import timed

Choice = Literal["temper", "start", "baste", "hot-pan", "rest", "plate", "fold", "trim", "shield", "thicker", "medium"]

OUT_MIN, THICKER_MM = 20.0, 5.0
# How far a setting is off in a kitchen that trusts it; common practice.
OFF_K = {"bath": 1.0, "oven": 10.0, "pan": 20.0}
WARMER_K, WARM_PLATE_C, BASTE_EVERY_S = 10.0, 60.0, 5.0  # common practice
THIN_SHARE = 0.2  # of the row that is folded under or cut off at a thin end
KEYS = {"bath": "water_c", "oven": "air_c", "pan": "pan_c"}


@dataclass(frozen=True)
class Price:
    """The cost of one choice.

    `choice`; `stage` it is about, if any; `amount` in the choice's own unit (min, mm, K); `minutes`: how much longer
    (negative: shorter) the plan takes, if it waits for its core; `kelvin`: how much hotter the core (of a fold, a
    trim or a shield, the thin end) peaks at the same times; `start_k`: how much warmer the core is as heating begins;
    `before`, `after`: a rest's cover or the oven's place as planned and instead.
    """

    choice: Choice
    stage: int | None
    amount: float
    minutes: float | None = None
    kelvin: float | None = None
    start_k: float | None = None
    before: str = ""
    after: str = ""


def _last(plan: Plan, kind: type[Stage]) -> int | None:
    return next((i for i in reversed(range(len(plan.stages))) if isinstance(plan.stages[i], kind)), None)


def _hotter(plan: Plan, run: Trajectory, index: int, **changes: Any) -> float:
    """How much hotter the core peaks with one stage changed, everything at the same times, K."""
    fixed = timed(plan, run)
    other = simulate_roughly(_swapped(fixed, index, fixed.stages[index].model_copy(update=changes)))
    return other.peak()[0] - run.peak()[0]


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


def _start(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The piece warmer to begin with, at the same times."""
    start_c = plan.piece.start_c + WARMER_K
    if start_c > float(run.core_c.max()) - WARMER_K:
        return
    piece = plan.piece.model_copy(update={"start_c": start_c})
    other = simulate_roughly(timed(plan, run).model_copy(update={"piece": piece}))
    yield Price("start", None, WARMER_K, kelvin=other.peak()[0] - run.peak()[0])


def _baste(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The last pan basted over its second half, or not at all."""
    index = _last(plan, Pan)
    stage = plan.stages[index] if index is not None else None
    if index is None or not isinstance(stage, Pan) or stage.cover == "lid":
        return
    half_s = 0.5 * (run.stages[index].end_s - run.stages[index].start_s)
    spooned = None if stage.baste is not None else Baste(from_s=half_s, every_s=BASTE_EVERY_S)
    kelvin = _hotter(plan, run, index, baste=spooned)
    yield Price("baste", index, half_s / 60.0, kelvin=kelvin, after="" if spooned else "bare")


def _hot_pan(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """An oven after a pan: in that pan, or on a rack."""
    for index, (before, stage) in enumerate(pairwise(plan.stages), start=1):
        if isinstance(before, Pan) and isinstance(stage, Oven) and stage.where in ("pan", "rack"):
            instead = "rack" if stage.where == "pan" else "pan"
            kelvin = _hotter(plan, run, index, where=instead)
            yield Price("hot-pan", index, 0.0, kelvin=kelvin, before=stage.where, after=instead)


def _rest(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The last rest with another cover, or on a warm plate."""
    index = _last(plan, Rest)
    stage = plan.stages[index] if index is not None else None
    if index is None or not isinstance(stage, Rest):
        return
    for instead in ("foil", "wrapped") if stage.cover == "open" else ("open",):
        kelvin = _hotter(plan, run, index, cover=instead)
        yield Price("rest", index, 0.0, kelvin=kelvin, before=stage.cover, after=instead)
    if stage.on != "hot_plate":
        kelvin = _hotter(plan, run, index, on="hot_plate", plate_c=WARM_PLATE_C)
        yield Price("plate", index, WARM_PLATE_C, kelvin=kelvin)


def _thin_end(plan: Plan, run: Trajectory) -> Iterator[Price]:
    """The thin end folded under, cut off, or under foil, at the same times: how much hotter that end gets."""
    if run.row is None or any(step.mm is not None for step in plan.prep):
        return
    choices: tuple[Choice, ...] = ("fold", "trim", "shield")
    off_mm = round(THIN_SHARE * 1e3 * float(run.row.part.sections.x_m[-1]))
    for choice in choices:
        if choice == "shield" and not any(isinstance(stage, Oven | Grill) for stage in plan.stages):
            continue
        changed = timed(plan, run).model_copy(update={"prep": [*plan.prep, Prep(kind=choice, mm=off_mm)]})
        try:
            other = simulate_roughly(changed)
        except BadInput:  # it has no thin end
            return
        if other.row is not None:
            hotter = other.row.middle_c.max(axis=0)[-1] - run.row.middle_c.max(axis=0)[-1]
            yield Price(choice, None, off_mm, kelvin=float(hotter))


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
    yield Price("medium", index, off, kelvin=_hotter(plan, run, index, **{key: value + off}))


def prices(plan: Plan) -> list[Price]:
    """Costs of small choices, as far as they can be computed.

    Raises BadInput and NeverReached like simulate if the plan itself cannot be cooked.
    """
    plan = with_log_ends(plan)
    run = simulate_roughly(plan)
    price_list: list[Price] = []
    for look in (_temper, _start, _baste, _hot_pan, _rest, _thin_end, _thicker, _medium):
        try:
            price_list += look(plan, run)
        except EmberError:
            continue  # otherwise it would not cook to its end
    return price_list
