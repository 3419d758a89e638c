"""The demonstration in the middle of its evening: what is on, how its clock runs, and starting it again."""

from __future__ import annotations

import datetime as dt
import re
from itertools import pairwise
from unittest.mock import patch

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ember.judge.states import State
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Kitchen, Person
from kitchen.batches.cooling_status import shelf_of
from kitchen.demo import tasks
from kitchen.demo.build import build, build_again
from kitchen.demo.clock import go_on, set_to
from kitchen.demo.evening import DISHES, LATE, OPENS
from kitchen.demo.galley import SLIPPED_IN, Galley
from kitchen.demo.kitchen import PASSWORD, PAST, PEOPLE
from kitchen.demo.past import last_awake
from kitchen.demo.weeks import DAY_H, FROM_TIME, NEWEST_DAYS
from kitchen.kit.actions import add_device
from kitchen.line.models import Cook, Reading
from kitchen.line.step_cooks import steps_running
from kitchen.logbook.queries import finished, row_of
from kitchen.services.models import Service
from kitchen.today.rows import line_rows

from .pages import body_of

LONGEST_COOK_H = 4.0
TOKENS = {"wires": "w" * 40, "bath": "b" * 40}


@pytest.fixture
def galley(db):
    return build("p" * 40, TOKENS, evening=True)


def test_it_opens_on_an_evening_under_way(galley):
    now = galley.now()
    assert now.astimezone(galley.zone).time().replace(second=0, microsecond=0) == OPENS
    on = {cook.name for cook in Cook.objects.of(galley).of_plans().filter(finished_at=None)}
    assert len(on) == 5
    assert on < {plan for plan, *_ in DISHES}
    kinds = {status.cook.kind for status in steps_running(galley, now)}
    assert kinds == {Cook.Kind.EGGS, Cook.Kind.BRINE}
    first = line_rows(galley, now)[0]
    assert (first.name, first.words) == ("Pull", LATE)
    assert first.at <= now + dt.timedelta(minutes=1)
    assert Service.objects.of(galley).get(ended_at=None, started_at__isnull=False).fits
    there, _ = shelf_of(galley, now)
    assert any(batch.is_missed for batch in there)
    assert any(batch.next_stage for batch in there)


def test_one_probe_has_slipped_and_the_others_follow_their_pieces(galley):
    for cook in Cook.objects.of(galley).of_plans().filter(finished_at=None):
        probe = cook.probe_uses.get().probe
        last = list(Reading.objects.filter(probe=probe).order_by("at").values_list("celsius", flat=True))
        jumps = [b - a for a, b in pairwise(last)]
        assert (max(jumps) > 6.0) == (cook.name == SLIPPED_IN), cook.name


@pytest.fixture
def weeks(db):
    return build("p" * 40, TOKENS, weeks=True)


def test_past_cooks_are_sensible(weeks):
    rows = [row_of(cook) for cook in finished(weeks)]
    assert len(rows) >= 38
    by_state = {state: sum(row.state == state for row in rows) for state in State}
    assert by_state[State.NOT_MET] <= 2
    assert by_state[State.MET] >= 10
    assert sum(not row.signed for row in rows) <= 5
    hours = {row.cook.started_at.astimezone(weeks.zone).hour for row in rows if row.signed}
    longest = max(row.cook.finished_at - row.cook.started_at for row in rows)
    assert longest < dt.timedelta(hours=LONGEST_COOK_H)
    assert max(hours) - min(hours) < 20  # nobody cooks in the small hours
    chef = Client()
    chef.force_login(Person.objects.get(username="runa"))
    body = body_of(chef.get(reverse("book:who")))
    days = set(re.findall(r"<time[^>]*>(\w{3} \d+ \w{3})", body))
    assert len(days) > 1  # dated when it happened, not when it was loaded


@pytest.fixture
def small(db):
    """A demonstration with its people and one reading: enough for its bar and its sign-in."""
    now = timezone.now()
    kitchen = Kitchen.objects.create(name="MV Tern Island", is_demo=True, clock_set_at=now, clock_showed=now)
    for username, name, role in PEOPLE:
        add_person(kitchen, username, name, PASSWORD, role)
    device, _ = add_device(kitchen, "Needle box", 1)
    Reading.objects.create(kitchen=kitchen, probe=device.probes.get(), at=now, claimed_at=now, celsius=20.0)
    return kitchen


def test_its_pace_is_changed_and_held_from_its_bar(small, client):
    client.force_login(Person.objects.get(username="pell"))
    assert "rail-demo" in body_of(client.get(reverse("home")))
    assert client.post(reverse("demo:pace"), {"pace": "60", "back": "/line/"}).url == "/line/"
    small.refresh_from_db()
    assert small.clock_rate == 60
    client.post(reverse("demo:pace"), {"pace": "0"})
    small.refresh_from_db()
    assert small.now() == small.now()
    for odd in ("-1", "9999", "x", ""):
        client.post(reverse("demo:pace"), {"pace": odd, "back": "//elsewhere.example"})
    small.refresh_from_db()
    assert small.clock_rate == 0


def test_nothing_of_it_shows_in_a_real_kitchen(signed_in, small, client):
    assert "rail-demo" not in body_of(signed_in.get(reverse("home")))
    assert signed_in.post(reverse("demo:pace"), {"pace": "10"}).status_code == 404
    assert signed_in.post(reverse("demo:again")).status_code == 404
    assert "demonstration" not in body_of(Client().get(reverse("accounts:sign-in")))
    Client().post(reverse("accounts:sign-in"), {"demo": "runa"})
    assert Client().post(reverse("accounts:sign-in"), {"demo": "runa"}).status_code == 200  # no way in


def test_sign_in_lists_its_people_to_tap(small):
    browser = Client()
    assert "Runa Askvik" in body_of(browser.get(reverse("accounts:sign-in")))
    assert browser.post(reverse("accounts:sign-in"), {"demo": "runa"}).url == reverse("home")
    assert browser.post(reverse("accounts:sign-in"), {"demo": "nobody"}).status_code in (200, 302)
    assert Client().post(reverse("accounts:sign-in"), {"demo": "nobody"}).status_code == 200


def test_the_evening_goes_on_where_the_application_stopped(small):
    stood = Reading.objects.filter(kitchen=small).order_by("-at").first().at
    assert not go_on(small)
    set_to(small, small.now() + dt.timedelta(hours=14))
    assert go_on(small)
    assert abs((small.now() - stood).total_seconds()) < 60


def test_starting_again_gives_its_people_a_new_evening(small, client, settings, tmp_path):
    settings.LOCAL = tmp_path
    runa = Person.objects.get(username="runa")
    client.force_login(runa)
    with patch.object(tasks.restart_evening, "configure") as configured:
        page = client.post(reverse("demo:again"))
    assert configured.return_value.defer.call_args.kwargs == {"kitchen_id": small.pk}
    assert client.get(page.url).status_code == 200
    with patch("kitchen.demo.build.build", lambda token, more, weeks, evening: build("q" * 40, more)):
        build_again(small)
    assert client.get(page.url).url == reverse("home")
    now = [row.kitchen for row in Person.objects.get(pk=runa.pk).current_memberships]
    assert len(now) == 1
    assert now[0] != small
    assert Kitchen.objects.filter(pk=small.pk).exists()  # records are never deleted
    assert len(list(tmp_path.iterdir())) == 3  # the tokens of the new devices


def test_the_simulated_probes_send_for_what_cooks_and_hold_with_the_clock(galley, live_server, tmp_path):
    for device, name in {"probe": "p" * 40, "wires": "w" * 40, "bath": "b" * 40}.items():
        (tmp_path / f"demo-{device}-token").write_text(name)
    simulated = Galley(live_server.url, tmp_path)
    before = Reading.objects.count()
    simulated.tick()
    assert Reading.objects.count() == before + 6  # one of each probe in a piece, and the bath
    set_to(galley, galley.now(), 0.0)
    simulated.tick()
    held = Reading.objects.count()
    simulated.tick()
    assert Reading.objects.count() == held


@pytest.mark.parametrize("hour", range(0, 24, 3))
def test_nobody_cooked_in_the_small_hours_whatever_the_time(small, hour):
    at = small.now().astimezone(small.zone).replace(hour=hour, minute=10)
    set_to(small, at, 0.0)
    awake = last_awake(small)
    assert awake <= at
    assert 10 <= awake.hour <= 23
    assert at - awake < dt.timedelta(hours=13)


@pytest.mark.parametrize("hour", range(24))
def test_the_last_cooks_begin_after_those_of_the_weeks_before_have_ended(small, hour):
    # All went by one probe, which is in one piece at a time.
    at = small.now().astimezone(small.zone).replace(hour=hour, minute=30)
    set_to(small, at, 0.0)
    first = last_awake(small) - dt.timedelta(hours=max(past["hours_ago"] for past in PAST))
    newest = dt.datetime.combine((at - dt.timedelta(days=NEWEST_DAYS)).date(), FROM_TIME, small.zone)
    assert newest + dt.timedelta(hours=DAY_H + LONGEST_COOK_H) < first
