"""A plan's own brine stage: a kept recipe is taken over, and curing salt waits for a second person."""

from __future__ import annotations

import html
import re

import pytest
from django.urls import reverse

from ember.quantities import Units
from kitchen.brines import actions as brine_actions
from kitchen.brines.forms import BrineForm
from kitchen.brines.models import BrinePlan
from kitchen.desk.saved_requests import save_request
from kitchen.line import actions as line_actions
from kitchen.line import starting
from kitchen.plans.models import Plan

from .pages import body_of
from .posting import posted

TYPED = {
    "school": "equilibrium", "flesh": "meat", "meat": "2400", "shape": "slab", "size": "32", "water": "1800",
    "salt_pct": "1.6", "sugar": "30", "hours": "36", "temp": "3", "cure": "9", "strength": "6.25",
    "product": "immersion", "name": "Deck cure",
}  # fmt: skip


@pytest.fixture
def cured(kitchen, chef):
    form = BrineForm(TYPED, Units())
    assert form.is_valid(), form.errors
    return save_request(BrinePlan, kitchen, chef, "Deck cure", form.document())


@pytest.fixture
def chops(document):
    piece = document["piece"] | {"cut": "pork/chop", "mass_g": 300, "count": 8}
    stages = [{"kind": "brine", "minutes": 60}, {"kind": "bath", "water_c": 61, "minutes": 80}]
    return document | {"piece": piece, "stages": stages, "target": {"core_c": 60}}


@pytest.fixture
def plan_with_cure(kitchen, chef, chops, cured):
    chops["stages"][0]["recipe"] = cured.document
    return Plan.objects.create(kitchen=kitchen, name="Deck chops", document=chops, created_by=chef, updated_by=chef)


def test_the_stage_takes_over_a_kept_recipe_and_its_hours(signed_in, chops, cured):
    typed = posted(chops) | {"do": "brine:0", "s0-brine": str(cured.pk)}
    body = body_of(signed_in.post(reverse("plans:bench"), typed))
    assert "36 h" in body
    assert f'<option value="{cured.pk}" selected>Deck cure</option>' in body
    assert "A second person must confirm it before cooking starts" in body


def test_the_recipe_is_given_up_again(signed_in, plan_with_cure):
    typed = posted(plan_with_cure.document) | {"do": "brine:0", "s0-brine": ""}
    body = body_of(signed_in.post(reverse("plans:bench"), typed))
    assert "ppm nitrite" not in body


def test_another_kitchens_brine_is_no_choice(client, stranger, chops, cured):
    client.force_login(stranger)
    typed = posted(chops) | {"do": "brine:0", "s0-brine": str(cured.pk)}
    assert "Deck cure" not in body_of(client.post(reverse("plans:bench"), typed))


def test_it_does_not_start_before_a_second_person_confirmed_and_keeps_who_did(plan_with_cure, cured, chef, cook_person):
    with pytest.raises(line_actions.LineError, match="second person"):
        starting.start(plan_with_cure, chef)
    brine_actions.confirm(cured, cook_person, "password")
    cook = starting.start(plan_with_cure, chef)
    assert cook.result["confirmed"][0]["by"] == str(cook_person)


def test_kept_on_the_bench_it_is_still_the_confirmed_recipe(signed_in, kitchen, chops, cured, cook_person):
    """The bench writes a plan anew, with every key; the recipe in it is the same to the gram."""
    chops["stages"][0]["recipe"] = cured.document
    typed = posted(chops) | {"then": "keep", "tags": ""}
    signed_in.post(reverse("plans:new"), typed)
    plan = Plan.objects.of(kitchen).get()
    brine_actions.confirm(cured, cook_person, "password")
    body = body_of(signed_in.get(reverse("plans:edit", args=[plan.pk])))
    assert "Confirmed by" in body
    assert f'<option value="{cured.pk}" selected>Deck cure</option>' in body
    assert starting.start(plan, cook_person).result["confirmed"]


def test_a_damaged_recipe_is_said_and_breaks_nothing(signed_in, chops):
    typed = posted(chops) | {"s0-along": '{"recipe": {"school": "wet"}}'}
    response = signed_in.post(reverse("plans:bench"), typed)
    assert response.status_code == 200
    assert "problem" in body_of(response)


def test_a_recipe_changed_by_a_gram_is_not_the_confirmed_one(plan_with_cure, cured, chef, cook_person):
    brine_actions.confirm(cured, cook_person, "password")
    plan_with_cure.document["stages"][0]["recipe"]["cure"]["grams"] = 10
    with pytest.raises(line_actions.LineError, match="second person"):
        starting.start(plan_with_cure, chef)


def test_more_meat_than_it_was_weighed_for_does_not_start(plan_with_cure, cured, chef, cook_person):
    brine_actions.confirm(cured, cook_person, "password")
    plan_with_cure.document["piece"]["count"] = 12
    with pytest.raises(line_actions.LineError, match="weighed for 2400 g"):
        starting.start(plan_with_cure, chef)


def test_the_desk_weighs_it_anew_for_the_meat_of_the_plan(signed_in, plan_with_cure):
    plan_with_cure.document["piece"]["count"] = 12
    body = body_of(signed_in.post(reverse("plans:bench"), posted(plan_with_cure.document)))
    desk = html.unescape(re.search(r'href="(/brines/\?[^"]+)"', body)[1])
    weighed = body_of(signed_in.get(desk))
    assert 'value="3600"' in weighed
    assert 'value="2700"' in weighed
    assert 'value="13.5"' in weighed


def test_over_the_limit_does_not_start(plan_with_cure, chef):
    plan_with_cure.document["stages"][0]["recipe"]["cure"]["grams"] = 60
    with pytest.raises(line_actions.LineError, match="over"):
        starting.start(plan_with_cure, chef)
