"""The evening the demonstration opens on. A crew cooks it through the application's own actions, on a clock that is
moved to each of their taps: one piece is late, one probe has slipped, one piece rests.
"""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.files.plan import parse_plan
from ember.service.task_ref import TaskKind
from ember.track.steps import step_from
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.actions import confirm
from kitchen.brines.models import BrinePlan
from kitchen.eggs.models import EggPlan
from kitchen.kit.models import Probe
from kitchen.line import actions as line_actions
from kitchen.line.board_view import action_queue
from kitchen.line.brine_cooks import start_brine
from kitchen.line.models import Cook, Reading
from kitchen.line.next_actions import NextAction
from kitchen.line.queries import running
from kitchen.line.starting import attach_probe
from kitchen.line.step_actions import start_steps
from kitchen.line.step_cooks import StepAction, steps_running
from kitchen.line.tasks import enqueue_forecast
from kitchen.plans.models import Plan
from kitchen.services import actions as service_actions
from kitchen.services import day
from kitchen.services.models import Service
from kitchen.services.planning import planned_at_once

from .clock import set_to
from .galley import MEDIUM_K, NOISE_K, SIZE, SLIPPED_IN
from .simulated_faults import SLIPPED_K
from .simulated_probe import channel_size, cooked_so_far, truth_of

OPENS = dt.time(19, 12)  # on the kitchen's clock, whatever the time outside
PLANNED, BEGINS = dt.time(16, 5), dt.time(16, 12)
EGGS_AT = dt.time(19, 8, 20)
BRINE_AT, BRINE_ON = dt.time(17, 30), dt.time(19, 30)  # on the day before
SERVICE: dict[str, Any] = {
    "name": "Supper, outbound", "covers": 34, "hands": 3, "opens": dt.time(15, 30), "closes": dt.time(22, 45),
}  # fmt: skip
# Plan, name, plate-up, portions, what is beside it, and the probe in it.
DISHES: list[tuple[str, str, dt.time, int, list[dict[str, Any]], tuple[str, str]]] = [
    ("Roe loin, juniper", "Roe loin", dt.time(19, 18), 3, [], ("Four wires", "3")),
    ("Lamb rump, kelp salt", "Lamb rump", dt.time(19, 22), 4, [], ("Four wires", "1")),
    ("Bosun's strip, smoked butter", "Smoked strip", dt.time(19, 45), 8, [{"id": "c1", "kind": "pan-sauce"}],
     ("Needle box", "1")),
    ("Haunch steaks, bramble", "Haunch steaks", dt.time(20, 5), 4, [{"id": "c1", "kind": "blanch", "name": "Kale"}],
     ("Four wires", "4")),
    ("Turkey for the long crossing", "Turkey", dt.time(20, 45), 10,
     [{"id": "c1", "kind": "stuffing", "name": "Oat dumplings", "minutes": 35}], ("Four wires", "2")),
    ("Chicken breast for the crossing", "Chicken breast", dt.time(20, 58), 12, [], ("", "")),
]  # fmt: skip
LATE = "Lamb rump, kelp salt"  # nobody has pulled it yet
SLIPPED_FOR_S = 420.0
EGGS, BRINE = "Rye and smoked herring", "Short ribs, cured"
CREW = ("tobin", "pell")
TAPPED_AFTER_S = (0.5, 4.0)  # how long after an action is due somebody taps it
READING_EVERY_S = 15.0
SEED = 1912


@dataclass
class _Evening:
    """Who cooks it and when it is."""

    kitchen: Kitchen
    people: Mapping[str, Person]
    day: dt.date
    random: np.random.Generator

    def at(self, time: dt.time, days: int = 0) -> dt.datetime:
        """A time of this day, or of one so many days later."""
        return dt.datetime.combine(self.day + dt.timedelta(days=days), time, self.kitchen.zone)

    def somebody(self) -> Person:
        """One of the crew."""
        return self.people[CREW[int(self.random.integers(len(CREW)))]]


def add_evening(kitchen: Kitchen, people: Mapping[str, Person], plans: Mapping[str, Plan]) -> Service:
    """Cook the evening up to `OPENS`, where the clock is left running; the kitchen's clock must show that day."""
    today = kitchen.now().astimezone(kitchen.zone).date()
    evening = _Evening(kitchen, people, today, np.random.default_rng(SEED))
    opens = evening.at(OPENS)
    set_to(kitchen, evening.at(BRINE_AT, -1))
    _start_brine(evening)
    set_to(kitchen, evening.at(PLANNED))
    service = _planned(evening, plans)
    set_to(kitchen, evening.at(BEGINS))
    day.begin(service, people["runa"])
    _cook_until(evening, evening.at(EGGS_AT))
    set_to(kitchen, evening.at(EGGS_AT))
    eggs = EggPlan.objects.of(kitchen).current().get(name=EGGS)
    boiled = start_steps(kitchen, people["pell"], eggs.name, eggs.document, uuid.uuid4())
    _cook_until(evening, opens)
    set_to(kitchen, opens)
    for cook in Cook.objects.of(kitchen).of_plans().filter(finished_at=None).exclude(waits=True).with_history():
        _add_readings(evening, cook, opens)
    enqueue_forecast(boiled)
    return service


def _start_brine(evening: _Evening) -> None:
    """Yesterday's brine, confirmed by a second person."""
    brine = BrinePlan.objects.of(evening.kitchen).current().get(name=BRINE)
    confirm(brine, evening.people["tobin"], "password")
    start_brine(brine, evening.people["pell"], uuid.uuid4(), "Walk-in")
    _cook_until(evening, evening.at(BRINE_ON, -1))


def _planned(evening: _Evening, plans: Mapping[str, Plan]) -> Service:
    """The service with its dishes, planned."""
    chef = evening.people["runa"]
    service = service_actions.create(evening.kitchen, chef, SERVICE)
    for plan, name, plate_up, portions, beside, _ in DISHES:
        values = {
            "name": name, "plan": plans[plan], "plate_up": evening.at(plate_up), "portions": portions,
            "companions": beside,
        }  # fmt: skip
        service_actions.put_dish(service, chef, values)
    with planned_at_once():
        service_actions.work_out(service, chef)
    service.refresh_from_db()
    if not service.fits:
        raise RuntimeError("The demonstration's evening does not fit its kitchen.")
    return service


def _cook_until(evening: _Evening, until: dt.datetime) -> None:
    """Tap each action soon after it is due, as the line shows them, but for the one that is late."""
    kitchen = evening.kitchen
    left: set[str] = set()
    while True:
        now = kitchen.now()
        queue = action_queue(kitchen, running(kitchen), steps_running(kitchen, now), now)
        action = next((each for each in queue if _key(each) not in left), None)
        if action is None:
            return
        late = dt.timedelta(seconds=float(evening.random.uniform(*TAPPED_AFTER_S)))
        at = max(action.due_at + _takes(action) + late, now + dt.timedelta(seconds=1))
        if at >= until:
            return
        if _stays(action):
            left.add(_key(action))
            continue
        set_to(kitchen, at)
        _tap(evening, action)


def _takes(action: Any) -> dt.timedelta:
    """How long an action takes before it is tapped: preparation is told once, when it is done."""
    if isinstance(action, NextAction | StepAction) or action.task.ref.kind is not TaskKind.PREP:
        return dt.timedelta()
    return dt.timedelta(seconds=(action.task.end - action.task.start).total_seconds() - TAPPED_AFTER_S[1])


def _key(action: Any) -> str:
    if isinstance(action, NextAction):
        return action.key
    if isinstance(action, StepAction):
        return f"{action.status.cook.pk}:{action.step.number if action.step else 'end'}"
    return f"{action.task.key}:{action.begins}"


def _stays(action: Any) -> bool:
    """Whether nobody gets to an action in time: the pull of the late piece, and checks, which need a reading."""
    if isinstance(action, NextAction):
        pulled = action.step is not None and action.step == action.status.pull_step
        return action.is_check or (pulled and action.status.cook.name == LATE)
    if isinstance(action, StepAction):
        return action.step is None
    task = action.task  # nobody turns up the oven that the late piece is still in
    return task.ref.kind is TaskKind.SETTING and task.id.endswith("-c1")


def _tap(evening: _Evening, action: Any) -> None:
    """Do one action as the crew would, with the probe of the piece put in when its cook begins."""
    person = evening.somebody()
    if isinstance(action, NextAction):
        for each in action.together:
            if each.step is not None:
                status = each.status
                line_actions.do_step(status.cook, person, each.step.number, uuid.uuid4(), status.steps)
    elif isinstance(action, StepAction):
        if action.step is not None:
            by_steps: Any = action.status
            line_actions.do_step(by_steps.cook, person, action.step.number, uuid.uuid4(), by_steps.steps)
    else:
        dish = action.service.dishes.get(pk=action.task.dish)
        means = "begin" if action.begins else "end"
        cook = day.tap(action.service, person, dish, action.task.id, action.task.n, uuid.uuid4(), means)
        device, code = next((wire for plan, *_, wire in DISHES if dish.plan and plan == dish.plan.name), ("", ""))
        if cook is not None and device:
            probe = Probe.objects.of(evening.kitchen).get(device__name=device, code=code)
            attach_probe(cook, probe, cook.kitchen.now())


def _add_readings(evening: _Evening, cook: Cook, until: dt.datetime) -> None:
    """What its probe has shown so far; that of the slipped one jumps."""
    steps = [step_from(step) for step in cook.result["steps"]]
    events = [
        {"kind": str(event.kind), "step": event.step, "at": event.at.isoformat()}
        for event in cook.history
        if event.step is not None
    ]
    for use in cook.probe_history:
        truth = truth_of(parse_plan(cook.document), SIZE * channel_size(use.probe.code), MEDIUM_K)
        ran = cooked_so_far(truth, steps, events, cook.started_at, until)
        t = np.arange(0.0, ran.end_s, READING_EVERY_S)
        shown = ran.reading_c(t) + evening.random.normal(0.0, NOISE_K, len(t))
        if cook.name == SLIPPED_IN:
            shown[t > ran.end_s - SLIPPED_FOR_S] += SLIPPED_K
        at = [cook.started_at + dt.timedelta(seconds=float(s)) for s in t]
        Reading.objects.bulk_create(
            Reading(kitchen=cook.kitchen, probe=use.probe, at=when, claimed_at=when, celsius=round(float(c), 2))
            for when, c in zip(at, shown, strict=True)
        )
        enqueue_forecast(cook)
