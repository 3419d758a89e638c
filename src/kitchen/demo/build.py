"""Makes the demonstration kitchen in the database."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone

from ember.evaluate import evaluate
from ember.files.plan import Plan, parse_plan
from ember.files.stages import lasting
from ember.heat.simulate import simulate
from ember.heat.trajectory import Trajectory
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.models import BrinePlan
from kitchen.desk.kept import keep
from kitchen.eggs.models import EggPlan
from kitchen.kit.actions import add_device
from kitchen.kit.models import Equipment, KitCheck, Probe
from kitchen.kit.queries import boils_at_c
from kitchen.kit.simulated_probe import truth_of
from kitchen.line.models import Cook, CookEvent, ProbeUse, Reading
from kitchen.line.places import assign
from kitchen.line.queries import Following
from kitchen.line.starting import kept_result
from kitchen.logbook.actions import sign
from kitchen.plans import actions as plan_actions

from .batches import add_batches
from .book import add_entries
from .kitchen import (
    BRINES,
    CHECKS,
    DEVICE,
    EGGS,
    EQUIPMENT,
    KITCHEN,
    MORE_DEVICES,
    PASSWORD,
    PAST,
    PEOPLE,
    PLANS,
    PROBE_CHECKS,
    TAGS,
)
from .services import add_service

READING_EVERY_S = 10.0
NOISE_K = 0.08
SEED = 20261123


def timed(plan: Plan, durations_s: list[float]) -> Plan:
    """A plan with the given stage durations."""
    stages = [lasting(stage, seconds) for stage, seconds in zip(plan.stages, durations_s, strict=True)]
    return plan.model_copy(update={"stages": stages})


@transaction.atomic
def build(token: str, more: Mapping[str, str] | None = None) -> Kitchen:
    """The kitchen with its people, plans, kit and past cooks.

    `token` is the simulated probe's, `more` has those of the "wires" and of the "bath"'s controller.
    """
    now = timezone.now()
    kitchen = Kitchen.objects.create(is_demo=True, clock_set_at=now, clock_showed=now, **KITCHEN)
    people = {u: add_person(kitchen, u, name, PASSWORD, role) for u, name, role in PEOPLE}
    device, _ = add_device(kitchen, DEVICE, 1, token)
    probe = device.probes.get()
    _kit(kitchen, people["tobin"], probe)
    for key, (name, channels, fixed_in) in MORE_DEVICES.items():
        box, _ = add_device(kitchen, name, channels, (more or {}).get(key))
        if fixed_in:
            box.probes.update(fixed_in=Equipment.objects.get(kitchen=kitchen, name=fixed_in))
    plans = {}
    for document in PLANS:
        name = document["name"]
        plans[name] = plan_actions.create(kitchen, people["runa"], parse_plan(document), TAGS.get(name, ()))
    for row in EGGS:
        request = {key: value for key, value in row.items() if key != "name"}
        keep(EggPlan, kitchen, people["runa"], row["name"], {"format": "open-ember/egg", "version": 1, **request})
    for row in BRINES:
        request = {key: value for key, value in row.items() if key != "name"}
        keep(BrinePlan, kitchen, people["runa"], row["name"], request)
    add_batches(kitchen, people)
    add_service(kitchen, people["runa"], plans)
    add_entries(kitchen, people)
    random = np.random.default_rng(SEED)
    for past in PAST:
        _past_cook(kitchen, people, probe, plans[past["plan"]], past, random)
    return kitchen


def _kit(kitchen: Kitchen, person: Person, probe: Probe) -> None:
    """The equipment, and what its checks found."""
    there = {row["name"]: Equipment.objects.create(kitchen=kitchen, **row) for row in EQUIPMENT}

    def ago(days: int) -> dt.datetime:
        return kitchen.now() - dt.timedelta(days=days)

    for name, days, wanted_c, read_c in CHECKS:
        KitCheck.objects.create(
            kitchen=kitchen, equipment=there[name], kind="setting", wanted_c=wanted_c, read_c=read_c, at=ago(days),
            by=person,
        )  # fmt: skip
    for days, kind, read_c in PROBE_CHECKS:
        wanted_c = 0.0 if kind == "ice" else boils_at_c(kitchen)
        KitCheck.objects.create(
            kitchen=kitchen, probe=probe, kind=kind, wanted_c=wanted_c, read_c=read_c, at=ago(days), by=person
        )


def _past_cook(
    kitchen: Kitchen,
    people: dict[str, Person],
    probe: Probe,
    plan: Any,
    past: dict[str, Any],
    random: np.random.Generator,
) -> Cook:
    """One finished cook: the truth simulated with its own size and medium, the events that belong to it."""
    core = parse_plan(plan.document)
    result = evaluate(core)
    by = people[past["by"]]
    started = kitchen.now() - dt.timedelta(hours=past["hours_ago"])
    cook = Cook.objects.create(
        kitchen=kitchen, plan=plan, name=plan.name, document=plan.document, started_at=started, started_by=by,
        result=kept_result(core, result),
    )  # fmt: skip
    kit = assign(kitchen, core)
    CookEvent.objects.create(cook=cook, kind="started", step=0, at=started, by=by, data={"kit": kit})
    durations = [run.end_s - run.start_s for run in result.stages]
    durations[core.pull_stage or 0] += past["pull_late_s"]
    truth = simulate(timed(truth_of(core, past["size"], past["medium_k"]), durations))
    following = Following(cook, kitchen.now())
    shift = past["pull_late_s"]
    last_s = 0.0
    for step in following.steps[1:]:
        at_s = step.at_s + (shift if step.stage > (core.pull_stage or 0) else 0) + float(random.uniform(-2, 2))
        last_s = max(at_s, last_s + 1)
        CookEvent.objects.create(
            cook=cook, kind="done", step=step.number, at=started + dt.timedelta(seconds=last_s), by=by
        )
    finished = started + dt.timedelta(seconds=max(last_s, truth.end_s) + 40)
    _readings(kitchen, cook, probe, truth, random, started, finished)
    found = dict(past["check"])
    if found["sense"] == "probe":
        found["core_c"] = round(float(truth.reading_c(truth.end_s)[0]), 1)
    CookEvent.objects.create(cook=cook, kind="checked", at=finished - dt.timedelta(seconds=15), by=by, data=found)
    CookEvent.objects.create(cook=cook, kind="finished", at=finished, by=by)
    cook.finished_at = finished
    cook.save(update_fields=["finished_at"])
    for note in past["corrections"]:
        CookEvent.objects.create(
            cook=cook, kind="corrected", at=finished + dt.timedelta(minutes=5), by=by, data={"note": note}
        )
    if past["signed_by"]:
        sign(cook, people[past["signed_by"]])
    return cook


def _readings(
    kitchen: Kitchen, cook: Cook, probe: Probe, truth: Trajectory, random: np.random.Generator, started: dt.datetime,
    finished: dt.datetime,
) -> None:  # fmt: skip
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
