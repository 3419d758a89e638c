"""Weeks of finished cooks for trends, calls and calibration. All of it is made up."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

import numpy as np

from ember.evaluate import evaluate
from ember.files.plan import Plan, parse_plan
from ember.files.result import Result
from ember.heat.simulate import simulate
from ember.kit.equipment import held_in
from kitchen.accounts.models import Kitchen, Person
from kitchen.demo.simulated_probe import truth_of
from kitchen.kit.models import Equipment, Probe, Taught
from kitchen.learning import actions as learning
from kitchen.line.errors import LineError
from kitchen.line.models import Cook, CookEvent
from kitchen.line.places import equipment_snapshot
from kitchen.line.starting import kept_result
from kitchen.logbook.actions import sign

from .clock import set_to
from .past import add_readings, timed

WEEKS, A_WEEK = 7, 5
SEED = 417
# What each oven truly is off, K, and how much single cooks differ.
TRUE_OFF_K = {"Oven 1": -9.0, "Oven 2": 2.0}
COOK_K, COOK_SIZE = 2.5, 0.045
LATE_S, LOST_PCT = 35.0, 1.2
FROM_TIME, DAY_H = dt.time(11, 10), 7.0
STAYS_AT_MOST = 2.0  # times as long as planned
LEARNED, LEARNED_AGO = "Oven 1", dt.timedelta(days=2)
STUDIED = 18  # cooks: enough for that oven, and a start that is not kept waiting
UNSIGNED = 3  # of the newest
NEWEST_DAYS = 3.0  # ago: before the evening of the galley's last cooks, which went by the same probe
# Plans in turn, with the oven of each.
IN_TURN = [
    ("Chicken breast for the crossing", "Oven 1"), ("Lamb rump, kelp salt", "Oven 1"),
    ("Harbour cod, brown shrimp", "Oven 2"), ("Eye of round for the cold table", "Oven 1"),
    ("Lamb rump, kelp salt", "Oven 1"),
]  # fmt: skip
BY = ("tobin", "pell")


@dataclass(frozen=True)
class _Known:
    """A plan with its result, worked out once."""

    plan: Any
    core: Plan
    result: Result
    kept: dict[str, Any]


def add_weeks(
    kitchen: Kitchen, people: dict[str, Person], probe: Probe, plans: dict[str, Any], weeks: int = WEEKS
) -> None:
    """Create a few cooks a week, each with its own truth; signed, except in the newest week."""
    random = np.random.default_rng(SEED)
    there = {item.name: item for item in Equipment.objects.of(kitchen)}
    known: dict[str, _Known] = {}
    for number in range(weeks * A_WEEK):
        name, oven = IN_TURN[number % len(IN_TURN)]
        if name not in known:
            core = parse_plan(plans[name].document)
            result = evaluate(core)
            known[name] = _Known(plans[name], core, result, kept_result(core, result))
        days = NEWEST_DAYS + 7.0 * weeks - 7.0 * (number + 1) / A_WEEK
        person = people[BY[number % len(BY)]]
        cook = _cook(kitchen, known[name], there[oven], person, probe, days, random)
        if number < weeks * A_WEEK - UNSIGNED:
            _signed(cook, people["runa"], person)


def _signed(cook: Cook, chef: Person, person: Person) -> None:
    try:
        sign(cook, chef, "password")
    except LineError:  # its rule was missed: with a word of what was done about it
        note = {"note": "Back in for a few minutes, then read again."}
        CookEvent.objects.create(
            cook=cook, kind="corrected", at=cook.finished_at or cook.started_at, by=person, data=note
        )
        sign(cook, chef, "password")


def _in_the_day(kitchen: Kitchen, days: float, random: np.random.Generator) -> dt.datetime:
    """A time between late morning and supper, so many days ago."""
    day = (kitchen.now() - dt.timedelta(days=days)).astimezone(kitchen.zone).date()
    begin = dt.datetime.combine(day, FROM_TIME, kitchen.zone)
    return begin + dt.timedelta(hours=float(random.uniform(0.0, DAY_H)))


def _pulled_late_s(really: Plan, durations_s: list[float], pull: int, reading_c: float) -> float:
    """How much later than planned the probe really shows the temperature to pull at, s: cooks go by the probe."""
    longer = [*durations_s[:pull], STAYS_AT_MOST * durations_s[pull]]
    ran = simulate(timed(really.model_copy(update={"stages": really.stages[: pull + 1]}), longer))
    t = np.arange(sum(durations_s[:pull]), ran.end_s, 5.0)
    there = np.flatnonzero(ran.reading_c(t) >= reading_c)
    at_s = float(t[there[0]]) if len(there) else ran.end_s
    return at_s - sum(durations_s[: pull + 1])


def _cook(
    kitchen: Kitchen, known: _Known, oven: Equipment, person: Person, probe: Probe, days: float,
    random: np.random.Generator,
) -> Cook:  # fmt: skip
    started = _in_the_day(kitchen, days, random)
    cook = Cook.objects.create(
        kitchen=kitchen, plan=known.plan, name=known.plan.name, document=known.plan.document, started_at=started,
        started_by=person, result=known.kept,
    )  # fmt: skip
    kit = {str(i): equipment_snapshot(oven) for i, stage in enumerate(known.core.stages) if held_in(stage) == "oven"}
    CookEvent.objects.create(cook=cook, kind="started", step=0, at=started, by=person, data={"kit": kit})
    pull = known.core.pull_stage or 0
    durations = [run.end_s - run.start_s for run in known.result.stages]
    medium_k = TRUE_OFF_K[oven.name] + float(random.normal(0, COOK_K))
    really = truth_of(known.core, float(np.exp(random.normal(0, COOK_SIZE))), medium_k)
    late_s = _pulled_late_s(really, durations, pull, known.result.stages[pull].reading_c)
    late_s = max(late_s + float(random.normal(LATE_S, 40.0)), 0.5 * (30.0 - durations[pull]))
    durations[pull] += late_s
    truth = simulate(timed(really, durations))
    at_s = 0.0
    for step in known.kept["steps"][1:]:
        wanted = step["at_s"] + (late_s if step["stage"] > pull else 0.0) + float(random.uniform(-2, 2))
        at_s = max(wanted, at_s + 1)
        at = started + dt.timedelta(seconds=at_s)
        CookEvent.objects.create(cook=cook, kind="done", step=step["number"], at=at, by=person)
    finished = started + dt.timedelta(seconds=max(at_s, truth.end_s) + 30)
    add_readings(kitchen, cook, probe, truth, random, started, finished)
    went_in = (known.core.piece.mass_g or 0.0) * known.core.piece.count
    out_pct = 100.0 * (1.0 - truth.water_lost_share) + float(random.normal(-1.0, LOST_PCT))
    data = {
        "sense": "probe", "sense_name": "Probe in the core",
        "core_c": round(float(truth.reading_c(truth.end_s)[0]), 1), "weighed_g": round(went_in * out_pct / 100.0),
    }  # fmt: skip
    last = finished - dt.timedelta(seconds=10)
    data = {key: value for key, value in data.items() if value}
    CookEvent.objects.create(cook=cook, kind="checked", at=last, by=person, data=data)
    CookEvent.objects.create(cook=cook, kind="finished", at=finished, by=person)
    cook.finished_at = finished
    cook.save(update_fields=["finished_at"])
    return cook


def add_learned(kitchen: Kitchen, chef: Person) -> None:
    """What the chef accepted two days ago of a study of the cooks before: how far an oven is off."""
    set_to(kitchen, kitchen.now() - LEARNED_AGO)
    study = learning.ask(kitchen, chef)
    learning.make(study, STUDIED)
    study.refresh_from_db()
    for row in study.found or []:
        if row["name"] == LEARNED and row["kind"] == Taught.Kind.OVEN and not row["why_not"]:
            learning.accept(study, row["kind"], row["key"], chef)
    set_to(kitchen, kitchen.now() + LEARNED_AGO)  # the study took its time
