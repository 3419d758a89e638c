"""Small changes that make a service fit, each tested before it is offered."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping

from ..files.service import ServiceRequest, TaskIn, UseIn, WouldFit
from .hearing import say
from .model import HANDS, Relaxed, make_model
from .problem import Problem, Step, make_problem
from .solve import Found, run

TRY_S = 1.5
LATEST_MIN = 240.0  # later than this is no small change
LARGE_MIN = 1440.0
MORE_PLACES = (2, 4, 8, 16)
MOST_FITS, MOST_LARGE = 6, 3
Candidate = tuple[ServiceRequest, WouldFit]


def fits(problem: Problem, relaxed: Relaxed | None = None) -> bool | None:
    """Whether there is a plan; None if unknown within the time of a try."""
    solution = run(make_model(problem, relaxed, goals=False), TRY_S, first_only=True)
    return True if solution.starts else False if solution.status == "infeasible" else None


def least_late(problem: Problem, base: Relaxed, dishes: frozenset[str], most_min: float = LATEST_MIN) -> Found:
    """A plan with these dishes as little late as possible, others on time."""
    most = problem.units_up(most_min)
    relaxed = Relaxed(base.equipment, base.dishes, base.uses, dishes, most)
    model = make_model(problem, relaxed, goals=False)
    model.cp.minimize(sum(model.late.values()))
    return run(model, TRY_S)


def spell(minutes: float) -> str:
    """Minutes in words."""
    hours, rest = divmod(round(minutes), 60)
    return f"{rest} min" if not hours else f"{hours} h" if not rest else f"{hours} h {rest} min"


def would_fit(problem: Problem, steps: list[int], rows: list[str], plates: list[str], until: float) -> list[WouldFit]:
    """Changes that fit, the cheapest first; as many as are found before `until` on the performance counter.

    If none makes the whole service fit there is more than one clash: then those that settle this one, marked so.
    Staggered plate-ups settle all of them. If nothing small settles all: the large changes that would.
    """
    fitting = _tried(problem, problem.request, [problem.steps[i] for i in steps], rows, plates, until)
    if not fitting and len(plates) < len(problem.request.dishes):
        part = problem.request.model_copy(
            update={"dishes": [dish for dish in problem.request.dishes if dish.id in plates]}
        )
        some = _tried(make_problem(part), part, [problem.steps[i] for i in steps], rows, plates, until)
        fitting = [fit.model_copy(update={"settles_all": False}) for fit in some]
    if (late := _staggered(problem, LATEST_MIN)) is not None:
        fitting.append(late)
    small = sorted(fitting, key=lambda fit: fit.price_min)[:MOST_FITS]
    if any(fit.settles_all for fit in small):
        return small
    large = large_changes(problem, rows, plates)
    return small[: MOST_FITS - len(large)] + large


def _tried(
    problem: Problem, request: ServiceRequest, clashing: list[Step], rows: list[str], plates: list[str], until: float
) -> list[WouldFit]:
    fitting: list[WouldFit] = []
    for changed, fit in _candidates(request, clashing, rows):
        if time.perf_counter() > until:
            break
        say(f"Trying a change: {fit.text}")
        if fits(make_problem(changed)):
            fitting.append(fit)
    for key in plates:
        if (late := _later(problem, key)) is not None:
            fitting.append(late)
    return fitting


def _staggered(problem: Problem, most_min: float, large: bool = False) -> WouldFit | None:
    """All plate-ups as little later as possible, each as it must; None for one dish or if nothing helps."""
    dishes = problem.request.dishes
    if len(dishes) < 2:
        return None
    say("Trying a change: stagger the plates")
    plan = least_late(problem, Relaxed(), frozenset(dish.id for dish in dishes), most_min)
    moved = {key: late for key, late in plan.late.items() if late > 0} if plan.starts else {}
    if not moved or (len(moved) < 2 and not large):  # one dish alone is told as such
        return None
    plates = {
        dish.id: problem.moment(problem.at_down(dish.plate_up) + moved[dish.id]) for dish in dishes if dish.id in moved
    }
    names = {dish.id: dish.title for dish in dishes}
    in_order = sorted(plates.items(), key=lambda pair: pair[1])
    words = ", ".join(f"{names[key]} at {at:%H:%M}" for key, at in in_order)
    return WouldFit(
        change={"plate_ups": {key: at.isoformat() for key, at in plates.items()}}, text=f"Stagger the plates: {words}",
        price_min=problem.minutes(sum(moved.values())), large=large,
    )  # fmt: skip


def large_changes(problem: Problem, rows: list[str], plates: list[str]) -> list[WouldFit]:
    """What would make it fit if nothing small does: hours later, more equipment, a dish less."""
    changes = []
    if (late := _staggered(problem, LARGE_MIN, large=True)) is not None:
        changes.append(late)
    for key in rows:
        if (more := _many_more(problem.request, key)) is not None:
            changes.append(more)
    for key in plates:
        title = next(dish.title for dish in problem.request.dishes if dish.id == key)
        say(f"Trying it without {title}")
        if len(problem.request.dishes) > 1 and fits(problem, Relaxed(dishes=frozenset([key]))):
            changes.append(WouldFit(change={"without": key}, text=f"Without {title}", price_min=LARGE_MIN, large=True))
    if not changes:
        titles = " and ".join(dish.title for dish in problem.request.dishes if dish.id in plates) or "This"
        text = f"{titles}: neither more room, nor more hands, nor {spell(LARGE_MIN)} more would do. Change the plan"
        changes.append(WouldFit(change={}, text=text, price_min=LARGE_MIN, large=True))
    return changes[:MOST_LARGE]


def _many_more(request: ServiceRequest, key: str) -> WouldFit | None:
    """The number of additional places of one kind that makes it fit, by doubling."""
    equipment = next(equipment for equipment in request.equipment if equipment.id == key)
    for more in MORE_PLACES:
        rows = [
            each.model_copy(update={"capacity": each.capacity + more}) if each.id == key else each
            for each in request.equipment
        ]
        say(f"Trying {more} more on {equipment.title}")
        if fits(make_problem(request.model_copy(update={"equipment": rows}))):
            what = f"{more} more cooks" if equipment.kind == HANDS else f"{more} more places on {equipment.title}"
            change = {"equipment": key, "capacity": equipment.capacity + more}
            return WouldFit(change=change, text=what, price_min=LATEST_MIN, large=True)
    return None


def _later(problem: Problem, key: str) -> WouldFit | None:
    dish = next(dish_row for dish_row in problem.request.dishes if dish_row.id == key)
    latest = least_late(problem, Relaxed(), frozenset([key]))
    if not latest.starts:
        return None
    minutes = problem.minutes(latest.late[key])
    plate = problem.moment(problem.at_down(dish.plate_up) + latest.late[key])
    return WouldFit(
        change={"dish": key, "plate_up": plate.isoformat()}, price_min=minutes,
        text=f"{dish.title} at {plate:%H:%M}, {spell(minutes)} later",
    )  # fmt: skip


def _candidates(request: ServiceRequest, clashing: list[Step], rows: list[str]) -> Iterator[Candidate]:
    """Each small change as its request, with its words."""
    tasks = list({step.key: step for step in clashing}.values())
    for step in tasks:
        yield from _other_settings(request, step)
    for step in tasks:
        for use in step.task.uses:
            if use.equipment in rows:
                yield from _other_equipment(request, step, use)
    for key in rows:
        yield _one_more(request, key)


def _with(request: ServiceRequest, step: Step, change: Mapping[str, object]) -> ServiceRequest:
    """The request with one task changed."""

    def told(task: TaskIn) -> TaskIn:
        return task.model_copy(update=change) if task.id == step.task.id else task

    dishes = [
        dish_row.model_copy(update={"tasks": [told(task) for task in dish_row.tasks]})
        if dish_row.id == step.dish.id
        else dish_row
        for dish_row in request.dishes
    ]
    return request.model_copy(update={"dishes": dishes})


def _other_settings(request: ServiceRequest, step: Step) -> Iterator[Candidate]:
    """The task at another setting, with its duration there."""
    for choice in step.task.other_settings:
        uses = [
            use if use.setting_c is None else use.model_copy(update={"setting_c": choice.setting_c})
            for use in step.task.uses
        ]
        longer = choice.minutes - step.task.minutes
        words = "as long" if not longer else f"{spell(abs(longer))} {'longer' if longer > 0 else 'shorter'}"
        fit = WouldFit(
            change={"task": step.key, "setting_c": choice.setting_c, "minutes": choice.minutes},
            text=f"{step.task.title} at {choice.setting_c:g} °C, {words}", price_min=abs(longer),
        )  # fmt: skip
        yield _with(request, step, {"uses": uses, "minutes": choice.minutes}), fit


def _other_equipment(request: ServiceRequest, step: Step, use: UseIn) -> Iterator[Candidate]:
    """The task on another piece of the same kind."""
    there = next(machine for machine in request.equipment if machine.id == use.equipment)
    for other in request.equipment:
        if other.id == there.id or other.kind != there.kind or other.capacity < use.amount:
            continue
        uses = [
            machine.model_copy(update={"equipment": other.id}) if machine == use else machine
            for machine in step.task.uses
        ]
        fit = WouldFit(
            change={"task": step.key, "from": use.equipment, "equipment": other.id},
            text=f"{step.task.title} in {other.title}", price_min=0.0,
        )  # fmt: skip
        yield _with(request, step, {"uses": uses}), fit


def _one_more(request: ServiceRequest, key: str) -> Candidate:
    """One more place: offered last, since it is seldom available."""
    machine = next(machine for machine in request.equipment if machine.id == key)
    more = [
        each.model_copy(update={"capacity": each.capacity + 1}) if each.id == key else each
        for each in request.equipment
    ]
    text = "One more cook" if machine.kind == HANDS else f"One more place on {machine.title}"
    fit = WouldFit(change={"equipment": key, "capacity": machine.capacity + 1}, text=text, price_min=LATEST_MIN)
    return request.model_copy(update={"equipment": more}), fit
