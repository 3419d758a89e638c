"""A finished cook of the demo: the simulated truth with its events and readings."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np

from ember.evaluate import evaluate
from ember.files.plan import Plan, parse_plan
from ember.files.stages import lasting
from ember.heat.simulate import simulate
from ember.heat.trajectory import Trajectory
from kitchen.accounts.models import Kitchen, Person
from kitchen.demo.simulated_probe import truth_of
from kitchen.kit.models import Probe
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook, CookEvent, ProbeUse, Reading
from kitchen.line.places import assign
from kitchen.line.starting import kept_result
from kitchen.logbook.actions import sign

READING_EVERY_S = 10.0
UP_FROM, DOWN_AT = dt.time(10, 0), dt.time(23, 30)  # nobody cooks in the small hours
NOISE_K = 0.08


def timed(plan: Plan, durations_s: list[float]) -> Plan:
    """A plan with the given stage durations."""
    stages = [lasting(stage, seconds) for stage, seconds in zip(plan.stages, durations_s, strict=True)]
    return plan.model_copy(update={"stages": stages})


def last_awake(kitchen: Kitchen) -> dt.datetime:
    """Now, or the end of the last evening while the galley sleeps."""
    now = kitchen.now().astimezone(kitchen.zone)
    evening = now.replace(hour=DOWN_AT.hour, minute=DOWN_AT.minute)
    return evening - dt.timedelta(days=1) if now.time() < UP_FROM else min(now, evening)


def past_cook(
    kitchen: Kitchen,
    people: dict[str, Person],
    probe: Probe,
    plan: Any,
    past: dict[str, Any],
    random: np.random.Generator,
) -> Cook:
    """Create one finished cook with its own true size and medium, its events and readings."""
    core = parse_plan(plan.document)
    result = evaluate(core)
    by = people[past["by"]]
    started = last_awake(kitchen) - dt.timedelta(hours=past["hours_ago"])
    cook = Cook.objects.create(
        kitchen=kitchen, plan=plan, name=plan.name, document=plan.document, started_at=started, started_by=by,
        result=kept_result(core, result),
    )  # fmt: skip
    kit = assign(kitchen, core)
    CookEvent.objects.create(cook=cook, kind="started", step=0, at=started, by=by, data={"kit": kit})
    durations = [run.end_s - run.start_s for run in result.stages]
    durations[core.pull_stage or 0] += past["pull_late_s"]
    truth = simulate(timed(truth_of(core, past["size"], past["medium_k"]), durations))
    status = CookStatus(cook, kitchen.now())
    shift = past["pull_late_s"]
    last_s = 0.0
    for step in status.steps[1:]:
        at_s = step.at_s + (shift if step.stage > (core.pull_stage or 0) else 0) + float(random.uniform(-2, 2))
        last_s = max(at_s, last_s + 1)
        CookEvent.objects.create(
            cook=cook, kind="done", step=step.number, at=started + dt.timedelta(seconds=last_s), by=by
        )
    finished = started + dt.timedelta(seconds=max(last_s, truth.end_s) + 40)
    add_readings(kitchen, cook, probe, truth, random, started, finished)
    check_data = dict(past["check"])
    if check_data["sense"] == "probe":
        check_data["core_c"] = round(float(truth.reading_c(truth.end_s)[0]), 1)
    CookEvent.objects.create(cook=cook, kind="checked", at=finished - dt.timedelta(seconds=15), by=by, data=check_data)
    CookEvent.objects.create(cook=cook, kind="finished", at=finished, by=by)
    cook.finished_at = finished
    cook.save(update_fields=["finished_at"])
    for note in past["corrections"]:
        CookEvent.objects.create(
            cook=cook, kind="corrected", at=finished + dt.timedelta(minutes=5), by=by, data={"note": note}
        )
    if past["signed_by"]:
        sign(cook, people[past["signed_by"]], "password")
    return cook


def add_readings(
    kitchen: Kitchen, cook: Cook, probe: Probe, truth: Trajectory, random: np.random.Generator, started: dt.datetime,
    finished: dt.datetime,
) -> None:  # fmt: skip
    """Add the probe's readings while the piece cooked, with a little noise."""
    ProbeUse.objects.create(cook=cook, probe=probe, during=(started, finished))
    t = np.arange(0.0, truth.end_s, READING_EVERY_S)
    celsius = truth.reading_c(t) + random.normal(0.0, NOISE_K, len(t))
    Reading.objects.bulk_create(
        Reading(
            kitchen=kitchen, probe=probe, at=started + dt.timedelta(seconds=float(s)),
            claimed_at=started + dt.timedelta(seconds=float(s)), celsius=round(float(c), 2),
        )
        for s, c in zip(t, celsius, strict=True)
    )  # fmt: skip
