"""A person who works in several kitchens goes from one to the other, and sees each by itself."""

from __future__ import annotations

import pytest
from django.urls import reverse

from kitchen.accounts.models import Kitchen, Membership
from kitchen.plans.models import Plan

from .pages import body_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def second(chef):
    other = Kitchen.objects.create(name="Deck 5", place="Aft")
    return Membership.objects.create(person=chef, kitchen=other, role=Membership.Role.COOK)


def switch(client, membership, **more):
    return client.post(reverse("accounts:switch"), {"membership": str(getattr(membership, "pk", membership))}, **more)


def test_they_go_from_one_to_the_other_and_back(chef_in, chef, kitchen, plan, second):
    assert plan.name in body_of(chef_in.get("/plans/"))
    page = body_of(chef_in.get(reverse("accounts:you")))
    assert "Deck 5" in page
    assert "Go there" in page
    assert "You are in Deck 5" in body_of(switch(chef_in, second, follow=True))
    assert plan.name not in body_of(chef_in.get("/plans/"))
    assert chef_in.get(reverse("plans:edit", args=[plan.pk])).status_code == 404
    assert (
        chef_in.post(reverse("kit:new-equipment"), {"kind": "oven", "name": "X", "check_days": "9"}).status_code == 403
    )
    switch(chef_in, chef.memberships.get(kitchen=kitchen))
    assert chef_in.get(reverse("plans:edit", args=[plan.pk])).status_code == 200
    assert Plan.objects.count() == 1


@pytest.mark.parametrize("wanted", ["", "0", "x", "999999"])
def test_nobody_goes_where_they_do_not_work(chef_in, second, wanted):
    assert switch(chef_in, wanted).status_code == 403


def test_nor_into_a_strangers_kitchen_nor_one_they_left(chef_in, chef, stranger, second):
    assert switch(chef_in, stranger.memberships.get()).status_code == 403
    second.left_at = second.kitchen.now()
    second.save()
    assert switch(chef_in, second).status_code == 403
    assert "Go there" not in body_of(chef_in.get(reverse("accounts:you")))


def test_who_leaves_the_kitchen_they_are_in_is_back_in_the_other(chef_in, chef, kitchen, plan, second):
    switch(chef_in, second)
    second.left_at = second.kitchen.now()
    second.save()
    assert plan.name in body_of(chef_in.get("/plans/"))
