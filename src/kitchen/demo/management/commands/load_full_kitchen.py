"""Loads kitchens full of running cooks for the load test of the line."""

from __future__ import annotations

import datetime as dt
import json
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Membership, Person, hash_token
from kitchen.demo.kitchen import PASSWORD, PLANS
from kitchen.kit.models import Device, Probe
from kitchen.line.models import Cook, CookEvent, ProbeUse, Reading
from kitchen.line.starting import kept_result

BEGUN_S = 600.0  # its longest stage began at most so long ago
STAYS_S = 600.0  # so long each goes on as it is: nobody taps while the line is measured
CURVE_POINTS = 60


class Command(BaseCommand):
    """Called by `./ember bench line`; prints people and devices as JSON."""

    help = "Load kitchens full of running cooks, each with a device and its probes."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--kitchens", type=int, default=1)
        parser.add_argument("--cooks", type=int, default=200)
        parser.add_argument("--probes", type=int, default=4)
        parser.add_argument("--names", default="load", help="what its people are called")
        parser.add_argument("--every", type=float, default=5.0, help="seconds between readings")

    def handle(self, *args: Any, **options: Any) -> None:
        random = np.random.default_rng(20261125)
        results = []
        for document in PLANS:
            core = parse_plan(document)
            results.append((document, kept_result(core, evaluate(core))))
        names, devices = [], []
        for k in range(options["kitchens"]):
            kitchen = Kitchen.objects.create(name=f"MV Tern Island, {options['names']} {k + 1}", place="Galley")
            person = Person.objects.create_user(f"{options['names']}{k + 1}", password=PASSWORD, name=f"Watch {k + 1}")
            Membership.objects.create(person=person, kitchen=kitchen, role=Membership.Role.CHEF)
            names.append(person.username)
            share = options["cooks"] // options["kitchens"]
            for number in range(share):
                document, result = results[number % len(results)]
                devices.append(_cook(kitchen, person, number, document, result, random, options))
        self.stdout.write(json.dumps({"people": names, "password": PASSWORD, "devices": devices}))


def _cook(
    kitchen: Kitchen, person: Person, number: int, document: dict[str, Any], result: dict[str, Any],
    random: np.random.Generator, options: dict[str, Any],
) -> dict[str, Any]:  # fmt: skip
    """A cook in the middle of its longest stage, with its earlier steps done, its device and the readings so far."""
    now = timezone.now()
    pace = float(random.uniform(0.85, 1.15))
    begun_s = _moment_s(result, random) / pace
    started = now - dt.timedelta(seconds=begun_s)
    cook = Cook.objects.create(
        kitchen=kitchen, name=f"{document['name']} {number + 1}", document=document, result=result, started_at=started,
        started_by=person,
    )  # fmt: skip
    CookEvent.objects.create(cook=cook, kind=CookEvent.Kind.STARTED, step=0, at=started, by=person)
    for step in result["steps"][1:]:
        if step["at_s"] / pace < begun_s:
            at_step = started + dt.timedelta(seconds=step["at_s"] / pace)
            CookEvent.objects.create(cook=cook, kind=CookEvent.Kind.DONE, step=step["number"], at=at_step, by=person)
    token = Device.new_token()
    device = Device.objects.create(kitchen=kitchen, name=f"Wires {number + 1}", token_hash=hash_token(token))
    probes = Probe.objects.bulk_create(
        Probe(kitchen=kitchen, device=device, code=str(i + 1), name=f"Wires {number + 1}.{i + 1}")
        for i in range(options["probes"])
    )
    ProbeUse.objects.bulk_create(ProbeUse(cook=cook, probe=probe, during=(started, None)) for probe in probes)
    curves = result["curves"]
    at = np.arange(0.0, begun_s, options["every"])
    shown = np.interp(at * pace, curves["t_s"], curves["reading_c"])
    rows = []
    for probe in probes:
        noisy = np.round(shown + 0.2 * random.standard_normal(len(at)), 2)
        for s, c in zip(at, noisy, strict=True):
            moment = started + dt.timedelta(seconds=float(s))
            rows.append(Reading(kitchen=kitchen, probe=probe, at=moment, claimed_at=moment, celsius=float(c)))
    Reading.objects.bulk_create(rows, batch_size=2000)
    some = np.linspace(0, len(curves["t_s"]) - 1, CURVE_POINTS).astype(int)
    return {
        "token": token, "probes": [probe.code for probe in probes], "started_at": started.isoformat(), "pace": pace,
        "t_s": [curves["t_s"][i] for i in some], "reading_c": [curves["reading_c"][i] for i in some],
    }  # fmt: skip


def _moment_s(result: dict[str, Any], random: np.random.Generator) -> float:
    """A moment within the plan's longest stage, s: soon after its start and, if possible, well before its end."""
    stage = max(result["stages"], key=lambda stage: stage["end_s"] - stage["start_s"])
    first, last = stage["start_s"], stage["end_s"]
    latest = min(max(last - STAYS_S, first + 0.3 * (last - first)), first + BEGUN_S)
    return float(random.uniform(first + 0.2 * (latest - first), latest))
