"""Make it fit: what to change so that a plan is done in the minutes available."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from ..errors import EmberError
from ..evaluate import evaluate, target_of
from ..files.plan import Plan
from ..files.result import Result
from ..files.solve import Find
from ..files.stages import Bath, Oven, Rest, Temper
from ..food.catalogue import cut
from ..food.geometry import body_size
from ..heat.problem import density_of
from ..heat.simulate import simulate_roughly
from ..methods.apply import applied
from ..methods.library import suitable
from .find import change_of, met_by, search_value
from .log_ends import with_log_ends

What = Literal["as-it-is", "medium", "temper", "rest", "thickness", "method"]

SHORTEST_REST_MIN = 2.0
MOST_METHODS = 4
SEAR_ADDS_K = 8.0  # what a pan after the bath may still bring
# A bath may be so much hotter than the core that is wanted, an oven so hot: common practice.
BATH_OVER_K, OVEN_MOST_C = 15.0, 230.0


@dataclass(frozen=True)
class Fit:
    """One way out: what changes (stage, from, to), the changed plan and its result.

    `before` and `after` are in the stage's own unit (°C, min), mm for a thickness; `method` is the library's id.
    """

    what: What
    plan: Plan
    result: Result
    stage: int | None = None
    before: float | None = None
    after: float | None = None
    method: str = ""

    @property
    def total_s(self) -> float:
        """Duration, s."""
        return self.result.stages[-1].end_s


def _solved(plan: Plan, what: str, stage: int, ready_s: float, low: float, high: float) -> tuple[float, Plan]:
    target = Find.model_validate({"what": what, "stage": stage, "so_that": {"ready_s": ready_s}})
    change, least, most = change_of(plan, stage, target)
    value = search_value(
        lambda x: met_by(change(x), stage, target), max(low, least), min(high, most), target, f"stages[{stage}]"
    )
    digits = 1 if what == "medium_c" else 0
    value = round(value, digits)
    return value, change(value)


def _medium(plan: Plan, ready_s: float) -> Iterator[Fit]:
    """The pull's own bath or oven, hotter or gentler."""
    index = plan.pull_stage
    stage = plan.stages[index] if index is not None else None
    if index is None or not isinstance(stage, Bath | Oven) or stage.until is None:
        return
    aim = stage.until.peak_c or stage.until.core_c or 0.0
    if isinstance(stage, Bath):
        before, low, high = stage.water_c, aim - SEAR_ADDS_K, aim + BATH_OVER_K
    else:
        before, low, high = stage.air_c, aim + 15.0, OVEN_MOST_C
    value, changed = _solved(plan, "medium_c", index, ready_s, low, high)
    yield Fit("medium", changed, evaluate(changed), index, before, value)


def _temper(plan: Plan) -> Iterator[Fit]:
    """Straight from the fridge."""
    first = plan.stages[0]
    if not isinstance(first, Temper) or len(plan.stages) == 1:
        return
    changed = plan.model_copy(
        update={
            "stages": plan.stages[1:],
            "prep": [step.model_copy(update={"before": max(step.before - 1, 0)}) for step in plan.prep],
        }
    )
    yield Fit("temper", changed, evaluate(changed), 0, first.minutes, 0.0)


def _rest(plan: Plan, ready_s: float, total_s: float) -> Iterator[Fit]:
    """A shorter last rest."""
    last = plan.stages[-1]
    if not isinstance(last, Rest) or last.minutes is None:
        return
    minutes = float(int(last.minutes - (total_s - ready_s) / 60.0))
    if SHORTEST_REST_MIN <= minutes < last.minutes:
        changed = plan.model_copy(update={"stages": [*plan.stages[:-1], last.model_copy(update={"minutes": minutes})]})
        yield Fit("rest", changed, evaluate(changed), len(plan.stages) - 1, last.minutes, minutes)


def _thickness(plan: Plan, ready_s: float) -> Iterator[Fit]:
    """Cut thinner."""
    index = plan.pull_stage
    size = body_size(plan.piece, cut(plan.piece.cut), density_of(plan))
    if index is None or size.exponent > 0:
        return
    value, changed = _solved(plan, "thickness_mm", index, ready_s, 8.0, size.size_mm)
    yield Fit("thickness", changed, evaluate(changed), None, size.size_mm, value)


def _methods(plan: Plan, ready_s: float) -> Iterator[Fit]:
    """Other methods that are done in time, the longest first."""
    cut_entry, target = cut(plan.piece.cut), target_of(plan)
    if target is None:
        return
    size = body_size(plan.piece, cut_entry, density_of(plan)).size_mm
    options = []
    for method in suitable(cut_entry, size, target.aim_c):
        if method.aim_c is not None or method.start_c is not None:
            continue  # another dish, or a piece that is not there
        try:
            changed = with_method(plan, applied(method, cut_entry.id, target.aim_c))
            takes_s = simulate_roughly(with_log_ends(changed)).end_s
        except EmberError:
            continue
        if takes_s <= ready_s:
            options.append((takes_s, method.id, changed))
    for _, method_id, changed in sorted(options, key=lambda cut_entry: -cut_entry[0])[:MOST_METHODS]:
        yield Fit("method", changed, evaluate(changed), method=method_id)


def with_method(plan: Plan, document: dict[str, Any]) -> Plan:
    """The plan with an applied method's stages and steps. Raises BadInput if they do not suit it."""
    stated = plan.model_dump(mode="json", exclude_none=True)
    applied_now = {key: value for key, value in document.items() if key != "start_c"}
    piece = stated["piece"] | ({"start_c": document["start_c"]} if "start_c" in document else {})
    return Plan.model_validate({**stated, "piece": piece, **applied_now})


def fit(plan: Plan, ready_s: float) -> list[Fit]:
    """Ways to be done `ready_s` seconds from the start; the plan as it stands first, then the others that exist.

    Raises BadInput and NeverReached if the plan itself cannot be cooked.
    """
    as_it_is = Fit("as-it-is", plan, evaluate(plan))
    ways: list[Callable[[], Iterator[Fit]]] = [lambda: _medium(plan, ready_s)]
    if as_it_is.total_s > ready_s:
        ways += [
            lambda: _rest(plan, ready_s, as_it_is.total_s),
            lambda: _temper(plan),
            lambda: _thickness(plan, ready_s),
            lambda: _methods(plan, ready_s),
        ]
    options = [as_it_is]
    for way in ways:
        try:
            options += way()
        except EmberError:
            continue
    return options
