"""A kitchen's kit, a service of two dishes, and the same on its day."""

from __future__ import annotations

import datetime as dt

import pytest
from django.utils import timezone

from ember.files.plan import parse_plan
from kitchen.kit.models import Equipment
from kitchen.plans.actions import create
from kitchen.services import actions, day
from kitchen.services.models import Service

from ..planned import planned
from .a_service import ROAST, add


@pytest.fixture
def kit(kitchen):
    rows = [("oven", "Oven 7", 3), ("oven", "Oven 8", 2), ("bath", "Bath C", 10), ("hob", "Ring 3", None),
            ("hob", "Ring 4", None), ("shelf", "Pass shelf", 8)]  # fmt: skip
    return {
        name: Equipment.objects.create(kitchen=kitchen, kind=kind, name=name, places=places)
        for kind, name, places in rows
    }


@pytest.fixture
def evening(kitchen):
    """Five o'clock the day after tomorrow, on the kitchen's clock."""
    at = kitchen.now().astimezone(kitchen.zone) + dt.timedelta(days=2)
    return at.replace(hour=17, minute=0, second=0, microsecond=0)


@pytest.fixture
def service(kitchen, chef, kit):
    found = {"name": "Deck supper", "covers": 12, "hands": 2, "opens": dt.time(0, 5), "closes": dt.time(23, 55)}
    return actions.create(kitchen, chef, found)


@pytest.fixture
def roast_plan(kitchen, chef, document):
    piece = document["piece"] | {"cut": "beef/rump-roast", "shape": {"kind": "cylinder", "diameter_mm": 85}, "count": 1}
    target = {"core_c": 56}
    return create(
        kitchen, chef, parse_plan(document | {"name": "Rump", "piece": piece, "stages": ROAST, "target": target})
    )


@pytest.fixture
def two(service, chef, plan, roast_plan, evening):
    """A roast and a steak, planned."""
    add(service, chef, "Rump", roast_plan, evening)
    add(service, chef, "Strip", plan, evening + dt.timedelta(minutes=20))
    return planned(Service.objects.get(pk=service.pk))


@pytest.fixture
def clash(service, chef, roast_plan, evening, kit):
    """Roots at 205 with a roast at 180 in one oven, in its last hour."""
    oven = f"e{kit['Oven 7'].pk}"
    rows = [{"id": "c1", "kind": "roast-vegetables", "name": "Roots", "setting_c": 205.0}]
    choices = {"c1": {"equipment": {"oven": oven}}, "s0": {"equipment": {"oven": oven}}}
    add(service, chef, "Rump", roast_plan, evening, companions=rows, choices=choices)
    return planned(Service.objects.get(pk=service.pk))


@pytest.fixture
def morning(kitchen):
    """Ten o'clock on the kitchen's clock, whenever the tests run: hands go home before midnight."""
    shows = kitchen.now().astimezone(kitchen.zone).replace(hour=10, minute=0, second=0, microsecond=0)
    kitchen.is_demo, kitchen.clock_showed, kitchen.clock_set_at = True, shows, timezone.now()
    kitchen.save()
    return shows


@pytest.fixture
def on_the_day(morning, service, chef, plan, roast_plan, kitchen):
    """The same, up in three hours, and sent to the line."""
    up = morning + dt.timedelta(hours=3)
    add(service, chef, "Rump", roast_plan, up, companions=[{"id": "c1", "kind": "pot", "name": "Beans"}])
    add(service, chef, "Strip", plan, up + dt.timedelta(minutes=15))
    found = planned(Service.objects.get(pk=service.pk))
    return day.begin(found, chef)
