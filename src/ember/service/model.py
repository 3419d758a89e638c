"""The service as a constraint model: what must hold, and what is better.

Written to read like the problem: a step has its start; what follows begins after what precedes it; places are not given
twice; an oven has one temperature at a time and takes time to change.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from itertools import combinations
from typing import Any

from ortools.sat.python import cp_model

from ..files.service import EquipmentIn
from .problem import Problem, Step, Use, Waits

Linear = Any  # an expression of CP-SAT, or a number
Literal = Any  # a boolean variable of CP-SAT, or its negation

HANDS = "hands"
CROWD_MIN = 5.0  # starts of hands within so many minutes are counted as one crowd; common practice
SHARES = 100  # a freshness of 1 is so many whole parts


@dataclass(frozen=True)
class Relaxed:
    """Limits that are left out to find a clash: equipment, dishes; single `uses`; `late`: plate-ups that may move."""

    equipment: frozenset[str] = frozenset()
    dishes: frozenset[str] = frozenset()
    uses: frozenset[int] = frozenset()
    late: frozenset[str] = frozenset()
    late_most: int = 0


@dataclass
class Model:
    """The model with the variables an answer is read from."""

    problem: Problem
    relaxed: Relaxed
    cp: cp_model.CpModel = field(default_factory=cp_model.CpModel)
    start: dict[int, cp_model.IntVar] = field(default_factory=dict)
    late: dict[str, cp_model.IntVar] = field(default_factory=dict)
    moved: list[cp_model.IntVar] = field(default_factory=list)
    wait: dict[int, Linear] = field(default_factory=dict)
    changes: list[Linear] = field(default_factory=list)
    crowds: list[cp_model.IntVar] = field(default_factory=list)
    a_wait: int = 0

    def waiting_bound(self, bound: float) -> float:
        """Minutes that food waits in any plan, weighted by freshness, from the solver's bound on the objective."""
        if self.a_wait == 0 or self.moved:
            return 0.0
        # What is better beside waiting weighs less than one share of it.
        shares = max(-(-(bound - self.a_wait + 1) // self.a_wait), 0.0)
        return self.problem.minutes(shares / SHARES)

    def end(self, step: int) -> Linear:
        """End of a step."""
        return self.start[step] + self.problem.steps[step].length

    def stands(self, number: int, use: Use) -> bool:
        """Whether a use, by its number in the problem, must be held."""
        return use.equipment.id not in self.relaxed.equipment and number not in self.relaxed.uses

    def is_in(self, step: Step) -> bool:
        """Whether the step's dish is planned at all."""
        return step.dish.id not in self.relaxed.dishes


def make_model(problem: Problem, relaxed: Relaxed | None = None, goals: bool = True) -> Model:
    """Everything that must hold; with `goals` also what is better, the most important first."""
    model = Model(problem, relaxed or Relaxed())
    _starts(model)
    _order(model)
    _waits(model)
    by_equipment: dict[str, list[Use]] = defaultdict(list)
    for number, use in enumerate(problem.uses):
        if use.step in model.start and model.stands(number, use):
            by_equipment[use.equipment.id].append(use)
    for uses in by_equipment.values():
        _places(model, uses, goals)
        _settings(model, uses, goals)
    if goals:
        _goals(model)
    return model


def _starts(model: Model) -> None:
    """A start for each step, between its earliest start and its dish's plate-up, within the shifts it needs."""
    problem, cp = model.problem, model.cp
    for dish in problem.request.dishes:
        if dish.id in model.relaxed.late:
            model.late[dish.id] = cp.new_int_var(0, model.relaxed.late_most, f"late {dish.id}")
    for step in problem.steps:
        if not model.is_in(step):
            continue
        if step.fixed is not None:
            model.start[step.index] = cp.new_constant(step.fixed)
            continue
        latest = step.hi - step.length + (model.relaxed.late_most if step.dish.id in model.late else 0)
        model.start[step.index] = cp.new_int_var_from_domain(_domain(model, step, latest), step.key)
    for step in problem.steps:
        if step.dish.id in model.late and step.fixed is None and model.is_in(step):
            cp.add(model.end(step.index) <= step.hi + model.late[step.dish.id])


def _domain(model: Model, step: Step, latest: int) -> cp_model.Domain:
    domain = cp_model.Domain(step.lo, latest)
    if step.pin is not None:
        domain = domain.intersection_with(cp_model.Domain(step.pin, step.pin))
    for number, use in enumerate(model.problem.uses):
        if use.step != step.index or not use.equipment.shifts or not model.stands(number, use):
            continue
        shifts = model.problem.shifts_of(use.equipment)
        rows = [[a - use.offset, b - use.offset - use.length] for a, b in shifts if b - a >= use.length]
        domain = domain.intersection_with(cp_model.Domain.from_intervals(rows))
    return domain


def _order(model: Model) -> None:
    """Precedence, common starts or ends, and repetitions."""
    cp, start = model.cp, model.start
    for follow in model.problem.follows:
        if follow.before in start and follow.after in start:
            cp.add(start[follow.after] >= model.end(follow.before))
            if follow.gap is not None:
                cp.add(start[follow.after] <= model.end(follow.before) + follow.gap)
    for tie in model.problem.tied:
        if tie.one in start and tie.other in start:
            if tie.at_end:
                cp.add(model.end(tie.one) == model.end(tie.other))
            else:
                cp.add(start[tie.one] == start[tie.other])
    for inside in model.problem.within:
        if inside.step in start and inside.host in start:
            offset = start[inside.step] - start[inside.host]
            cp.add_linear_constraint(offset, inside.offset - inside.slack, inside.offset + inside.slack)
            cp.add(model.end(inside.step) <= model.end(inside.host))


def _waits(model: Model) -> None:
    """Waiting of food for the first successor, or for plate-up: never negative, and limited."""
    cp = model.cp
    for waiting in model.problem.waits:
        if waiting.step not in model.start:
            continue
        step = model.problem.steps[waiting.step]
        until = _until(model, waiting, step)
        model.wait[waiting.step] = until - model.end(waiting.step)
        if waiting.most is not None and step.fixed is None:
            cp.add(until - model.end(waiting.step) <= waiting.most)


def _until(model: Model, waiting: Waits, step: Step) -> Linear:
    starts = [model.start[i] for i in waiting.for_steps if i in model.start]
    if not starts:
        return (
            step.hi + model.late[step.dish.id]
            if step.dish.id in model.late
            else step.hi + 0 * model.start[waiting.step]
        )
    if len(starts) == 1:
        return starts[0]
    first = model.cp.new_int_var(0, model.problem.horizon + model.relaxed.late_most, f"first after {step.key}")
    model.cp.add_min_equality(first, starts)
    return first


def _interval(model: Model, use: Use, length: int | None = None) -> cp_model.IntervalVar:
    size = use.length if length is None else length
    return model.cp.new_fixed_size_interval_var(model.start[use.step] + use.offset, size, f"use {use.step}")


def _places(model: Model, uses: list[Use], goals: bool) -> None:
    """No place is given twice. The peak of cooks at work is kept low, as is the number of simultaneous starts."""
    equipment = uses[0].equipment
    intervals, amounts = [_interval(model, use) for use in uses], [use.amount for use in uses]
    if goals and equipment.kind == HANDS:
        at_work = model.cp.new_int_var(1, equipment.capacity, f"at work {equipment.id}")
        model.cp.add_cumulative(intervals, amounts, at_work)
        crowd = model.cp.new_int_var(1, len(uses), f"crowd {equipment.id}")
        window = max(model.problem.units_up(CROWD_MIN), 1)
        model.cp.add_cumulative([_interval(model, use, window) for use in uses], [1] * len(uses), crowd)
        model.crowds += [at_work, crowd]
    elif equipment.capacity == 1:
        model.cp.add_no_overlap(intervals)
    else:
        model.cp.add_cumulative(intervals, amounts, equipment.capacity)


def agree(equipment: EquipmentIn, a: float, b: float) -> bool:
    """Whether two settings can share one oven or bath."""
    return abs(a - b) <= equipment.setting_tolerance_c + 1e-9


def _settings(model: Model, uses: list[Use], goals: bool) -> None:
    """Uses at settings that differ come one after the other, with the time of the change in between."""
    cp, problem, equipment = model.cp, model.problem, uses[0].equipment
    set_to = [use for use in uses if use.setting_c is not None]
    if equipment.start_c is not None:
        for use in set_to:
            if problem.steps[use.step].fixed is None:
                warm = problem.change_units(equipment, equipment.start_c, use.setting_c or 0.0)
                cp.add(model.start[use.step] + use.offset >= problem.now + warm)
    before: dict[tuple[int, int], Literal] = {}
    for (i, one), (j, other) in combinations(enumerate(set_to), 2):
        a, b = one.setting_c or 0.0, other.setting_c or 0.0
        if agree(equipment, a, b):
            continue
        first = cp.new_bool_var(f"{equipment.id}: {one.step} before {other.step}")
        before[i, j], before[j, i] = first, first.negated()
        for x, y, there, lit in ((one, other, (a, b), first), (other, one, (b, a), first.negated())):
            gap = problem.change_units(equipment, *there)
            over = model.start[x.step] + x.offset + x.length + gap
            cp.add(model.start[y.step] + y.offset >= over).only_enforce_if(lit)
    if goals and before:
        _runs(model, set_to, before)


def _runs(model: Model, uses: list[Use], before: dict[tuple[int, int], Literal]) -> None:
    """Number of setting changes: a use that shares its stretch with no earlier one starts a new stretch."""
    cp, equipment = model.cp, uses[0].equipment
    for j, use in enumerate(uses):
        together = []
        for i in range(j):
            if not agree(equipment, uses[i].setting_c or 0.0, use.setting_c or 0.0):
                continue
            same = cp.new_bool_var(f"{equipment.id}: {i} with {j}")
            for k in range(len(uses)):
                if (i, k) in before and (j, k) in before:
                    cp.add_bool_or([same.negated(), before[k, j], before[i, k]])
                    cp.add_bool_or([same.negated(), before[j, k], before[k, i]])
            together.append(same)
        begins = cp.new_bool_var(f"{equipment.id}: {j} begins")
        cp.add_bool_or([*together, begins])
        model.changes.append(begins)


def _goals(model: Model) -> None:
    """Least moved first, then least waiting, then fewest changes, then an even load of cooks, as one weighted sum."""
    cp, problem = model.cp, model.problem
    for step in problem.steps:
        if step.was is None or step.fixed is not None or step.index not in model.start:
            continue
        off = cp.new_int_var(0, problem.horizon * 2 + 1, f"moved {step.key}")
        cp.add_abs_equality(off, model.start[step.index] - step.was)
        model.moved.append(off)
    crowd_most = sum(var.proto.domain[-1] for var in model.crowds)
    a_change = crowd_most + 1
    a_wait = a_change * (len(model.changes) + 1)
    waiting = sum(
        round(SHARES * row.weight) * model.wait[row.step] for row in problem.waits if row.step in model.wait
    )  # fmt: skip
    model.a_wait = a_wait
    total = a_wait * waiting + a_change * sum(model.changes) + sum(model.crowds)
    if model.moved:
        weights = [round(SHARES * row.weight) for row in problem.waits if row.step in model.wait]
        a_move = a_wait * (sum(weights) * (problem.horizon + 1) + 1)
        # Past this the sum would no longer fit: moving a minute then weighs as much as a day of waiting.
        total += min(a_move, a_wait * SHARES * 1440) * sum(model.moved)
    cp.minimize(total)
