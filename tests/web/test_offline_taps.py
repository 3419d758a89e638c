"""Taps that come late from a device: at their own time, once, and told what became of them."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from kitchen.accounts.models import Kitchen
from kitchen.line import actions
from kitchen.line.events import events_of
from kitchen.line.models import Cook, CookEvent, Reading
from kitchen.line.queries import status_of

from .pages import body_of


def send(client, cook, name, at, data, **more):
    stamp = str(round(at.timestamp() * 1000)) if isinstance(at, dt.datetime) else at
    return client.post(reverse(name, args=[cook.pk]), data, headers={"X-Kept-Tap": stamp}, **more)


@pytest.fixture
def later(running):
    """Ten minutes on."""
    now = running.started_at + dt.timedelta(minutes=40)
    with patch.object(Kitchen, "now", lambda self: now):
        yield now


def test_a_kept_tap_counts_at_its_own_time_and_once(signed_in, running, later):
    at = later - dt.timedelta(minutes=10)
    data = {"step": "1", "how": "", "token": str(uuid.uuid4())}
    for _ in range(3):
        answer = send(signed_in, running, "line:do", at, data)
        assert answer.json() == {"result": "done"}
    event = CookEvent.objects.get(cook=running, kind="done")
    assert abs((event.at - at).total_seconds()) < 0.01
    assert event.data["came_at"] == later.isoformat()


def test_what_somebody_else_did_is_told_with_who_and_when(signed_in, running, chef, later):
    with patch.object(Kitchen, "now", lambda self: later - dt.timedelta(minutes=5)):
        actions.do_step(running, chef, 1, uuid.uuid4(), status_of(running).steps)
    answer = send(signed_in, running, "line:do", later - dt.timedelta(minutes=6), {"step": "1"}).json()
    shown = (later - dt.timedelta(minutes=5)).astimezone(running.kitchen.zone)
    assert answer == {"result": "already", "by": "Ada Chef", "at": f"{shown:%H:%M}"}
    assert CookEvent.objects.filter(kind="done").count() == 1


def test_what_cannot_be_is_refused_with_its_reason(signed_in, running, later):
    answer = send(signed_in, running, "line:do", later, {"step": "4"}).json()
    assert answer["result"] == "refused"
    assert "not next" in answer["why"]
    assert send(signed_in, running, "line:reading", later, {"celsius": "999"}).json()["result"] == "refused"
    gone = signed_in.post(
        reverse("line:do", args=[uuid.uuid4()]), {"step": "1"}, headers={"X-Kept-Tap": "1700000000000"}
    )
    assert gone.json() == {"result": "refused", "why": "that step no longer exists"}
    assert "not next" not in body_of(signed_in.get(reverse("line:board"))), "said where it was tapped"


def test_a_typed_reading_keeps_its_time(signed_in, running, later):
    at = later - dt.timedelta(minutes=8)
    send(signed_in, running, "line:reading", at, {"celsius": "41.5", "token": str(uuid.uuid4())})
    reading = Reading.objects.get(cook=running)
    assert abs((reading.at - at).total_seconds()) < 0.01
    assert reading.received_at == later


@pytest.mark.parametrize(
    "stamp",
    ["tomorrow", "-5", "99999999999999", "1", "0", "9" * 40],
)
def test_a_clock_that_cannot_be_believed_is_not(signed_in, running, later, stamp):
    response = send(signed_in, running, "line:do", stamp, {"step": "1", "token": str(uuid.uuid4())})
    assert response.status_code in (200, 302)
    assert CookEvent.objects.get(kind="done").at == later


def test_a_tap_is_never_before_what_it_follows(signed_in, running, chef, later):
    first = later - dt.timedelta(minutes=5)
    with patch.object(Kitchen, "now", lambda self: first):
        actions.do_step(running, chef, 1, uuid.uuid4(), status_of(running).steps)
    send(signed_in, running, "line:do", first - dt.timedelta(minutes=2), {"step": "2"})
    events = list(CookEvent.objects.filter(kind="done").order_by("step"))
    assert events[0].at == events[1].at == first


def test_who_is_signed_out_is_asked_and_nothing_is_done(client, running, later):
    answer = send(client, running, "line:do", later, {"step": "1"})
    assert answer.status_code == 401
    assert not CookEvent.objects.filter(kind="done").exists()


def test_another_kitchens_cook_is_refused(client, stranger, running, later):
    client.force_login(stranger)
    assert send(client, running, "line:do", later, {"step": "1"}).json()["result"] == "refused"
    assert not CookEvent.objects.filter(kind="done").exists()


def test_the_shell_a_device_keeps_is_there(client):
    worker = client.get("/sw.js")
    assert worker["Content-Type"].startswith("text/javascript")
    assert "addEventListener" in body_of(worker)
    found = client.get("/manifest.webmanifest").json()
    assert {icon["sizes"] for icon in found["icons"]} == {"192x192", "512x512"}
    assert found["start_url"] == "/line/"


def test_the_steps_to_come_stand_in_the_page(signed_in, running):
    body = body_of(signed_in.get(reverse("line:board")))
    assert "data-coming=" in body
    assert Cook.objects.count() == 1
    assert events_of(status_of(running))
