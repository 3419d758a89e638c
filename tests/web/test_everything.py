"""Reports, search, trends, export and archive over a kitchen that holds every kind of record and paper."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import uuid
import zipfile
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.track.steps import MOVES
from kitchen.accounts.models import Kitchen
from kitchen.batches import actions as batch_actions
from kitchen.batches.models import Batch
from kitchen.book import actions as book_actions
from kitchen.book.models import Entry
from kitchen.book.paper import ask_for, make
from kitchen.book.report import report_of
from kitchen.line import actions
from kitchen.line.models import Cook, CookEvent
from kitchen.line.starting import start
from kitchen.line.step_actions import start_steps
from kitchen.logbook.actions import sign
from kitchen.plans.actions import create

from .pages import body_of
from .test_batches import typed_document

EGG = {"format": "open-ember/egg", "version": 1}
EGGS = {
    "Boiled": {"method": "boil", "minutes": 9.0}, "Steamed": {"method": "steam", "minutes": 9.0},
    "Shell bath": {"method": "circulator", "water_c": 63, "minutes": 45.0},
    "Poached": {"method": "poach", "school": "whirl", "minutes": 4.0, "water_c": 92.0, "advisory": True},
    "Scrambled": {"method": "scramble", "eggs": 6}, "Omelette": {"method": "omelette", "school": "flat", "eggs": 3},
    "Warm sauce": {"method": "emulsion", "yolks_g": 60, "liquid_g": 40, "butter_g": 200, "yolk_c": 66, "minutes": 3},
    "Custard": {"method": "custard", "ramekin_mm": [80, 40], "oven_c": 150, "start_c": 20},
    "Stirred": {"method": "stirred", "yolks_g": 80, "cream_g": 500, "sugar_g": 60, "cream_c": 85, "to_c": 82},
    "Pasta": {"method": "pasta", "pasta_g": 400, "egg_g": 120},
}  # fmt: skip
CURE = {
    "format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 2000, "water_g": 1500, "salt_pct": 2,
    "cut": "pork/loin", "hours": 48, "cure": {"grams": 6, "nitrite_pct": 6.25},
}  # fmt: skip


def today_of(kitchen):
    return kitchen.now().astimezone(kitchen.zone).date()


@pytest.fixture
def full(kitchen, chef, cook_person, document):
    """One of each, some signed, some not."""
    from ember.files.plan import parse_plan

    plan = create(kitchen, chef, parse_plan(document), [])
    cooks = [start(plan, cook_person)]
    for name, keys in EGGS.items():
        cooks.append(start_steps(kitchen, cook_person, name, EGG | keys, uuid.uuid4()))
    cooks.append(start_steps(kitchen, cook_person, "Cured loin", CURE, uuid.uuid4()))
    plain = {key: value for key, value in CURE.items() if key != "cure"}
    cooks.append(start_steps(kitchen, cook_person, "Brined loin", plain, uuid.uuid4()))
    batch = batch_actions.out_of_the_heat(kitchen, cook_person, "Belly", typed_document(), 4, uuid.uuid4())
    cooks.append(start_steps(kitchen, cook_person, "Belly, back", batch.document, uuid.uuid4(), place="Bath"))
    for cook in cooks:
        actions.finish(cook, cook_person)
        actions.correct(cook, cook_person, "Thrown away")
    for cook in cooks[::2]:
        sign(cook, chef, "password")
    for kind in Entry.Kind:
        if kind != Entry.Kind.ADDITION:
            entry = {"kind": kind, "what": "Deck fridge", "celsius": 3.0, "note": "as usual", "accepted": True}
            book_actions.write(kitchen, cook_person, entry, uuid.uuid4())
    paper = ask_for(kitchen, chef, today_of(kitchen), today_of(kitchen))
    make(paper)
    return cooks


def test_every_kind_stands_in_the_report_in_all_its_forms(client, chef, kitchen, full):
    client.force_login(chef)
    today = today_of(kitchen).isoformat()
    asked = {"from": today, "to": today}
    page = client.get(reverse("book:report"), asked)
    assert page.status_code == 200
    for cook in full:
        assert cook.name in body_of(page)
    rows = list(csv.DictReader(io.StringIO(body_of(client.get(reverse("book:report-csv"), asked)))))
    cooks = [row for row in rows if row["kind"] == "Cook"]
    assert len(cooks) == len(full)
    assert {row["state"] for row in cooks} <= {"met", "not-met", "advisory", "no-verdict"}
    by_name = {row["name"].rsplit(",", 1)[0]: row for row in cooks}
    assert by_name["Boiled"]["state"] == "not-met", "finished in a second"
    assert by_name["Cured loin"]["state"] == "not-met"
    assert "Pork loin" in by_name["Cured loin"]["what"]
    report = json.loads(client.get(reverse("book:report-json"), asked).content)
    assert len(report["records"]) == len(rows)


def test_search_trends_log_and_archive_open_every_kind(client, chef, kitchen, full):
    client.force_login(chef)
    for cook in full:
        assert client.get(reverse("logbook:record", args=[cook.pk])).status_code == 200
        assert cook.name in body_of(client.get(reverse("search"), {"q": cook.name}))
    assert client.get(reverse("book:trends")).status_code == 200
    assert "1 not met" in body_of(client.get(reverse("book:trends"))).replace("<b>1</b>", "1")
    response = client.get(reverse("book:everything"))
    with zipfile.ZipFile(io.BytesIO(b"".join(response.streaming_content))) as archive:
        rows = [json.loads(line) for line in archive.read("tables/book.paper.jsonl").splitlines()]
        assert rows[0]["pdf"].startswith("JVBER"), "base64 of %PDF"
        assert len(archive.read("tables/line.cook.jsonl").splitlines()) == len(full)


def test_a_report_over_each_kind_is_set_on_paper(kitchen, chef, full):
    from kitchen.book.models import Paper

    assert bytes(Paper.objects.get().pdf[:4]) == b"%PDF"
    assert {row.mark for row in report_of(kitchen, today_of(kitchen), today_of(kitchen)).rows} >= {"not", "met"}


# What is left of a cook -----------------------------------------------------------------------------------------------


def cooked(kitchen, person, document, hours_ago):
    """A cook of bath, sear and rest, done at its times, that began so long ago."""
    from ember.files.plan import parse_plan

    began = kitchen.now() - dt.timedelta(hours=hours_ago)
    with patch.object(Kitchen, "now", lambda self: began):
        return start(create(kitchen, person, parse_plan(document), []), person)


def test_the_clock_of_what_is_left_starts_when_the_cook_left_the_heat(kitchen, chef, document):
    from kitchen.batches.of_cook import chill_of, heat_ended_at

    cook = cooked(kitchen, chef, document, 3.0)
    pulled = cook.started_at + dt.timedelta(minutes=95)
    move = next(s for s in cook.result["steps"] if s["kind"] in MOVES and s["stage"] == 1)
    CookEvent.objects.create(cook=cook, kind="done", step=move["number"], at=pulled, by=chef)
    actions.check(cook, chef, {"core_c": 58.4, "weighed_g": 410.0}, uuid.uuid4())
    actions.finish(cook, chef)
    ended = heat_ended_at(cook, kitchen.now())
    assert pulled <= ended <= pulled + dt.timedelta(minutes=10)
    desk = chill_of(cook, chef.units)
    assert float(desk["start"]) == pytest.approx(58.4, abs=0.1)
    assert float(desk["mass"]) == pytest.approx(205.0, abs=0.6)
    batch = batch_actions.out_of_the_heat(kitchen, chef, "Left", typed_document(), 2, uuid.uuid4(), cook)
    assert batch.out_at == ended


def test_a_cook_that_left_the_heat_too_long_ago_is_no_batch(client, kitchen, chef, document):
    cook = cooked(kitchen, chef, document, 30.0)
    Cook.objects.filter(pk=cook.pk).update(finished_at=cook.started_at + dt.timedelta(hours=2))
    cook.refresh_from_db()
    with pytest.raises(batch_actions.BatchError, match="are over"):
        batch_actions.out_of_the_heat(kitchen, chef, "Left", typed_document(), 2, uuid.uuid4(), cook)
    client.force_login(chef)
    body = body_of(client.get(reverse("batches:from-cook", args=[cook.pk]), follow=True))
    assert "are over. Discard it." in body
    assert not Batch.objects.exists()


# One check at the end -------------------------------------------------------------------------------------------------


def test_one_check_of_the_core_is_a_reading(client, kitchen, chef, document):
    document["piece"] = {"cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 30}, "start_c": 5}
    document["target"] = {"core_c": 66}
    cook = cooked(kitchen, chef, document, 1.0)
    actions.check(cook, chef, {"sense": "probe", "sense_name": "Probe", "core_c": 75.1}, uuid.uuid4())
    actions.finish(cook, chef)
    record = sign(cook, chef, "password").record
    assert (record["state"], record["verdict"]["basis"], record["readings"]) == ("met", "readings", 1)
    assert record["cut"] == "Chicken breast"
    assert record["plan"]["name"] == "Test strip"
    client.force_login(chef)
    assert "75.1" in body_of(client.get(reverse("logbook:log"), follow=True))
    sent = b"".join(client.get(reverse("logbook:readings-csv", args=[cook.pk])).streaming_content).decode()
    assert "check by Ada Chef,75.10" in sent
