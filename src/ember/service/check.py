"""Whether a plan of a service holds, limit by limit and without the solver: for tasks moved by a person, and tests."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from .model import agree
from .problem import Problem, Step, Use

Starts = Mapping[int, int]


@dataclass(frozen=True)
class Broken:
    """A violated limit: its steps and equipment, and the reason in words."""

    kind: str
    steps: tuple[int, ...]
    equipment: str
    text: str


def broken(problem: Problem, starts: Starts, only: int | None = None) -> list[Broken]:
    """Every limit that these starts violate; with `only` those of one step."""
    problems = [
        problem_text
        for rows in (_bounds, _order, _waits, _shifts, _places, _settings)
        for problem_text in rows(problem, starts, only)
    ]
    return [problem_text for problem_text in problems if only is None or only in problem_text.steps]


def _end(starts: Starts, step: Step) -> int:
    return starts[step.index] + step.length


def _hhmm(problem: Problem, at: int) -> str:
    return f"{problem.moment(at):%H:%M}"


def _bounds(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    for step in problem.steps if only is None else [problem.steps[only]]:
        at = starts[step.index]
        if step.fixed is not None:
            if at != step.fixed:
                yield Broken("started", (step.index,), "", f"{step.task.title} has begun: it stays where it is.")
            continue
        if step.pin is not None and at != step.pin:
            text = f"{step.task.title} was put at {_hhmm(problem, step.pin)} by hand."
            yield Broken("pinned", (step.index,), "", text)
        if at < step.lo:
            yield Broken("too-early", (step.index,), "", f"Before {_hhmm(problem, step.lo)} it cannot begin.")
        if at + step.length > step.hi:
            over = problem.minutes(at + step.length - step.hi)
            yield Broken("late", (step.index,), "", f"{step.dish.title} would be {over:.0f} min late.")


def _order(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    steps = problem.steps
    near = problem if only is None else problem.near[only]
    for follow in near.follows:
        gap = starts[follow.after] - _end(starts, steps[follow.before])
        pair = (follow.before, follow.after)
        if gap < 0:
            yield Broken(
                "order", pair, "", f"{steps[follow.after].task.title} comes after {steps[follow.before].task.title}."
            )
        elif follow.gap is not None and gap > follow.gap:
            most = problem.minutes(follow.gap)
            text = (
                f"{steps[follow.after].task.title} begins at most {most:g} min after {steps[follow.before].task.title}."
            )
            yield Broken("gap", pair, "", text)
    for tie in near.tied:
        one, other = steps[tie.one], steps[tie.other]
        apart = _end(starts, one) != _end(starts, other) if tie.at_end else starts[tie.one] != starts[tie.other]
        if apart:
            word = "ends" if tie.at_end else "begins"
            yield Broken("tied", (tie.one, tie.other), "", f"{one.task.title} {word} with {other.task.title}.")
    for inside in near.within:
        off = starts[inside.step] - starts[inside.host] - inside.offset
        if abs(off) > inside.slack or _end(starts, steps[inside.step]) > _end(starts, steps[inside.host]):
            text = f"{steps[inside.step].task.title} has its minute while {steps[inside.host].task.title} runs."
            yield Broken("during", (inside.step, inside.host), "", text)


def _waits(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    for wait in problem.waits if only is None else problem.near[only].waits:
        step = problem.steps[wait.step]
        if wait.most is None or step.fixed is not None:
            continue
        until = min((starts[i] for i in wait.for_steps), default=step.hi)
        if until - _end(starts, step) > wait.most:
            most = problem.minutes(wait.most)
            yield Broken("wait", (wait.step, *wait.for_steps), "", f"{step.task.title} waits at most {most:g} min.")


def _shifts(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    for use in problem.uses if only is None else problem.near[only].uses:
        step = problem.steps[use.step]
        if not use.equipment.shifts or step.fixed is not None:
            continue
        a, b = _span(starts, use)
        if not any(begin <= a and b <= end for begin, end in problem.shifts_of(use.equipment)):
            text = f"{use.equipment.title} is not there at {_hhmm(problem, a)}."
            yield Broken("shift", (use.step,), use.equipment.id, text)


def _span(starts: Starts, use: Use) -> tuple[int, int]:
    begin = starts[use.step] + use.offset
    return begin, begin + use.length


def _on(problem: Problem, only: int | None) -> list[list[Use]]:
    """Uses by equipment; with `only` of the equipment of this step."""
    if only is None:
        return list(problem.on.values())
    return [problem.on[name] for name in sorted({use.equipment.id for use in problem.near[only].uses})]


def _places(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    for uses in _on(problem, only):
        equipment = uses[0].equipment
        spans = [_span(starts, use) for use in uses if only is None or use.step == only]
        begins = {_span(starts, use)[0] for use in uses}
        for at in sorted(begin for begin in begins if any(x <= begin < y for x, y in spans)):
            there = [use for use in uses if _span(starts, use)[0] <= at < _span(starts, use)[1]]
            taken = sum(use.amount for use in there)
            if taken > equipment.capacity:
                yield Broken(
                    "places", tuple(use.step for use in there), equipment.id, _no_room(problem, there, at, taken)
                )
                break


def _no_room(problem: Problem, there: list[Use], at: int, taken: int) -> str:
    equipment, names = there[0].equipment, ", ".join(problem.steps[use.step].task.title for use in there)
    return f"{equipment.title} has {equipment.capacity}, at {_hhmm(problem, at)} {taken} are wanted: {names}."


def _settings(problem: Problem, starts: Starts, only: int | None) -> Iterator[Broken]:
    for uses in _on(problem, only):
        equipment = uses[0].equipment
        rows = sorted((use for use in uses if use.setting_c is not None), key=lambda use: _span(starts, use))
        yield from _warm(problem, starts, rows)
        for i, one in enumerate(rows):
            for other in rows[i + 1 :]:
                if only is not None and only not in (one.step, other.step):
                    continue
                a, b = one.setting_c or 0.0, other.setting_c or 0.0
                if agree(equipment, a, b):
                    continue
                needed = problem.change_units(equipment, a, b)
                if _span(starts, other)[0] < _span(starts, one)[1] + needed:
                    names = f"{problem.steps[one.step].task.title} and {problem.steps[other.step].task.title}"
                    text = f"{equipment.title} cannot be {a:g} and {b:g} °C: {names}."
                    yield Broken("setting", (one.step, other.step), equipment.id, text)


def _warm(problem: Problem, starts: Starts, uses: list[Use]) -> Iterator[Broken]:
    """Time for equipment from its present temperature to the first setting."""
    for use in uses:
        equipment = use.equipment
        if equipment.start_c is None or problem.steps[use.step].fixed is not None:
            continue
        ready = problem.now + problem.change_units(equipment, equipment.start_c, use.setting_c or 0.0)
        if _span(starts, use)[0] < ready:
            text = f"{equipment.title} is at {use.setting_c:g} °C from {_hhmm(problem, ready)} on."
            yield Broken("warm", (use.step,), equipment.id, text)
