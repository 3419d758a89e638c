"""Trends of signed records, who did what, how long readings are kept, papers in parts."""

from __future__ import annotations

import datetime as dt
import io
import uuid

import pytest
from django.db import DatabaseError, transaction
from django.urls import reverse
from django.utils import timezone
from pypdf import PdfReader

from kitchen.accounts.models import Kitchen
from kitchen.book import actions
from kitchen.book.audit import audit_entries, links_found
from kitchen.book.models import Entry, Paper
from kitchen.book.paper import ask_for, make, paper_of, parts_of
from kitchen.book.report import report_of
from kitchen.book.tasks import make_paper
from kitchen.book.trends import trends_of
from kitchen.drawings.trend_strip import trend_strip
from kitchen.kit.actions import check_kit
from kitchen.kit.models import Equipment, KitCheck
from kitchen.line.models import Cook, CookEvent, Reading
from kitchen.logbook.actions import sign
from kitchen.logbook.models import SignOff
from kitchen.logbook.record import record_of

from .pages import body_of

MONDAY = dt.date(2026, 3, 2)


def finished_cook(plan, person, days, late_s=0.0, peak_k=0.0, weighed_g=None):
    """A finished cook by typed readings: pulled late, its peak off, weighed out."""
    from kitchen.line.starting import start

    cook = start(plan, person, None)
    began = timezone.now() - dt.timedelta(days=days)
    Cook.objects.filter(pk=cook.pk).update(started_at=began, finished_at=began + dt.timedelta(hours=1))
    cook = Cook.objects.get(pk=cook.pk)
    pull_s = cook.result["pull"]["s"] + late_s
    peak = cook.result["core"]["peak_reading_c"] + peak_k
    step = next(row["number"] for row in cook.result["steps"] if row["verb"] == "Pull")
    CookEvent.objects.create(cook=cook, kind="done", step=step, at=began + dt.timedelta(seconds=pull_s), by=person)
    for s, celsius in ((pull_s, peak - 2), (pull_s + 120, peak), (pull_s + 240, peak - 1)):
        at = began + dt.timedelta(seconds=s)
        Reading.objects.create(
            kitchen=cook.kitchen, cook=cook, at=at, claimed_at=at, celsius=celsius, entered_by=person
        )
    data = {"sense": "probe", "sense_name": "Probe in the core", "core_c": peak}
    data |= {"weighed_g": weighed_g} if weighed_g else {}
    CookEvent.objects.create(cook=cook, kind="checked", at=began + dt.timedelta(minutes=59), by=person, data=data)
    CookEvent.objects.create(
        cook=cook, kind="corrected", at=began + dt.timedelta(minutes=59), by=person, data={"note": "as it was"}
    )
    return Cook.objects.get(pk=cook.pk)


# Trends -------------------------------------------------------------------------------------------------------------


def test_signed_cooks_are_counted_by_week_and_by_cut(kitchen, plan, cook_person, chef):
    mass = plan.document["piece"].get("mass_g")
    for days, late, peak, weighed in ((15, 200, 2.4, None), (15, 10, -1.6, None), (1, 70, 0.2, None)):
        sign(finished_cook(plan, cook_person, days, late, peak, weighed), chef, "password")
    finished_cook(plan, cook_person, 1, 900, 9.0)  # nobody signed it: not counted
    found = trends_of(kitchen, kitchen.now().date() - dt.timedelta(days=40))
    assert (found.total.cooks, found.total.timed, found.total.late) == (3, 3, 2)
    assert (found.total.read, found.total.over, found.total.short) == (3, 1, 1)
    assert [week.counted.cooks for week in found.weeks] == [2, 1]
    assert found.weeks[0].late_s == pytest.approx((57.5, 105.0, 152.5), abs=1)
    assert found.cuts[0].counted.cooks == 3
    assert found.cuts[0].name
    assert found.total.yield_pct is None
    assert mass is None or found.total.weighed == 0


def test_what_was_weighed_is_held_against_the_planned_yield(kitchen, chef, cook_person, plan):
    plan.document["piece"]["mass_g"] = 400.0
    plan.save()
    cook = finished_cook(plan, cook_person, 1, weighed_g=300.0 * plan.document["piece"].get("count", 1))
    row = next(row for row in record_of(cook)["off_plan"] if row["what"] == "Yield")
    assert row["done"] == pytest.approx(75.0)
    assert row["off"] == pytest.approx(75.0 - cook.result["yield_pct"])
    sign(cook, chef, "password")
    total = trends_of(kitchen, kitchen.now().date() - dt.timedelta(days=7)).total
    assert (total.weighed, total.yield_pct) == (1, pytest.approx(75.0))
    assert total.yield_off == pytest.approx(75.0 - cook.result["yield_pct"])


def test_trends_of_nothing_say_so(signed_in, kitchen, stranger):
    assert trends_of(kitchen, MONDAY).total.cooks == 0
    body = body_of(signed_in.get(reverse("book:trends")))
    assert "No records signed off" in body
    assert signed_in.get(reverse("book:trends"), {"weeks": "odd"}).status_code == 200


def test_the_page_of_trends(signed_in, kitchen, plan, cook_person, chef):
    sign(finished_cook(plan, cook_person, 3, 200, 2.4), chef, "password")
    oven = Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 7")
    for read in (174.0, 171.0):
        check_kit(oven, chef, {"kind": "setting", "wanted_c": 180.0, "read_c": read})
    body = body_of(signed_in.get(reverse("book:trends")))
    assert "pulled late" in body
    assert "trend-mark trend-few" in body
    assert "2 checks, drift \u22123.0°" in body


def test_the_strip_shows_weeks_at_their_place_and_the_plan_at_nought():
    weeks = [(MONDAY, (-1.0, 0.5, 2.0), False), (MONDAY + dt.timedelta(days=14), (0.0, 4.0, 8.0), True)]
    strip = trend_strip(weeks, "min", 1.0)
    assert len(strip.labels) == 3
    assert strip.marks[1].x - strip.marks[0].x == pytest.approx(2 * (strip.labels[1][0] - strip.labels[0][0]))
    assert strip.marks[0].top_y < strip.marks[0].middle_y < strip.plan_y < strip.marks[0].low_y
    assert any(value == 0 and y == pytest.approx(strip.plan_y) for y, value in strip.ticks)
    assert trend_strip([], "min", 1.0) is None


# What a probe is off ------------------------------------------------------------------------------------------------


def test_a_probes_last_check_counts_in_the_verdict(kitchen, running, cook_person, device):
    probe = device[0].probes.first()
    kinds = (("ice", 0.0, 0.6), ("boil", 100.0, 100.6))
    for kind, wanted, read in kinds:
        check_kit(probe, cook_person, {"kind": kind, "wanted_c": wanted, "read_c": read})
    began = kitchen.now() + dt.timedelta(seconds=1)
    Cook.objects.filter(pk=running.pk).update(started_at=began)
    for i, celsius in enumerate((20.0, 50.0, 63.2)):
        at = began + dt.timedelta(seconds=60 * i)
        Reading.objects.create(kitchen=kitchen, probe=probe, at=at, claimed_at=at, celsius=celsius)
    record = record_of(Cook.objects.get(pk=running.pk))
    peak = next(row["done"] for row in record["off_plan"] if row["what"] == "Peak core")
    assert peak == pytest.approx(62.6)
    assert record["probes"][0]["checks"] == [{"shown_c": 100.6, "off_k": 0.6}, {"shown_c": 0.6, "off_k": 0.6}]
    later = began + dt.timedelta(minutes=1)  # a check after it began is not for this one
    KitCheck.objects.create(
        kitchen=kitchen, probe=probe, kind="ice", wanted_c=0.0, read_c=5.0, at=later, by=cook_person
    )
    again = record_of(Cook.objects.get(pk=running.pk))
    assert next(row["done"] for row in again["off_plan"] if row["what"] == "Peak core") == peak


# Find, who did what -------------------------------------------------------------------------------------------------


def test_who_did_what_is_told_from_the_chain(signed_in, kitchen, running, chef, cook_person):
    actions.write(kitchen, chef, {"kind": "hot", "what": "Soup", "celsius": 70.0, "note": "lid on"}, uuid.uuid4())
    told = audit_entries(links_found(kitchen, "", ""))
    assert (told[0].who, told[0].what, told[0].words) == (str(chef), "daily log: Soup", "lid on, 70 °C")
    assert (told[-1].who, told[-1].what, told[-1].words) == (str(cook_person), "cook: began", running.name)
    assert len(audit_entries(links_found(kitchen, str(chef.pk), ""))) == 1
    assert links_found(kitchen, "", "lid on").count() == 1
    body = body_of(signed_in.get(reverse("book:who"), {"person": str(chef.pk)}))
    assert "Soup" in body
    assert "cook: began" not in body.lower()
    assert signed_in.get(reverse("book:who"), {"person": "9' or 1=1", "page": "x"}).status_code == 200


# How long readings are kept -----------------------------------------------------------------------------------------


def test_only_a_chef_says_how_long_and_never_less_than_half_a_year(client, kitchen, chef, cook_person):
    client.force_login(cook_person)
    assert client.post(reverse("book:keep"), {"months": "12"}).status_code == 403
    client.force_login(chef)
    client.post(reverse("book:keep"), {"months": "12"})
    assert Kitchen.objects.get(pk=kitchen.pk).readings_kept_months == 12
    for wrong in ("1", "odd", "-5"):
        client.post(reverse("book:keep"), {"months": wrong})
    assert Kitchen.objects.get(pk=kitchen.pk).readings_kept_months == 12
    with pytest.raises(DatabaseError), transaction.atomic():
        Kitchen.objects.filter(pk=kitchen.pk).update(readings_kept_months=1)
    for days in ("92", "3", "odd"):
        client.post(reverse("book:keep"), {"days": days})
    assert Kitchen.objects.get(pk=kitchen.pk).readings_thinned_days == 92


# Reheating, and long reports ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("celsius", "met"), [(73.9, True), (73.0, False), (80.0, True)])
def test_reheating_is_held_against_its_rule(kitchen, celsius, met):
    """US Food Code 2022 3-403.11: 165 °F (74 °C) for 15 s; from memory."""
    found = actions.held_against(kitchen, "reheat", celsius)
    assert found["met"] is met
    assert found["seconds"] == 15


@pytest.fixture
def long_month(kitchen, chef):
    """Entries over four weeks, enough for parts."""
    now = kitchen.now()
    Entry.objects.bulk_create(
        Entry(
            kitchen=kitchen, kind="cold", by=chef, at=now - dt.timedelta(hours=3 * i), what=f"Fridge {i}", celsius=3.0
        )
        for i in range(220)
    )
    return now.astimezone(kitchen.zone).date()


def test_a_long_paper_is_made_in_parts_and_says_how_far_it_is(kitchen, chef, long_month):
    first = long_month - dt.timedelta(days=29)
    told = []
    report = report_of(kitchen, first, long_month)
    data = paper_of(report, chef, lambda done, parts: told.append((done, parts)))
    parts = parts_of(report)
    assert len(parts) >= 3
    assert told == [(i, len(parts)) for i in range(len(parts) + 1)]
    pages = [page.extract_text() for page in PdfReader(io.BytesIO(data)).pages]
    assert sum(text.count("Fridge ") for text in pages) == 220
    assert [f"page {i + 1}" in text for i, text in enumerate(pages)] == [True] * len(pages)
    assert "its last digest was" in pages[-1]
    assert str(kitchen) not in pages[-1]


def test_a_long_paper_is_asked_for_made_and_taken(signed_in, kitchen, cook_person, chef, long_month):
    asked = {"from": long_month - dt.timedelta(days=29), "to": long_month}
    page = signed_in.get(reverse("book:report-pdf"), asked)
    paper = Paper.objects.get()
    assert page.url == reverse("book:paper", args=[paper.pk])
    assert "Reading records" in body_of(signed_in.get(page.url))
    assert signed_in.get(reverse("book:paper-pdf", args=[paper.pk])).url == page.url
    make_paper(str(paper.pk))
    assert ">Download<" in body_of(signed_in.get(page.url, headers={"hx-request": "true"}))
    assert signed_in.get(reverse("book:paper-pdf", args=[paper.pk])).content.startswith(b"%PDF")
    signed_in.force_login(chef)  # only who asked
    assert signed_in.get(page.url).status_code == 404


def test_a_paper_is_stopped_and_one_that_takes_too_long_says_so(
    kitchen, signed_in, cook_person, long_month, monkeypatch
):  # fmt: skip
    day = kitchen.now().date()
    first = ask_for(kitchen, cook_person, day - dt.timedelta(days=28), day)
    signed_in.post(reverse("book:paper-stop", args=[first.pk]))
    make_paper(str(first.pk))
    assert "Stopped." in body_of(signed_in.get(reverse("book:paper", args=[first.pk])))
    monkeypatch.setattr("kitchen.book.paper.LONGEST_S", -1.0)
    second = ask_for(kitchen, cook_person, day - dt.timedelta(days=28), day)
    make_paper(str(second.pk))
    second.refresh_from_db()
    assert second.pdf is None
    assert "Not finished within" in second.problem


def test_a_paper_that_fails_says_so(kitchen, chef, signed_in, cook_person, monkeypatch):
    paper = ask_for(kitchen, cook_person, MONDAY, MONDAY)
    monkeypatch.setattr("kitchen.book.paper.report_of", lambda *args: 1 / 0)
    make_paper(str(paper.pk))
    assert "could not be made" in body_of(signed_in.get(reverse("book:paper", args=[paper.pk])))
    with pytest.raises(ZeroDivisionError):
        make(paper)


def test_a_long_report_comes_week_by_week(signed_in, long_month):
    asked = {"from": long_month - dt.timedelta(days=29), "to": long_month}
    page = body_of(signed_in.get(reverse("book:report"), asked))
    assert "0 of 5 weeks" in page
    seen, body = "", ""
    for done in range(5):
        body = body_of(signed_in.get(reverse("book:report-more"), asked | {"done": done, "seen": seen}))
        part = body.split('"seen": "')
        seen = part[1].split('"')[0] if len(part) > 1 else ""
    assert "All 5 weeks are shown" in body
    assert "<b>220</b> cold storage" in body
    for wrong in ({"done": "5"}, {"done": "x"}, {"done": "-1"}, {"done": "0", "seen": "a;b"}):
        assert signed_in.get(reverse("book:report-more"), asked | wrong).status_code == 422


def test_signed_records_hold_what_the_probes_were_off(running, chef, kitchen):
    from kitchen.line.actions import finish

    record = sign(finish(running, chef, "fire drill"), chef, "password").record
    assert record["probes"] == []
    assert SignOff.objects.get().record == record
