"""Two people change the same thing: who comes second is told, and nothing is overwritten in silence."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.brines.models import BrinePlan
from kitchen.kit.models import Equipment
from kitchen.plans import actions as plan_actions
from kitchen.plans.models import Plan
from kitchen.services import actions as service_actions
from kitchen.services.models import Dish, Service

from .a_service import add
from .pages import body_of
from .test_brines import TYPED as BRINE
from .test_plans import posted


def edition_in(body: str, after: str = "") -> str:
    part = body[body.index(after) :] if after else body
    return re.search(r'name="edition" value="(\w*)"', part)[1]


def page(client, name, *args, **query):
    return body_of(client.get(reverse(name, args=args), query, follow=True))


def thicker(document, mm):
    return {**document, "piece": {**document["piece"], "shape": {"kind": "slab", "thickness_mm": mm}}}


# A plan ------------------------------------------------------------------------------------------------------------


@pytest.fixture
def opened(signed_in, plan):
    """The edition of the plan on a cook's bench."""
    return edition_in(page(signed_in, "plans:edit", plan.pk))


def keep(client, plan, document, edition, **more):
    return client.post(
        reverse("plans:edit", args=[plan.pk]), posted(document) | {"then": "keep", "edition": edition} | more
    )


def test_a_plan_changed_meanwhile_is_told_and_kept_as_it_is(signed_in, plan, document, chef, opened):
    plan_actions.save(plan, chef, parse_plan(thicker(document, 31.0)))
    answer = keep(signed_in, plan, thicker(document, 28.0), opened)
    body = body_of(answer)
    assert answer.status_code == 409
    assert "Ada Chef changed this while you were editing" in body
    assert "31" in body.split("Their change:")[1][:80]
    assert 'value="28' in body, "what was typed is still there"
    assert edition_in(body) == opened
    plan.refresh_from_db()
    assert plan.document["piece"]["shape"]["thickness_mm"] == 31.0


def test_mine_is_kept_with_theirs_among_its_versions(signed_in, plan, document, chef, opened):
    plan_actions.save(plan, chef, parse_plan(thicker(document, 31.0)))
    assert keep(signed_in, plan, thicker(document, 28.0), opened, meanwhile="mine").status_code == 302
    plan.refresh_from_db()
    assert plan.document["piece"]["shape"]["thickness_mm"] == 28.0
    kept = [version.document["piece"]["shape"]["thickness_mm"] for version in plan.versions.all()]
    assert 31.0 in kept


def test_both_are_kept_as_two_plans(signed_in, plan, document, chef, opened):
    plan_actions.save(plan, chef, parse_plan(thicker(document, 31.0)))
    keep(signed_in, plan, thicker(document, 28.0), opened, meanwhile="both")
    found = {p.document["piece"]["shape"]["thickness_mm"] for p in Plan.objects.all()}
    assert found == {28.0, 31.0}
    assert Plan.objects.filter(name="Test strip (2)", copied_from=plan).exists()


def test_the_same_change_by_two_people_asks_nothing(signed_in, plan, document, chef, opened):
    plan_actions.save(plan, chef, parse_plan(thicker(document, 28.0)))
    assert keep(signed_in, plan, thicker(document, 28.0), opened).status_code == 302


def test_who_is_alone_is_asked_nothing(signed_in, plan, document, opened):
    assert keep(signed_in, plan, thicker(document, 28.0), opened).status_code == 302
    after = edition_in(page(signed_in, "plans:edit", plan.pk))
    assert after != opened
    assert keep(signed_in, plan, thicker(document, 29.0), after).status_code == 302


# The menu ----------------------------------------------------------------------------------------------------------


def test_the_head_of_a_service(signed_in, service, chef):
    body = page(signed_in, "services:menu", service.pk)
    edition = edition_in(body)
    service_actions.change(service, chef, {"covers": 44})
    said = {
        "name": "Deck supper",
        "covers": "18",
        "hands": "2",
        "opens": "00:05",
        "closes": "23:55",
        "edition": edition,
    }
    answer = signed_in.post(reverse("services:menu", args=[service.pk]), said)
    assert answer.status_code == 409
    assert "Ada Chef changed this while you were editing" in body_of(answer)
    assert "covers: 44, yours 18" in body_of(answer)
    assert Service.objects.get(pk=service.pk).covers == 44
    signed_in.post(reverse("services:menu", args=[service.pk]), said | {"meanwhile": "mine"})
    assert Service.objects.get(pk=service.pk).covers == 18


@pytest.mark.parametrize(("choice", "portions"), [("mine", [9]), ("both", [9, 30])])
def test_a_dish_of_the_menu(signed_in, service, chef, plan, evening, choice, portions):
    dish = add(service, chef, "Strip", plan, evening)
    body = page(signed_in, "services:menu", service.pk)
    address = reverse("services:dish", args=[service.pk, dish.pk])
    edition = edition_in(body, f'action="{address}"')
    service_actions.put_dish(service, chef, {"portions": 30}, dish)
    said = {"of": f"plan:{plan.pk}", "name": "Strip", "plate_up": f"{evening:%Y-%m-%dT%H:%M}", "portions": "9",
            "edition": edition}  # fmt: skip
    answer = signed_in.post(address, said)
    assert answer.status_code == 409
    assert "portions: 30, yours 9" in body_of(answer)
    assert Dish.objects.get(pk=dish.pk).portions == 30
    signed_in.post(address, said | {"meanwhile": choice})
    assert sorted(service.dishes.values_list("portions", flat=True)) == portions


# A brine -----------------------------------------------------------------------------------------------------------


@pytest.fixture
def brine(client, chef):
    client.force_login(chef)
    client.post(reverse("brines:keep"), BRINE | {"name": "Belly cure", "edition": ""})
    return BrinePlan.objects.get(name="Belly cure")


def test_a_brine_of_a_name_that_is_there_is_not_overwritten(client, cook_person, brine):
    client.force_login(cook_person)
    other = BRINE | {"name": "Belly cure", "meat": "2750", "edition": ""}
    answer = client.post(reverse("brines:keep"), other)
    assert answer.status_code == 409
    assert "Ada Chef changed this while you were editing" in body_of(answer)
    assert BrinePlan.objects.get(pk=brine.pk).document == brine.document
    client.post(reverse("brines:keep"), other | {"meanwhile": "both"})
    assert BrinePlan.objects.get(pk=brine.pk).document == brine.document
    assert BrinePlan.objects.filter(name="Belly cure (2)").exists()


def test_a_brine_opened_as_it_is_may_be_changed(client, brine):
    opened = client.get(reverse("brines:kept", args=[brine.pk]))
    edition = re.search(r"edition=(\w+)", opened.url)[1]
    client.post(reverse("brines:keep"), BRINE | {"name": "Belly cure", "meat": "2750", "edition": edition})
    assert BrinePlan.objects.get(pk=brine.pk).document != brine.document


# The kit -----------------------------------------------------------------------------------------------------------


def test_a_piece_of_equipment(client, chef, cook_person, kit):
    client.force_login(chef)
    oven = kit["Oven 8"]
    edition = edition_in(page(client, "kit:equipment", oven.pk))
    Equipment.objects.filter(pk=oven.pk).update(places=5, updated_by=cook_person)
    said = {"kind": "oven", "name": "Oven 8", "station": "", "places": "3", "check_days": "28", "edition": edition}
    url = reverse("kit:equipment", args=[oven.pk])
    answer = client.post(url, said)
    assert answer.status_code == 409
    assert "Bo Cook changed this while you were editing" in body_of(answer)
    assert "places: 5, yours 3" in body_of(answer)
    assert Equipment.objects.get(pk=oven.pk).places == 5
    assert client.post(url, said | {"meanwhile": "mine"}).status_code == 302
    assert Equipment.objects.get(pk=oven.pk).places == 3
