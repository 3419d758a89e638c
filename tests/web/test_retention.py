"""Readings by month: thinned and deleted as a kitchen decided, by the owner of the tables alone, and recorded."""

from __future__ import annotations

import datetime as dt
import uuid

import pytest
from django.db import DatabaseError, connection, transaction
from django.urls import reverse
from django.utils import timezone

from kitchen.accounts.models import Kitchen
from kitchen.book import retention
from kitchen.book.models import Entry, Retirement
from kitchen.database import grants
from kitchen.line import actions, reading_actions
from kitchen.line.models import Forecast, Reading
from kitchen.logbook.actions import sign
from kitchen.logbook.corrected_readings import corrected
from kitchen.logbook.evidence import faults_of, taken_readings

MINUTE, HOUR, DAY = dt.timedelta(minutes=1), dt.timedelta(hours=1), dt.timedelta(days=1)


def month_before(months):
    """The first of a month, some months ago, at noon."""
    now = timezone.now()
    number = now.year * 12 + now.month - 1 - months
    return dt.datetime(number // 12, number % 12 + 1, 1, 12, tzinfo=dt.UTC)


def read(kitchen, probe, begin, temperatures, every_s=5.0):
    Reading.objects.bulk_create(
        Reading(
            kitchen=kitchen, probe=probe, at=begin + dt.timedelta(seconds=n * every_s),
            claimed_at=begin + dt.timedelta(seconds=n * every_s), celsius=celsius,
        )
        for n, celsius in enumerate(temperatures)
    )  # fmt: skip
    tell("SET CONSTRAINTS ALL IMMEDIATE")  # as after a commit


def months_there():
    with connection.cursor() as cursor:
        cursor.execute(grants.MONTHS)
        return {row[0] for row in cursor.fetchall()}


def tell(*statements):
    with connection.cursor() as cursor:
        for statement in statements:
            cursor.execute(statement)


def ask(statement):
    with connection.cursor() as cursor:
        cursor.execute(statement)
        return cursor.fetchone()[0]


@pytest.fixture
def probe(device):
    return device[0].probes.first()


@pytest.fixture
def past(db):
    """The tables of two years of months."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT ember_reading_months(%s, %s)", [month_before(24), month_before(0)])


def test_each_month_has_its_table_and_a_stray_gets_one(kitchen, probe):
    now, stray = timezone.now(), month_before(30)
    assert retention.keep_months() == 0, "the migration made those of the coming months"
    assert {f"line_reading_{now:%Y_%m}", "line_reading_other"} <= months_there()
    read(kitchen, probe, stray, [50.0])
    assert ask("SELECT tableoid::regclass::text FROM line_reading") == "line_reading_other"
    assert retention.keep_months() == 1
    assert ask("SELECT tableoid::regclass::text FROM line_reading") == f"line_reading_{stray:%Y_%m}"
    assert Reading.objects.get().celsius == 50.0


def test_a_table_holds_its_month_and_takes_a_reading_once(kitchen, probe):
    now = timezone.now()
    read(kitchen, probe, now, [50.0])
    with pytest.raises(DatabaseError, match="once"), transaction.atomic():
        read(kitchen, probe, now, [50.0])


def test_a_reading_repeated_over_the_end_of_a_month_is_stored_once(kitchen, probe):
    """The kitchen's time of a repeat may fall a moment later, and so into another month's table."""
    begin = month_before(0).replace(hour=0)
    first = reading_actions.ProbeReading(probe, begin - dt.timedelta(seconds=1), begin, 50.0, boot="a", number=7)
    again = reading_actions.ProbeReading(probe, begin + dt.timedelta(seconds=1), begin, 50.0, boot="a", number=7)
    assert reading_actions.keep_readings(kitchen, [first]) == 1
    assert reading_actions.keep_readings(kitchen, [again, first]) == 0
    assert Reading.objects.count() == 1


def test_what_is_old_is_thinned_to_a_reading_a_minute_and_every_extreme(past, kitchen, probe, chef):
    begin = month_before(3)
    temperatures = [40 + 0.01 * n for n in range(720)]  # an hour, every five seconds
    temperatures[100], temperatures[400] = 71.0, 3.0
    read(kitchen, probe, begin, temperatures)
    read(kitchen, probe, timezone.now() - HOUR, temperatures)
    retention.thin_after(kitchen, chef, 35)
    (taken,) = retention.retire()
    left = list(Reading.objects.filter(at__lt=begin + DAY).values_list("at", "celsius"))
    assert len({at.replace(second=0) for at, _ in left}) == 60
    assert 60 <= len(left) <= 60 + 2 * 7
    assert (taken.what, taken.kitchen, taken.count) == ("thinned", kitchen, 720 - len(left))
    assert {71.0, 3.0, temperatures[0], temperatures[-1]} <= {celsius for _, celsius in left}
    assert Reading.objects.filter(at__gt=timezone.now() - DAY).count() == 720, "what is young stays whole"
    assert retention.retire() == [], "nothing is thinned twice"
    said = [entry.what for entry in Entry.objects.of(kitchen).filter(kind="retention")]
    assert said[0].startswith(f"{taken.count} readings from")
    assert "thinned to one a minute and each extreme" in said[0]
    assert said[1] == "Readings are thinned after 35 days"


def test_what_a_person_typed_is_never_thinned(past, kitchen, running, chef):
    begin = month_before(3)
    for n in range(24):
        at = begin + dt.timedelta(seconds=5 * n)
        Reading.objects.create(
            kitchen=kitchen, cook=running, at=at, claimed_at=at, celsius=50, entered_by=chef, by_hand=True
        )
    retention.thin_after(kitchen, chef, 35)
    assert retention.retire() == []
    assert Reading.objects.count() == 24


def test_a_month_past_for_everybody_goes_as_a_whole(past, kitchen, probe, chef):
    old, young = month_before(20), month_before(3)
    read(kitchen, probe, old, [40.0] * 5)
    read(kitchen, probe, young, [40.0] * 7)
    Forecast.objects.create(kitchen=kitchen, at=old, **forecast_of(kitchen, chef))
    assert retention.retire() == []
    retention.keep_for(kitchen, chef, 12)
    (taken,) = retention.retire()
    assert (taken.what, taken.count, taken.role) == ("dropped", 5, ask("SELECT session_user"))
    assert f"line_reading_{old:%Y_%m}" not in months_there()
    assert Reading.objects.count() == 7
    assert not Forecast.objects.exists()
    assert Entry.objects.of(kitchen).filter(kind="retention").first().what.startswith("5 readings from before")
    assert Retirement.objects.count() == 1


def forecast_of(kitchen, chef):
    from kitchen.line.models import Cook

    cook = Cook.objects.create(
        kitchen=kitchen, name="Old", document={}, result={}, started_by=chef, started_at=month_before(20)
    )
    return {"cook": cook, "stage": 0, "took_ms": 1, "answer": {}, "fan": {}, "mode": {}}


def test_a_month_another_kitchen_keeps_stays_and_only_the_others_rows_go(past, kitchen, probe, chef):
    other = Kitchen.objects.create(name="Quay")
    begin = month_before(20)
    read(kitchen, probe, begin, [40.0] * 5)
    read(other, probe, begin + HOUR, [40.0] * 6)
    retention.keep_for(kitchen, chef, 12)
    (taken,) = retention.retire()
    assert (taken.what, taken.count) == ("deleted", 5)
    assert Reading.objects.of(other).count() == 6
    assert not Reading.objects.of(kitchen).exists()


def test_readings_stand_outside_the_function_and_the_application_may_not_call_it(past, kitchen, probe, chef):
    begin = month_before(20)
    read(kitchen, probe, begin, [40.0] * 5)
    retention.keep_for(kitchen, chef, 12)
    part = f"line_reading_{begin:%Y_%m}"
    for statement in ("DELETE FROM line_reading", f"DELETE FROM {part}", f"TRUNCATE {part}", "TRUNCATE line_reading"):
        with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
            tell(statement)
    role = f"app_{uuid.uuid4().hex[:8]}"
    tell(f"CREATE ROLE {role}")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(grants, "APP", role)
        grants.grant()
    for statement in (
        "SELECT ember_retire_readings(now())", "SELECT ember_reading_months(now(), now())", f"SELECT * FROM {part}",
        f"DROP TABLE {part}", "DELETE FROM line_reading", "DELETE FROM book_retirement",
    ):  # fmt: skip
        with pytest.raises(DatabaseError, match=r"permission denied|must be owner"), transaction.atomic():
            tell(f"SET LOCAL ROLE {role}", statement)
    assert Reading.objects.count() == 5


@pytest.mark.parametrize("what", ["thinned", "dropped"])
def test_a_signed_record_keeps_all_its_readings(past, signed_in, kitchen, running, chef, probe, what):
    now = timezone.now()
    read(kitchen, probe, now, [40 + 0.01 * n for n in range(240)], every_s=0.001)
    reading_actions.type_reading(running, chef, 61.5)
    actions.finish(running, chef, "the ferry turned back")
    sign(running, chef, "password")
    running.refresh_from_db()
    before, raw = corrected(running), len(taken_readings(running))
    tell(  # as the function does once a cook is old
        "SELECT set_config('ember.retiring', 'on', true)",
        "DELETE FROM line_reading" + (" WHERE id % 12 > 0" if what == "thinned" else ""),
        "SELECT set_config('ember.retiring', 'off', true)",
    )
    decide = retention.thin_after if what == "thinned" else retention.keep_for
    decide(kitchen, chef, 35)
    running = type(running).objects.get(pk=running.pk)
    assert Reading.objects.count() < raw == len(taken_readings(running))
    assert corrected(running) == before
    page = signed_in.get(reverse("logbook:record", args=[running.pk]))
    assert len(page.context["status"].readings) == raw
    assert len(before.by_hand) == 1
    assert faults_of(running.sign_off) == []


@pytest.mark.parametrize("days", [0, 3, 34])
def test_readings_stay_whole_for_five_weeks_at_least(kitchen, chef, days):
    with pytest.raises(retention.RetentionError, match="35 days"):
        retention.thin_after(kitchen, chef, days)
    with pytest.raises(DatabaseError), transaction.atomic():
        Kitchen.objects.filter(pk=kitchen.pk).update(readings_thinned_days=days)
