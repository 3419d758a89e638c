"""A tap far from its time: the board asks, and shows the core by the times things were really done at."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from ember.heat.simulate import simulate
from kitchen.accounts.models import Kitchen
from kitchen.line.board_view import board
from kitchen.line.models import CookEvent
from kitchen.line.queries import running
from kitchen.line.starting import start
from kitchen.line.step_actions import start_steps
from kitchen.line.step_cooks import step_status_of
from kitchen.plans.actions import create

from ..lanes import lanes_of
from .pages import body_of


@pytest.fixture
def began(kitchen, chef, document):
    """A steak that went into its bath ten minutes ago."""
    document["stages"][0] = {"kind": "bath", "water_c": 62.0, "until": {"peak_c": 54.5}}
    at = kitchen.now() - dt.timedelta(minutes=40)
    with patch.object(Kitchen, "now", lambda self: at):
        return start(create(kitchen, chef, parse_plan(document), []), chef)


def pulled(cook, person, after_s):
    step = next(s for s in cook.result["steps"] if s["kind"] == "pull")
    at = cook.started_at + dt.timedelta(seconds=after_s)
    CookEvent.objects.create(cook=cook, kind="done", step=step["number"], at=at, by=person)


def at_minute(cook, minutes):
    with patch.object(Kitchen, "now", lambda self: cook.started_at + dt.timedelta(minutes=minutes)):
        (status,) = running(cook.kitchen)
        shown = {**board(cook.kitchen), "lanes": lanes_of(cook.kitchen)}
        return status, status.present_c, status.word_now, shown


def pull_in(shown):
    hands = [shown["first_action"], *shown["queue"]]
    return next(hand for hand in hands if getattr(hand, "step", None) and hand.step.kind == "pull")


def test_a_pull_a_minute_into_the_bath_shows_the_core_it_has(began, chef):
    planned = began.result["pull"]["reading_c"]
    pulled(began, chef, 60.0)
    for minutes in (2, 4):
        status, present_c, word, _ = at_minute(began, minutes)
        assert status.course is not None
        assert present_c < 30.0 < planned - 15.0
        assert word == "raw"
    # The same as the heat model says of a minute in the water and then the pan it was put into.
    status, present_c, _, _ = at_minute(began, 2)
    stages = [
        {"kind": "bath", "water_c": 62, "minutes": 1},
        {"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 1},
    ]
    done = simulate(parse_plan({**began.document, "stages": stages}))
    assert present_c == pytest.approx(float(done.reading_c(120.0)[0]), abs=1.0)


def test_a_pull_in_time_is_the_plans_own_curve(began, chef):
    pulled(began, chef, began.result["pull"]["s"] + 5.0)
    status, _, _, _ = at_minute(began, 0.2 + began.result["pull"]["s"] / 60.0)
    assert status.course is None


def test_the_board_asks_before_it_takes_a_slip(client, chef, began):
    _, _, _, shown = at_minute(began, 3)
    hand = pull_in(shown)
    assert hand.far_too_early_s > 600
    _, _, _, later = at_minute(began, began.result["pull"]["s"] / 60.0 - 1)
    hand = pull_in(later)
    assert hand.far_too_early_s is None


def test_the_page_asks_in_place_and_the_tap_counts(client, chef, kitchen, document):
    document["stages"][0] = {"kind": "bath", "water_c": 62.0, "until": {"peak_c": 54.5}}
    cook = start(create(kitchen, chef, parse_plan(document), []), chef)
    client.force_login(chef)
    body = body_of(client.get(reverse("line:board")))
    assert "Pull anyway" in body
    assert "Tapped by mistake" in body
    assert " early.</b> The core would be" in body
    client.post(reverse("line:do", args=[cook.pk]), {"step": "1", "sure": "1"})
    assert CookEvent.objects.filter(cook=cook, kind="done").count() == 1


def test_a_piece_that_is_left_in_goes_on_heating(began, chef):
    """Nobody tapped the pull: the core is that of a bath of its length so far, not that of the planned pull."""
    pull = began.result["pull"]
    minutes = pull["s"] / 60.0 + 60.0
    status, present_c, _, shown = at_minute(began, minutes)
    assert status.course is not None
    bath = simulate(parse_plan({**began.document, "stages": [{"kind": "bath", "water_c": 62, "minutes": minutes}]}))
    assert present_c == pytest.approx(float(bath.reading_c(60.0 * minutes)[0]), abs=0.4)
    assert present_c > pull["reading_c"] + 3.0
    assert shown["lanes"][0].rule.endswith("from times tapped")


def test_a_bath_that_was_set_hotter_is_followed(began, chef):
    at = began.started_at + dt.timedelta(minutes=1)
    CookEvent.objects.create(cook=began, kind="told", at=at, by=chef, data={"what": "setting", "stage": 0, "c": 75.0})
    _, present_c, _, _ = at_minute(began, 30)
    planned = simulate(parse_plan(began.document))
    assert present_c > float(planned.reading_c(1800.0)[0]) + 3.0


def test_the_cook_page_shows_the_inside_by_the_times_tapped(client, chef, began):
    pulled(began, chef, 60.0)
    client.force_login(chef)
    body = body_of(client.get(reverse("line:check", args=[began.pk])))
    assert "Inside now, from the times you tapped" in body
    assert "estimated from the times tapped" in body


def test_an_egg_lifted_far_too_soon_is_asked_about(client, chef, kitchen):
    document = {"format": "open-ember/egg", "version": 1, "method": "boil", "count": 4, "minutes": 13.0}
    cook = start_steps(kitchen, chef, "Egg", document, uuid.uuid4())
    client.force_login(chef)
    number = 0
    while not step_status_of(cook).far_too_early_s:
        client.post(reverse("line:steps-act", args=[cook.pk]), {"step": number, "how": "done", "token": uuid.uuid4()})
        cook = type(cook).objects.get(pk=cook.pk)
        number += 1
        assert number < 5
    for name in ("line:steps", "line:board"):
        body = body_of(client.get(reverse(name, args=[cook.pk] if name == "line:steps" else [])))
        assert " early.</b> The centre of the yolk would reach" in body
        assert "Tapped by mistake" in body
