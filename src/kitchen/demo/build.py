"""Builds the demonstration kitchen in the database."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping

import numpy as np
from django.db import transaction
from django.utils import timezone

from ember.files.plan import parse_plan
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.models import BrinePlan
from kitchen.desk.saved_requests import save_request
from kitchen.eggs.models import EggPlan
from kitchen.kit.actions import add_device
from kitchen.kit.models import Equipment, KitCheck, Probe
from kitchen.kit.queries import boils_at_c
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
from .past import past_cook
from .practice import add_practice
from .services import add_service
from .weeks import add_weeks

SEED = 20261123


@transaction.atomic
def build(token: str, more: Mapping[str, str] | None = None, weeks: bool = False) -> Kitchen:
    """Create the kitchen with people, plans, equipment and past cooks; with `weeks` of them for trends.

    `token` is the simulated probe's; `more` holds those of the "wires" and of the controller of the "bath".
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
    for egg_data in EGGS:
        request = {key: value for key, value in egg_data.items() if key != "name"}
        save_request(
            EggPlan, kitchen, people["runa"], egg_data["name"], {"format": "open-ember/egg", "version": 1, **request}
        )
    for egg_data in BRINES:
        request = {key: value for key, value in egg_data.items() if key != "name"}
        save_request(BrinePlan, kitchen, people["runa"], egg_data["name"], request)
    add_batches(kitchen, people)
    add_service(kitchen, people["runa"], plans)
    add_entries(kitchen, people)
    random = np.random.default_rng(SEED)
    for past in PAST:
        past_cook(kitchen, people, probe, plans[past["plan"]], past, random)
    if weeks:
        add_weeks(kitchen, people, probe, plans)
        add_practice(kitchen, people)
    return kitchen


def _kit(kitchen: Kitchen, person: Person, probe: Probe) -> None:
    """Create the equipment and its checks."""
    there = {item["name"]: Equipment.objects.create(kitchen=kitchen, **item) for item in EQUIPMENT}

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
