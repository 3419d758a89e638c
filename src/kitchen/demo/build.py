"""Builds the demonstration kitchen in the database."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from pathlib import Path

import numpy as np
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from ember.files.plan import parse_plan
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Kitchen, Membership, Person
from kitchen.brines.models import BrinePlan
from kitchen.desk.saved_requests import save_request
from kitchen.eggs.models import EggPlan
from kitchen.kit.actions import add_device
from kitchen.kit.models import Device, Equipment, KitCheck, Probe
from kitchen.kit.queries import boils_at_c
from kitchen.plans import actions as plan_actions

from .batches import add_batches
from .book import add_entries, add_schedule
from .clock import set_to
from .evening import OPENS, add_evening
from .faces import add_faces
from .group import ASHORE, CHEF, add_group
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
from .simulated_probe import DEVICES
from .weeks import add_learned, add_weeks

SEED = 20261123


@transaction.atomic
def build(token: str, more: Mapping[str, str] | None = None, weeks: bool = False, evening: bool = False) -> Kitchen:
    """Create the kitchen with people, plans, equipment and past cooks; with `weeks` of them for trends; in the
    middle of an `evening`, on whatever clock outside.

    `token` is the simulated probe's; `more` holds those of the "wires" and of the controller of the "bath".
    """
    now = timezone.now()
    kitchen = Kitchen.objects.create(is_demo=True, clock_set_at=now, clock_showed=now, **KITCHEN)
    if evening:
        set_to(kitchen, dt.datetime.combine(now.astimezone(kitchen.zone).date(), OPENS, kitchen.zone))
    people = {u: _person(kitchen, u, name, role) for u, name, role in PEOPLE}
    device, _ = add_device(kitchen, DEVICE, 1, token)
    probe = device.probes.get()
    for item in EQUIPMENT:
        Equipment.objects.create(kitchen=kitchen, **item)
    for key, (name, channels, fixed_in) in MORE_DEVICES.items():
        box, _ = add_device(kitchen, name, channels, (more or {}).get(key))
        if fixed_in:
            box.probes.update(fixed_in=Equipment.objects.get(kitchen=kitchen, name=fixed_in))
    _checks(kitchen, people["tobin"])
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
    add_schedule(kitchen)
    random = np.random.default_rng(SEED)
    cooks = [past_cook(kitchen, people, probe, plans[past["plan"]], past, random) for past in PAST]
    if weeks:
        add_faces(cooks, PAST)
        add_weeks(kitchen, people, probe, plans)
        add_practice(kitchen, people)
        add_learned(kitchen, people["runa"])
        ashore = Kitchen.objects.create(is_demo=True, clock_set_at=now, clock_showed=kitchen.clock_showed, **ASHORE)
        add_group(kitchen, people["runa"], _person(ashore, *CHEF), ashore)
    if evening:
        add_evening(kitchen, people, plans)
    return kitchen


def load(folder: Path, quiet: bool = False) -> Kitchen:
    """Build the demonstration, with the tokens of its simulated devices in a folder; in the middle of its evening and
    with weeks behind it, or `quiet`: with its plans and nothing on the line.
    """
    tokens = {device: Device.new_token() for device in DEVICES}
    kitchen = build(tokens["probe"], tokens, weeks=not quiet, evening=not quiet)
    for device, name in DEVICES.items():
        path = folder / name
        path.touch(mode=0o600)
        path.write_text(tokens[device])
    return kitchen


@transaction.atomic
def build_again(before: Kitchen) -> Kitchen:
    """Build the demonstration anew for the people of one that was played with. That one stays, since records are never
    deleted, but nobody belongs to it any more.
    """
    there = list(before.memberships.select_for_update().filter(left_at=None).select_related("person"))
    before.memberships.update(left_at=timezone.now())
    kitchen = load(settings.LOCAL)
    known = set(kitchen.memberships.values_list("person_id", flat=True))
    Membership.objects.bulk_create(
        Membership(person=row.person, kitchen=kitchen, role=row.role, last_day=row.last_day)
        for row in there
        if row.person_id not in known
    )
    return kitchen


def _person(kitchen: Kitchen, username: str, name: str, role: str) -> Person:
    """A person of the demonstration: the one who is there, or a new one."""
    person = Person.objects.filter(username=username).first()
    if person is None:
        return add_person(kitchen, username, name, PASSWORD, role)
    Membership.objects.create(person=person, kitchen=kitchen, role=role)
    return person


def _checks(kitchen: Kitchen, person: Person) -> None:
    """Create the checks of equipment and probes."""
    there = {item.name: item for item in Equipment.objects.of(kitchen)}

    def ago(days: int) -> dt.datetime:
        return kitchen.now() - dt.timedelta(days=days)

    for name, days, wanted_c, read_c in CHECKS:
        KitCheck.objects.create(
            kitchen=kitchen, equipment=there[name], kind="setting", wanted_c=wanted_c, read_c=read_c, at=ago(days),
            by=person,
        )  # fmt: skip
    for device, code, days, kind, read_c in PROBE_CHECKS:
        probe = Probe.objects.of(kitchen).get(device__name=device, code=code)
        wanted_c = 0.0 if kind == "ice" else boils_at_c(kitchen)
        KitCheck.objects.create(
            kitchen=kitchen, probe=probe, kind=kind, wanted_c=wanted_c, read_c=read_c, at=ago(days), by=person
        )
