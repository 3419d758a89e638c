"""A service as whole numbers on one time grid: steps, precedence, equipment.

The request's minutes and times of day become multiples of `unit_s` seconds from `origin`; a repeated task becomes one
step for each time.
"""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cached_property

from ..errors import BadInput
from ..files.service import MOST_REPEATS, DishIn, EquipmentIn, ServiceRequest, TaskIn

MINUTE_S = 60
WHOLE_S = 1e-6


@dataclass(frozen=True)
class Step:
    """One task, or one repetition of it, in grid units: `lo` earliest start, `hi` latest end; `fixed`: its actual
    start; `pin`: the start set by a person; `was`: its start in an earlier plan.
    """

    index: int
    dish: DishIn
    task: TaskIn
    n: int
    length: int
    lo: int
    hi: int
    fixed: int | None
    was: int | None
    pin: int | None = None

    @property
    def key(self) -> str:
        """ "dish:task"."""
        return f"{self.dish.id}:{self.task.id}"


@dataclass(frozen=True)
class Follows:
    """`after` begins when `before` has ended, at most `gap` later."""

    before: int
    after: int
    gap: int | None


@dataclass(frozen=True)
class Tied:
    """Two steps that begin, or end, together."""

    one: int
    other: int
    at_end: bool


@dataclass(frozen=True)
class Within:
    """A step that begins `offset` after its host began, within `slack`."""

    step: int
    host: int
    offset: int
    slack: int


@dataclass(frozen=True)
class Use:
    """A place on equipment from `offset` after a step's start, for `length`."""

    step: int
    equipment: EquipmentIn
    amount: int
    setting_c: float | None
    offset: int
    length: int


@dataclass(frozen=True)
class Waits:
    """How long a step's food may wait for the first of `for_steps`, or for plate-up if there are none."""

    step: int
    for_steps: tuple[int, ...]
    most: int | None
    weight: float


@dataclass
class Near:
    """What refers to one step."""

    follows: list[Follows] = field(default_factory=list)
    tied: list[Tied] = field(default_factory=list)
    within: list[Within] = field(default_factory=list)
    waits: list[Waits] = field(default_factory=list)
    uses: list[Use] = field(default_factory=list)


@dataclass
class Problem:
    """The whole problem. `follows`, `tied`, `within`, `waits` and `uses` refer to steps by index."""

    request: ServiceRequest
    origin: dt.datetime
    unit_s: int
    now: int
    steps: list[Step] = field(default_factory=list)
    follows: list[Follows] = field(default_factory=list)
    tied: list[Tied] = field(default_factory=list)
    within: list[Within] = field(default_factory=list)
    uses: list[Use] = field(default_factory=list)
    waits: list[Waits] = field(default_factory=list)

    @cached_property
    def near(self) -> dict[int, Near]:
        """By step, what refers to it."""
        near_by_step = {step.index: Near() for step in self.steps}
        for follow in self.follows:
            near_by_step[follow.before].follows.append(follow)
            near_by_step[follow.after].follows.append(follow)
        for tie in self.tied:
            near_by_step[tie.one].tied.append(tie)
            near_by_step[tie.other].tied.append(tie)
        for inside in self.within:
            near_by_step[inside.step].within.append(inside)
            near_by_step[inside.host].within.append(inside)
        for wait in self.waits:
            for index in (wait.step, *wait.for_steps):
                near_by_step[index].waits.append(wait)
        for use in self.uses:
            near_by_step[use.step].uses.append(use)
        return near_by_step

    @cached_property
    def on(self) -> dict[str, list[Use]]:
        """Uses by equipment."""
        uses: dict[str, list[Use]] = {}
        for use in self.uses:
            uses.setdefault(use.equipment.id, []).append(use)
        return uses

    @property
    def horizon(self) -> int:
        """The last plate-up."""
        return max(step.hi for step in self.steps)

    def moment(self, at: int) -> dt.datetime:
        """A grid time as a time of day, in the time zone of `now`."""
        return self.origin + dt.timedelta(seconds=at * self.unit_s)

    def minutes(self, units: float) -> float:
        """Grid units in minutes."""
        return units * self.unit_s / MINUTE_S

    def units_up(self, minutes: float) -> int:
        """Minutes in grid units, rounded up."""
        return math.ceil(minutes * MINUTE_S / self.unit_s - WHOLE_S)

    def units_down(self, minutes: float) -> int:
        """Minutes in grid units, rounded down."""
        return math.floor(minutes * MINUTE_S / self.unit_s + WHOLE_S)

    def at_up(self, when: dt.datetime) -> int:
        """A time of day on the grid, rounded up."""
        return math.ceil((when - self.origin).total_seconds() / self.unit_s - WHOLE_S)

    def at_down(self, when: dt.datetime) -> int:
        """A time of day on the grid, rounded down."""
        return math.floor((when - self.origin).total_seconds() / self.unit_s + WHOLE_S)

    def shifts_of(self, equipment: EquipmentIn) -> list[tuple[int, int]]:
        """When equipment is available; empty if always."""
        return [(self.at_up(begin), self.at_down(end)) for begin, end in sorted(equipment.shifts)]

    def change_units(self, equipment: EquipmentIn, from_c: float, to_c: float) -> int:
        """Time for equipment to change from one setting to another."""
        rate = equipment.heat_c_per_min if to_c > from_c else equipment.cool_c_per_min
        return 0 if rate is None else self.units_up(abs(to_c - from_c) / rate)


def _seconds(minutes: float) -> int:
    return max(round(minutes * MINUTE_S), 1)


def _lengths(request: ServiceRequest) -> Iterator[float]:
    for dish in request.dishes:
        for task in dish.tasks:
            yield task.minutes
            limits = (task.max_gap_min, task.max_wait_min, task.chilled_wait_max_min)
            yield from (minutes for minutes in limits if minutes is not None)
            for use in task.uses:
                yield from (minutes for minutes in (use.first_min, use.last_min) if minutes is not None)
            if task.during is not None:
                yield from (task.during.every_min, task.during.slack_min)


def _unit_s(request: ServiceRequest, origin: dt.datetime) -> int:
    """The coarsest grid on which every duration and plate-up lies, at most a minute."""
    unit = MINUTE_S
    for minutes in _lengths(request):
        if minutes > 0:
            unit = math.gcd(unit, _seconds(minutes))
    for dish in request.dishes:
        unit = math.gcd(unit, round((dish.plate_up - origin).total_seconds()))
    return max(unit, 1)


def make_problem(request: ServiceRequest) -> Problem:
    """The request on its grid. Raises BadInput for an unknown task, and for circular dependencies."""
    started = [task.started for dish in request.dishes for task in dish.tasks if task.started is not None]
    first = min([request.now, *started])
    origin = first.astimezone(request.now.tzinfo).replace(second=0, microsecond=0)
    problem = Problem(request, origin, _unit_s(request, origin), 0)
    problem.now = problem.at_up(request.now)
    hosts: dict[tuple[str, str], int] = {}
    for dish in request.dishes:
        for task in dish.tasks:
            if task.during is None:
                hosts[dish.id, task.id] = _add(problem, dish, task)
    for i, dish in enumerate(request.dishes):
        for j, task in enumerate(dish.tasks):
            place = f"dishes[{i}].tasks[{j}]"
            if task.during is not None:
                _add_again(problem, hosts, dish, task, place)
            else:
                _tie(problem, hosts, dish, task, place)
    _add_waits(problem, hosts)
    _no_circles(problem)
    return problem


def _add(problem: Problem, dish: DishIn, task: TaskIn, n: int = 0) -> int:
    """Add a step with its uses."""
    fixed = None if task.started is None or n else problem.at_down(task.started)
    length = problem.units_up(task.minutes)
    if fixed is not None:
        # Rounded like starts: what began the moment another ended must not seem to overlap it.
        over = problem.at_down(task.ended) if task.ended is not None else problem.now
        length = over - fixed if task.ended is not None else max(length, over - fixed)
    lo = problem.now if task.not_before is None else max(problem.now, problem.at_up(task.not_before))
    step = Step(
        len(problem.steps), dish, task, n, length, lo if fixed is None else fixed, problem.at_down(dish.plate_up),
        fixed, None if task.was is None or n else problem.at_down(task.was),
        None if task.at is None or n else problem.at_down(task.at),
    )  # fmt: skip
    problem.steps.append(step)
    _add_uses(problem, step)
    return step.index


def _add_uses(problem: Problem, step: Step) -> None:
    """Add the places on equipment that a step needs."""
    known = {equipment_row.id: equipment_row for equipment_row in problem.request.equipment}
    for use in step.task.uses:
        at, part = 0, step.length
        if use.first_min is not None:
            part = min(problem.units_up(use.first_min), step.length)
        elif use.last_min is not None:
            part = min(problem.units_up(use.last_min), step.length)
            at = step.length - part
        problem.uses.append(Use(step.index, known[use.equipment], use.amount, use.setting_c, at, part))


def _add_again(problem: Problem, hosts: dict[tuple[str, str], int], dish: DishIn, task: TaskIn, place: str) -> None:
    """Add the steps of a task that repeats while its host runs."""
    during = task.during
    if during is None:
        return
    host = problem.steps[_named(hosts, dish, during.task, f"{place}.during.task")]
    every, length, slack = (problem.units_up(m) for m in (during.every_min, task.minutes, during.slack_min))
    n = 1
    while n * every + length <= host.length and n <= MOST_REPEATS:
        gone = host.fixed is not None and host.fixed + n * every + slack < problem.now
        if not gone:
            step = _add(problem, dish, task, n)
            problem.within.append(Within(step, host.index, n * every, slack))
        n += 1


def _tie(problem: Problem, hosts: dict[tuple[str, str], int], dish: DishIn, task: TaskIn, place: str) -> None:
    """Add what a task follows, and what it begins or ends with."""
    me = hosts[dish.id, task.id]
    gap = None if task.max_gap_min is None else problem.units_down(task.max_gap_min)
    for k, name in enumerate(task.after):
        problem.follows.append(Follows(_named(hosts, dish, name, f"{place}.after[{k}]"), me, gap))
    for key, host in (("starts_with", task.starts_with), ("ends_with", task.ends_with)):
        if host is not None:
            problem.tied.append(Tied(me, _named(hosts, dish, host, f"{place}.{key}"), key == "ends_with"))


def _named(hosts: dict[tuple[str, str], int], dish: DishIn, name: str, place: str) -> int:
    host = hosts.get((dish.id, name))
    if host is None and ":" in name:
        other, _, task = name.partition(":")
        host = hosts.get((other, task))
    if host is None:
        raise BadInput(f"there is no task “{name}” to go by", place)
    return host


def _add_waits(problem: Problem, hosts: dict[tuple[str, str], int]) -> None:
    after: dict[int, list[int]] = {}
    for follow in problem.follows:
        after.setdefault(follow.before, []).append(follow.after)
    for index in hosts.values():
        step = problem.steps[index]
        chilled_max = step.task.chilled_wait_max_min
        most = chilled_max if chilled_max is not None else step.task.max_wait_min
        problem.waits.append(
            Waits(
                index, tuple(after.get(index, ())), None if most is None else problem.units_down(most),
                step.task.freshness,
            )
        )  # fmt: skip


def _no_circles(problem: Problem) -> None:
    """Raise BadInput if tasks wait for each other."""
    waits: dict[int, set[int]] = {step.index: set() for step in problem.steps}
    for follow in problem.follows:
        waits[follow.after].add(follow.before)
    done: set[int] = set()
    while ready := [i for i, before in waits.items() if i not in done and before <= done]:
        done |= set(ready)
    if len(done) < len(waits):
        names = ", ".join(_names(problem, (i for i in waits if i not in done)))
        raise BadInput(f"these wait for each other: {names}", "dishes")


def _names(problem: Problem, indexes: Iterable[int]) -> list[str]:
    return [problem.steps[i].task.title for i in indexes][:6]
