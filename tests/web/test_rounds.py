"""Turns and bastings that come again and again: counted, timed by themselves, ended by one tap."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen
from kitchen.line import actions
from kitchen.line.errors import LineError
from kitchen.line.events import events_of
from kitchen.line.models import Cook, CookEvent
from kitchen.line.next_actions import next_actions_of
from kitchen.line.queries import status_of
from kitchen.line.starting import start
from kitchen.line.track_events import track_events
from kitchen.plans.actions import create

from .pages import body_of


def begun(kitchen, chef, document, stages):
    document["stages"] = stages
    return start(create(kitchen, chef, parse_plan(document), []), chef)


@pytest.fixture
def turned(kitchen, chef, document):
    """A steak turned every 30 s for 8 min, then rested."""
    pan = {"kind": "pan", "pan_c": 200.0, "turn_every_s": 30.0, "minutes": 8.0}
    return begun(kitchen, chef, document, [pan, {"kind": "rest", "air_c": 22.0, "minutes": 5.0}])


def at(cook, seconds):
    when = cook.started_at + dt.timedelta(seconds=seconds)
    return patch.object(Kitchen, "now", lambda self: when)


def hands_at(cook, seconds):
    with at(cook, seconds):
        cook = Cook.objects.get(pk=cook.pk)
        return next_actions_of([status_of(cook)], cook.kitchen.now())


def test_turns_are_counted_and_the_timer_runs_by_itself(turned):
    (hand,) = hands_at(turned, 10)
    assert (hand.round.count, hand.round_at, hand.round.every_s) == (15, 1, 30.0)
    assert hand.in_s == pytest.approx(20.0)
    (hand,) = hands_at(turned, 70)
    assert hand.round_at == 3
    assert hand.in_s == pytest.approx(20.0)
    assert not hand.is_round_over


def test_at_the_end_it_is_asked_once_and_the_rest_is_there_too(turned):
    over, rest = hands_at(turned, 15 * 30 + 5)
    assert over.is_round_over
    assert rest.step.verb == "Rest" or rest.step.kind in ("pull", "move")
    assert rest.in_s == pytest.approx(25.0, abs=0.6)


def test_the_core_goes_on_while_it_is_turned(turned):
    found = []
    for seconds in (60, 200, 400):
        with at(turned, seconds):
            found.append(status_of(Cook.objects.get(pk=turned.pk)).present_c)
    assert found[0] < found[1] - 3 < found[2] - 6


def test_one_tap_ends_the_round_and_undo_brings_it_back(client, chef, turned):
    client.force_login(chef)
    with at(turned, 460):
        body = body_of(client.get(reverse("line:board")))
        assert "Turned each time" in body
        client.post(reverse("line:do", args=[turned.pk]), {"step": 1, "how": "each"})
        cook = Cook.objects.get(pk=turned.pk)
        status = status_of(cook)
        assert status.round is None
        assert len(status.done) == 16
        assert CookEvent.objects.filter(cook=cook, kind="done").count() == 1
        assert events_of(status)[0].words == "Turned each time, 15"
        actions.undo_step(cook, chef, uuid.uuid4(), status.last_event)
        assert status_of(Cook.objects.get(pk=turned.pk)).round.count == 15


def test_missed_turns_reach_the_record_and_the_model(client, chef, turned):
    client.force_login(chef)
    with at(turned, 460):
        page = client.post(reverse("line:do", args=[turned.pk]), {"step": 1, "how": "missed", "missed": "x"})
        assert page.status_code == 302
        assert not CookEvent.objects.filter(kind="done").exists()
        client.post(reverse("line:do", args=[turned.pk]), {"step": 1, "how": "missed", "missed": "11"})
        status = status_of(Cook.objects.get(pk=turned.pk))
        told = [event.s for event in track_events(status) if event.kind == "turned"]
        assert len(told) == 4
        assert told == sorted(told)
        assert told[0] >= 30.0
        assert told[-1] <= 460.0
        assert events_of(status)[0].words == "Turned, 11 of 15 missed"


@pytest.mark.parametrize("missed", [-1, 16])
def test_more_than_there_were_cannot_be_missed(turned, chef, missed):
    with pytest.raises(LineError, match="enter 0 to 15"):
        actions.end_round(turned, chef, 1, uuid.uuid4(), status_of(turned).steps, missed)


def test_resting_it_before_the_round_is_told_is_taken(turned, chef):
    with at(turned, 480):
        status = status_of(Cook.objects.get(pk=turned.pk))
        actions.do_step(turned, chef, 16, uuid.uuid4(), status.steps)
        after = status_of(Cook.objects.get(pk=turned.pk))
        assert after.progress.next.kind == "end"


def test_basting_rounds_are_counted_likewise(kitchen, chef, document):
    document["piece"] = {"cut": "chicken/whole", "shape": {"kind": "from_mass"}, "mass_g": 1800.0, "start_c": 5.0}
    document["target"] = {"core_c": 74.0}
    oven = {"kind": "oven", "air_c": 180.0, "minutes": 90.0, "baste_every_min": 15.0}
    cook = begun(kitchen, chef, document, [oven, {"kind": "rest", "air_c": 22.0, "minutes": 10.0}])
    steps = status_of(cook).steps
    wash = next(step for step in steps if step.kind == "wash")
    with at(cook, 1):
        actions.do_step(cook, chef, wash.number, uuid.uuid4(), steps)
    (hand,) = hands_at(cook, 16 * 60)
    assert hand.round.kind == "baste"
    assert (hand.round_at, hand.round.count) == (2, 5)
    assert hand.round.every_s == 900.0


def test_two_sides_are_tapped_one_by_one(running):
    assert status_of(running).round is None
    steps = status_of(running).steps
    assert sum(step.kind == "turn" for step in steps) == 1
