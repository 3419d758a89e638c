"""What follows from starts on the grid: waits, settings of ovens and baths, cooks at work, slack."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from itertools import pairwise

from ..files.service import SettingOut, TaskOut
from .check import broken
from .model import HANDS, agree
from .problem import Problem, Step, Use

Starts = Mapping[int, int]
MOST_SLACK_MIN = 720.0


def waits_of(problem: Problem, starts: Starts) -> dict[int, int]:
    """How long each step's food waits, grid units; none for repeated steps."""
    waits = {}
    for waiting in problem.waits:
        step = problem.steps[waiting.step]
        until = min((starts[i] for i in waiting.for_steps), default=step.hi)
        waits[waiting.step] = until - starts[waiting.step] - step.length
    return waits


def in_order(problem: Problem, starts: Starts) -> list[Step]:
    """The steps in order of time."""
    return sorted(problem.steps, key=lambda step: (starts[step.index], step.length, step.dish.id, step.task.id))


def task_out(
    problem: Problem, step: Step, starts: Starts, waits: Mapping[int, int], slack: int | None = None
) -> TaskOut:
    """A scheduled step; its slack is computed unless given."""
    start = starts[step.index]
    free = slack_of(problem, starts, step) if slack is None else slack
    return TaskOut(
        dish=step.dish.id, id=step.task.id, name=step.task.title, n=step.n, start=problem.moment(start),
        end=problem.moment(start + step.length), uses=step.task.uses,
        waits_min=round(problem.minutes(waits.get(step.index, 0)), 2),
        slack_min=round(problem.minutes(free), 2),
    )  # fmt: skip


def slack_of(problem: Problem, starts: Starts, step: Step) -> int:
    """How much later a step alone may begin with everything else in place, grid units."""
    if step.fixed is not None:
        return 0
    low, high = 0, problem.units_down(MOST_SLACK_MIN) + 1  # low holds, high does not
    high = min(high, step.hi - starts[step.index] - step.length + 1)
    while high - low > 1:
        middle = (low + high) // 2
        moved = {**starts, step.index: starts[step.index] + middle}
        low, high = (middle, high) if not broken(problem, moved, only=step.index) else (low, middle)
    return low


def settings_of(problem: Problem, starts: Starts) -> list[SettingOut]:
    """The settings of each oven and bath over time."""
    uses: dict[str, list[Use]] = defaultdict(list)
    for use in problem.uses:
        if use.setting_c is not None:
            uses[use.equipment.id].append(use)
    settings: list[SettingOut] = []
    for rows in uses.values():
        settings += _stretches(problem, starts, sorted(rows, key=lambda use: starts[use.step] + use.offset))
    return sorted(settings, key=lambda setting: (setting.equipment, setting.there))


def _stretches(problem: Problem, starts: Starts, uses: Sequence[Use]) -> list[SettingOut]:
    equipment, stretches = uses[0].equipment, []
    before_c = equipment.start_c
    i = 0
    while i < len(uses):
        first = uses[i]
        there, until = starts[first.step] + first.offset, 0
        setting = first.setting_c or 0.0
        while i < len(uses) and agree(equipment, uses[i].setting_c or 0.0, setting):
            until = max(until, starts[uses[i].step] + uses[i].offset + uses[i].length)
            i += 1
        way = 0 if before_c is None else problem.change_units(equipment, before_c, setting)
        stretches.append(
            SettingOut(
                equipment=equipment.id, setting_c=setting, on_the_way=problem.moment(there - way),
                there=problem.moment(there), until=problem.moment(until),
            )
        )  # fmt: skip
        before_c = setting
    return stretches


def changes_of(settings: Sequence[SettingOut]) -> int:
    """Number of setting changes of ovens and baths, without the first."""
    return sum(one.equipment == other.equipment for one, other in pairwise(settings))


def hands_peak(problem: Problem, starts: Starts) -> int:
    """Most cooks at work at once."""
    events = []
    for use in problem.uses:
        if use.equipment.kind == HANDS and use.length > 0:
            begin = starts[use.step] + use.offset
            events += [(begin, 1, use.amount), (begin + use.length, 0, -use.amount)]
    now, most = 0, 0
    for _, _, amount in sorted(events):
        now += amount
        most = max(most, now)
    return most
