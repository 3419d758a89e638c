"""What was chosen for a service reaches its cooks; what cannot be had is said at the tap."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.errors import NeverReached
from ember.files.plan import parse_plan
from kitchen.kit.allocation import Allocation, Wanted
from kitchen.kit.models import Equipment
from kitchen.line.errors import LineError
from kitchen.line.models import Cook
from kitchen.line.places import clash_words, kit_of
from kitchen.line.starting import start
from kitchen.plans.actions import create
from kitchen.services import actions, cook_from_schedule, day
from kitchen.services.models import Service, TaskEvent

from ..planned import planned
from .a_service import add, task
from .pages import body_of


@pytest.fixture
def settled(morning, service, chef, plan, roast_plan, kit):
    """A roast in Oven 8 and a steak in the bath at 62, where the plans would have had Oven 7 and 57."""
    rump = add(service, chef, "Rump", roast_plan, morning + dt.timedelta(hours=3))
    strip = add(service, chef, "Strip", plan, morning + dt.timedelta(hours=3, minutes=15))
    found = planned(Service.objects.get(pk=service.pk))
    actions.choose(found, chef, rump, "s0", {"equipment": {"oven": f"e{kit['Oven 8'].pk}"}})
    strip.refresh_from_db()
    actions.choose(found, chef, strip, "s0", {"setting_c": 62.0})
    return day.begin(Service.objects.get(pk=service.pk), chef)


def begun(settled, person, name):
    row = task(settled, name)
    dish = settled.dishes.get(pk=row.dish)
    return day.tap(settled, person, dish, "s0", 0, uuid.uuid4())


def test_a_cook_stands_where_and_at_what_the_service_chose(settled, chef):
    roast = begun(settled, chef, "Rump, oven")
    assert kit_of(roast)[0]["name"] == "Oven 8"
    steak = begun(settled, chef, "Strip, bath")
    assert steak.document["stages"][0]["water_c"] == 62.0
    assert steak.result["core"]["peak_c"] == pytest.approx(54.5, abs=0.2)
    assert kit_of(steak)[0]["name"] == "Bath C"
    assert steak.events.first().data["due_at"] == task(settled, "Strip, bath").start.isoformat()


def test_an_oven_that_was_taken_out_is_said_at_the_tap(client, chef, settled, kit, kitchen):
    Equipment.objects.filter(pk=kit["Oven 8"].pk).update(removed_at=kitchen.now())
    client.force_login(chef)
    row = task(settled, "Rump, oven")
    sent = {"dish": row.dish, "task": "s0", "n": "0", "token": str(uuid.uuid4()), "from": "line"}
    body = body_of(client.post(reverse("services:tap", args=[settled.pk]), sent, follow=True))
    assert "is no longer available" in body
    assert not Cook.objects.exists()
    assert not TaskEvent.objects.exists()


def test_a_bath_at_another_setting_is_said_at_the_tap(chef, settled, kitchen, document):
    other = start(create(kitchen, chef, parse_plan({**document, "name": "Early trout"}), []), chef)
    assert kit_of(other)[0]["name"] == "Bath C"
    with pytest.raises(LineError, match="Bath C is at 57 °C for Early trout; this needs 62 °C"):
        begun(settled, chef, "Strip, bath")


def test_a_full_bath_is_said_at_the_tap(chef, settled, kitchen, document, kit):
    Equipment.objects.filter(pk=kit["Bath C"].pk).update(places=6)
    stages = [{**document["stages"][0], "water_c": 62.0}, *document["stages"][1:]]
    many = {**document, "piece": {**document["piece"], "count": 4}, "stages": stages}
    start(create(kitchen, chef, parse_plan(many), []), chef)
    with pytest.raises(LineError, match="Bath C takes 6 and 4 are in it"):
        begun(settled, chef, "Strip, bath")


# The one allocation --------------------------------------------------------------------------------------------------


@pytest.fixture
def baths(kitchen):
    names = (("Bath A", 4), ("Bath B", 10))
    return [Equipment.objects.create(kitchen=kitchen, kind="bath", name=name, places=n) for name, n in names]


def test_at_its_setting_else_where_nothing_is_else_the_least_busy(baths):
    allocation = Allocation(baths)
    assert allocation.choose(Wanted("bath", 57.0)).name == "Bath A"
    allocation.occupy(baths[0], 1.0, 57.0)
    assert allocation.choose(Wanted("bath", 57.2)).name == "Bath A"
    assert allocation.choose(Wanted("bath", 62.0)).name == "Bath B"
    allocation.occupy(baths[1], 5.0, 62.0)
    assert allocation.choose(Wanted("bath", 80.0)).name == "Bath A"
    assert allocation.choose(Wanted("oven", 80.0)) is None


def test_what_is_too_small_is_taken_last(baths):
    assert Allocation(baths).choose(Wanted("bath", 57.0, 8)).name == "Bath B"


def test_two_cooks_of_one_name_at_two_settings_are_told(kitchen, chef, document, baths):
    Equipment.objects.filter(pk=baths[1].pk).update(removed_at=kitchen.now())
    start(create(kitchen, chef, parse_plan(document), []), chef)
    hotter = {**document, "stages": [{**document["stages"][0], "water_c": 62.0}, *document["stages"][1:]]}
    second = start(create(kitchen, chef, parse_plan(hotter), []), chef)
    words = clash_words(kitchen, second.events.first().data["kit"], second)
    assert words == "Bath A is at 57 °C for Test strip; this needs 62 °C"


def test_a_setting_at_which_it_cannot_be_cooked_is_said_and_not_replaced(settled, chef):
    cook_from_schedule._moved.cache_clear()
    refusal = NeverReached("the water is too cool for that core", "stages[0]", 49.8)
    with (
        patch("kitchen.services.cook_from_schedule.plan_at_setting", side_effect=refusal),
        pytest.raises(NeverReached),
    ):
        begun(settled, chef, "Strip, bath")
    assert not Cook.objects.exists()
