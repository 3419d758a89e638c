"""Today: what needs somebody now, for this person and role."""

from __future__ import annotations

import datetime as dt
from unittest.mock import patch

import pytest
from django.urls import reverse

from kitchen.accounts.models import Kitchen, Person
from kitchen.demo.build import build
from kitchen.line.models import Cook
from kitchen.line.starting import start
from kitchen.services.actions import create
from kitchen.services.models import Service

from .pages import body_of

HOME = reverse("home")


def test_an_empty_kitchen_says_so_and_what_is_left(client, chef, cook_person):
    client.force_login(chef)
    body = body_of(client.get(HOME))
    for words in ("Nothing is cooking.", "Nothing is due.", "Nothing to decide.", "No cooks.", "Still to set up"):
        assert words in body
    assert "measure a piece and choose its doneness" in body
    assert "each gets a link" not in body  # there are two people
    client.force_login(cook_person)
    assert "Still to set up" not in body_of(client.get(HOME))


def test_what_cooks_comes_with_its_next_action_and_late_is_told(signed_in, plan, cook_person, kitchen):
    cook = start(plan, cook_person)
    body = body_of(signed_in.get(HOME))
    assert reverse("line:steps", args=[cook.pk]) in body
    assert "Test strip" in body
    assert "today-late" not in body
    assert body.count('aria-current="page"') == 1  # one place is marked in the rail
    later = kitchen.now() + dt.timedelta(hours=5)
    with patch.object(Kitchen, "now", lambda self: later):
        assert "today-late" in body_of(signed_in.get(HOME))


def test_the_page_asks_for_its_fragment_alone(signed_in):
    body = body_of(signed_in.get(HOME, headers={"HX-Request": "true"}))
    assert body.startswith('<div id="today"')
    assert "<html" not in body


def test_nobody_sees_another_kitchens_day(client, stranger, plan, cook_person):
    start(plan, cook_person)
    client.force_login(stranger)
    body = body_of(client.get(HOME))
    assert "Test strip" not in body
    assert "Nothing is cooking." in body


@pytest.fixture
def galley(db):
    return build("a-token-for-tests")


def test_the_galleys_day_for_a_chef_and_for_a_cook(client, galley):
    client.force_login(Person.objects.get(username="runa"))
    body = body_of(client.get(HOME))
    for words in (
        "Shin, braised in its stock", "cooling missed: needs a corrective action", "cooling to 21.1 °C", "2 days late",
        "check in ice", "Short ribs, cured", "waits for a second person", "read and sign", "Lamb rump, kelp salt",
    ):  # fmt: skip
        assert words in body
    client.force_login(Person.objects.get(username="tobin"))
    body = body_of(client.get(HOME))
    assert "confirm strength, grams and meat" in body
    assert "read and sign" not in body
    assert "Shin, braised in its stock" in body


def test_a_person_reads_their_own_units(client, galley):
    tobin = Person.objects.get(username="tobin")
    tobin.temperature_unit = "F"
    tobin.save()
    client.force_login(tobin)
    body = body_of(client.get(HOME))
    assert " °F" in body
    assert " °C" not in body


def test_a_dismissed_proposal_needs_no_decision(signed_in, kitchen, chef):
    head = {"name": "Deck supper", "covers": 12, "hands": 2, "opens": dt.time(0, 5), "closes": dt.time(23, 55)}
    service = create(kitchen, chef, head)
    Service.objects.filter(pk=service.pk).update(started_at=kitchen.now(), proposal={"late": [["roast", 4]]})
    body = body_of(signed_in.get(HOME))
    assert "on the line" in body
    assert "need a decision" not in body


def test_yesterday_counts_every_cook_and_judges_the_signed(client, galley):
    cooks = list(Cook.objects.select_related("sign_off"))
    short = next(cook for cook in cooks if cook.name.startswith("Harbour cod"))  # signed, its rule not met
    that_day = [cook for cook in cooks if _day(cook, galley) == _day(short, galley)]
    unsigned = sum(not hasattr(cook, "sign_off") for cook in that_day)
    client.force_login(Person.objects.get(username="runa"))
    with patch.object(Kitchen, "now", lambda self: short.finished_at + dt.timedelta(days=1)):
        body = body_of(client.get(HOME))
    told = f"{unsigned} not signed yet; of the signed, " if unsigned else ""
    plural = "" if len(that_day) == 1 else "s"
    assert f"{len(that_day)} cook{plural}, {told}<b>rule not met by 1</b>." in body


def _day(cook, kitchen):
    return cook.finished_at.astimezone(kitchen.zone).date()
