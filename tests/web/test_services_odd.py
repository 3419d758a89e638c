"""What a service is asked that nobody would: every address answers, nothing breaks, nothing is lost."""

from __future__ import annotations

import datetime as dt
import uuid

import pytest
from django.urls import reverse

from kitchen.services import actions
from kitchen.services.models import Service

from ..planned import planned
from .pages import body_of

NOBODY = "00000000-0000-4000-8000-000000000000"
LONG = "x" * 400
CHOSEN = (
    ("at", ""), ("at", "noon"), ("at", "2031-13-45T99:99"), ("at", "1971-01-01T00:00"), ("at", LONG), ("at", "\x00"),
    ("setting", ""), ("setting", "1e9"), ("setting", "-40"), ("equipment", "oven=e0"), ("equipment", "="),
    ("equipment", LONG), ("colour", "red"), ("", ""),
)  # fmt: skip
ODD = (
    {}, {"number": "x"}, {"number": "-1"}, {"n": "9" * 30}, {"dish": NOBODY, "task": LONG, "n": "²"}, {"take": "maybe"},
    {"task": "a", "other": "b", "celsius": "hot"},
)  # fmt: skip


@pytest.fixture
def evening(kitchen):
    at = kitchen.now().astimezone(kitchen.zone) + dt.timedelta(days=2)
    return at.replace(hour=18, minute=0, second=0, microsecond=0)


@pytest.fixture
def service(kitchen, chef, plan, evening):
    head = {"name": "Deck supper", "covers": 8, "hands": 2, "opens": dt.time(0, 5), "closes": dt.time(23, 55)}
    found = actions.create(kitchen, chef, head)
    dish = {"name": "Strip", "plan": plan, "eggs": None, "plate_up": evening, "portions": 6}
    actions.put_dish(found, chef, dish)
    return planned(Service.objects.get(pk=found.pk))


def test_whatever_task_is_asked_for(chef_in, service):
    for name in ("service", "menu", "lists", "calendar", "late", "shares"):
        for query in ({}, {"task": "a:b"}, {"task": LONG}, {"task": f"{NOBODY}:s0:0"}):
            assert chef_in.get(reverse(f"services:{name}", args=[service.pk]), query).status_code == 200, (name, query)


def test_whatever_is_chosen_for_a_task(chef_in, service):
    """It is refused in words, or taken; the service stands either way."""
    dish, count = str(service.dishes.get().pk), len(service.schedule["tasks"])
    url = reverse("services:choose", args=[service.pk])
    for what, value in CHOSEN:
        sent = {"dish": dish, "task": "s0", "n": "0", "what": what, "value": value}
        assert chef_in.post(url, sent).status_code == 302, (what, value)
    for key in (NOBODY, "nonsense"):
        assert chef_in.post(url, {"dish": key, "task": "s0", "what": "at", "value": "noon"}).status_code == 302
    service.refresh_from_db()
    assert service.fits
    assert len(service.schedule["tasks"]) == count


def test_whatever_is_posted_on_its_day(chef_in, service):
    """Two hundred, or on to a page that answers."""
    for name in ("way-out", "replan", "answer", "tap", "watch", "share", "begin", "end"):
        for sent in ODD:
            response = chef_in.post(reverse(f"services:{name}", args=[service.pk]), sent)
            assert response.status_code in (200, 302), (name, sent)
    assert chef_in.get(reverse("services:service", args=[service.pk])).status_code == 200


def test_what_is_not_there_is_not_found(chef_in, service):
    for name in ("service", "menu", "lists", "calendar"):
        assert chef_in.get(reverse(f"services:{name}", args=[NOBODY])).status_code == 404
    for name in ("dish", "remove-dish", "add-beside"):
        assert chef_in.post(reverse(f"services:{name}", args=[service.pk, NOBODY])).status_code == 404


def test_a_wrong_companion_comes_back_and_its_fold_stays_open(chef_in, service):
    dish = service.dishes.get()
    for typed, words in (
        ({"kind": "nonsense"}, "Select a valid choice"), ({"kind": "pot", "minutes": "soon"}, "soon"),
        ({"kind": "pot", "minutes": "99999"}, "Time must be from"), ({"kind": "pot", "amount": "-3"}, "Amount"),
        ({"kind": "roast-vegetables", "setting": "900"}, "At must be from"), ({}, "Choose a kind"),
    ):  # fmt: skip
        response = chef_in.post(reverse("services:add-beside", args=[service.pk, dish.pk]), typed)
        assert response.status_code == 422
        body = body_of(response)
        assert words in body
        assert f'id="beside-{dish.pk}" open' in body
    assert service.dishes.get().companions == []


def test_twelve_beside_a_dish_and_no_more(chef_in, service):
    dish = service.dishes.get()
    url = reverse("services:add-beside", args=[service.pk, dish.pk])
    for _ in range(13):
        chef_in.post(url, {"kind": "cold"})
    assert len(service.dishes.get().companions) == 12
    assert len({row["id"] for row in service.dishes.get().companions}) == 12


def test_a_long_name_breaks_no_page(chef_in, service, chef, plan, evening):
    name = "Strip of the long watch " * 3
    found = {"name": name[:80], "plan": plan, "eggs": None, "plate_up": evening, "portions": 2}
    actions.put_dish(service, chef, found)
    service.refresh_from_db()
    service = planned(service)
    for page in ("service", "menu", "lists"):
        body = body_of(chef_in.get(reverse(f"services:{page}", args=[service.pk])))
        assert "Strip of the long watch" in body
    assert chef_in.get(reverse("services:calendar", args=[service.pk])).status_code == 200


def test_thirty_dishes_are_planned_and_shown(chef_in, service, chef, plan, evening):
    """More than a galley has rings for: planned or said why not, and every page opens."""
    for k in range(30):
        at = evening + dt.timedelta(minutes=10 * k)
        found = {"name": f"Strip {k}", "plan": plan, "eggs": None, "plate_up": at, "portions": 1}
        actions.put_dish(service, chef, found)
    service.refresh_from_db()
    service = planned(service)
    assert service.schedule["status"] in ("optimal", "feasible", "infeasible")
    for page in ("service", "menu", "lists"):
        assert chef_in.get(reverse(f"services:{page}", args=[service.pk])).status_code == 200


def test_a_dish_of_a_deleted_plan_is_cooked_all_the_same(chef_in, service, chef, plan):
    """A plan in the bin stays what the dish was made by."""
    chef_in.post(reverse("plans:delete", args=[plan.pk]))
    assert planned(Service.objects.get(pk=service.pk)).fits
    assert chef_in.get(reverse("services:menu", args=[service.pk])).status_code == 200


def test_the_same_dish_put_twice_is_two(service, chef, plan, evening):
    dish = {"name": "Strip", "plan": plan, "eggs": None, "plate_up": evening, "portions": 6}
    actions.put_dish(service, chef, dish)
    service.refresh_from_db()
    found = planned(service)
    assert len({row["dish"] for row in found.schedule["tasks"]}) == 2
    assert uuid.UUID(found.schedule["tasks"][0]["dish"])
