"""The places on the rail, their titles, what waits in each, and the search over everything."""

from __future__ import annotations

import re
import uuid

import pytest
from django.urls import reverse

from kitchen.accounts.actions import end_membership
from kitchen.book import actions
from kitchen.brines.models import BrinePlan
from kitchen.demo.kitchen import BRINES
from kitchen.desk.saved_requests import save_request
from kitchen.kit.actions import check_kit
from kitchen.kit.models import Equipment
from kitchen.line.models import Cook
from kitchen.places import HEADS, PLACES, place_of
from kitchen.search.hits import hit_groups
from kitchen.search.records import record_groups
from kitchen.urls import urlpatterns

from .pages import body_of

PAGES = [(place, page) for place in PLACES for page in place.pages]


def names_of(patterns, prefix=""):
    """The name of every URL."""
    for pattern in patterns:
        if hasattr(pattern, "url_patterns"):
            namespace = f"{pattern.namespace}:" if pattern.namespace else ""
            yield from names_of(pattern.url_patterns, prefix + namespace)
        elif pattern.name:
            yield prefix + pattern.name


@pytest.mark.parametrize(("place", "page"), PAGES, ids=[page.name for _, page in PAGES])
def test_title_heading_and_place_are_the_same_word(signed_in, place, page):
    body = body_of(signed_in.get(reverse(page.url), follow=True))
    (heading,) = re.findall(r"<h1[^>]*>(.*?)</h1>", body, re.S)
    (title,) = re.findall(r"<title>(.*?)</title>", body, re.S)
    words = [page.name] if page.name == place.name else [page.name, place.name]
    assert title.split(" · ") == [*words, "Open Ember"]
    assert re.sub(r"<.*", "", heading).strip() == page.name or page.url == "eggs:first"
    assert re.search(rf'<a href="{reverse(place.url)}" aria-current="\w+"', body)


def test_every_page_is_two_taps_away(signed_in):
    """The first tap is on the rail; the second on the strip above it."""
    for place in PLACES:
        body = body_of(signed_in.get(reverse(place.url), follow=True))
        for page in place.pages:
            assert f'href="{reverse(page.url)}"' in body, page.name


NOWHERE = {"accounts", "setup", "demo"}  # before anybody is in a kitchen, and the demonstration's bar
ANYWHERE = {"search", "counts", "healthz", "readyz", "metrics", "service-worker", "manifest"}


def test_every_address_belongs_to_a_place():
    for name in names_of(urlpatterns):
        if name.split(":")[0] in NOWHERE or name in ANYWHERE or name.startswith("readings:"):
            continue
        assert place_of(HEADS.get(name, name))[0] is not None, name


def test_counts_stand_on_the_rail_for_whoever_must_act(client, kitchen, chef, cook_person, running):
    client.force_login(chef)
    request = {key: value for key, value in BRINES[0].items() if key != "name"}
    save_request(BrinePlan, kitchen, chef, "Cured", request)
    Cook.objects.filter(pk=running.pk).update(finished_at=kitchen.now())
    of_chef = body_of(client.get(reverse("counts")))
    assert 'id="count-log" hx-swap-oob="true">1<' in of_chef
    assert 'id="count-plan" hx-swap-oob="true"></span>' in of_chef  # who wrote a brine does not confirm it
    client.force_login(cook_person)
    of_cook = body_of(client.get(reverse("counts")))
    assert 'id="count-log" hx-swap-oob="true"></span>' in of_cook
    assert 'id="count-plan" hx-swap-oob="true">1<' in of_cook


def test_records_are_found_by_words_or_by_their_day(kitchen, running, chef, cook_person):
    actions.write(kitchen, chef, {"kind": "cold", "what": "Strip fridge", "celsius": 3.0, "note": ""}, uuid.uuid4())
    oven = Equipment.objects.create(kitchen=kitchen, kind="oven", name="Strip oven")
    check_kit(oven, chef, {"kind": "setting", "wanted_c": 180.0, "read_c": 174.0})
    Cook.objects.filter(pk=running.pk).update(finished_at=kitchen.now())
    today = kitchen.now().astimezone(kitchen.zone).date()
    for text in ("strip", today.isoformat()):
        groups = record_groups(kitchen, text, chef.units)
        assert [group.name for group in groups] == ["Cooks", "Daily log", "Equipment checks"]
    assert record_groups(kitchen, "no such thing", chef.units) == []
    by_chef = record_groups(kitchen, chef.name, chef.units)
    assert [group.name for group in by_chef] == ["Daily log", "Equipment checks"]


def test_one_search_finds_pages_plans_cuts_and_people(kitchen, plan, chef, cook_person, stranger):
    def found(text):
        return {group.name: [hit.name for hit in group.hits] for group in hit_groups(kitchen, text)}

    assert found("strip")["Plans"] == [plan.name]
    assert "Beef strip loin" in found("strip")["Cuts"]
    assert found("nitrite")["Pages"] == ["Brines and cures"]
    assert found("tablet")["Pages"] == ["Devices"]
    assert found(cook_person.name)["People"] == [cook_person.name]
    assert "People" not in found(stranger.name)
    end_membership(cook_person.memberships.get())
    (gone,) = (group.hits[0] for group in hit_groups(kitchen, cook_person.name) if group.name == "People")
    assert gone.words == "left"


def test_the_search_page_and_its_box(signed_in, client, kitchen, chef, stranger):
    url = reverse("search")
    for i in range(15):
        entry = {"kind": "cold", "what": f"Deck <b>fridge</b> {i}", "celsius": 3.0, "note": ""}
        actions.write(kitchen, chef, entry, uuid.uuid4())
    body = body_of(signed_in.get(url, {"q": "deck"}))
    assert "newest 12 of 15" in body
    assert "<b>fridge</b>" not in body
    assert "Nothing matches" in body_of(signed_in.get(url, {"q": "x" * 300}))
    assert "Nothing matches" not in body_of(signed_in.get(url))
    box = body_of(signed_in.get(url, headers={"HX-Request": "true"}))
    assert box.startswith("<form")
    typing = {"HX-Request": "true", "HX-Target": "find-results"}
    assert body_of(signed_in.get(url, {"q": "deck"}, headers=typing)).startswith('<div id="find-results"')
    client.force_login(stranger)
    assert "Deck" not in body_of(client.get(url, {"q": "deck"}))
