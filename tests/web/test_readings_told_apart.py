"""Readings are told apart by the device's start and their order; what came late changes no signed record."""

from __future__ import annotations

import datetime as dt
import json

import pytest
from django.core.cache import cache
from django.urls import reverse
from django.utils import timezone

from kitchen.kit.models import Device
from kitchen.line.cook_readings import came_late, readings_of
from kitchen.line.models import CookEvent, ProbeUse, Reading
from kitchen.logbook.actions import sign
from kitchen.readings import api

from .pages import body_of

URL = "/api/v1/readings"
START = dt.datetime(1970, 1, 1, tzinfo=dt.UTC)


@pytest.fixture
def post(client, device):
    cache.clear()

    def send(body):
        return client.post(
            URL, json.dumps(body), content_type="application/json", headers={"Authorization": f"Bearer {device[1]}"}
        )

    return send


def since_start(seconds):
    return (START + dt.timedelta(seconds=seconds)).isoformat()


def batch(sent_s, *rows, **more):
    readings = [{"probe": "1", "at": since_start(s), "celsius": c} for s, c in rows]
    return {"sent_at": since_start(sent_s), "readings": readings} | more


def test_a_device_without_a_clock_that_starts_anew_loses_nothing(post, monkeypatch):
    first = batch(20, (10, 40.0), (20, 41.0))
    assert post(first).json()["kept"] == 2
    assert post(first).json()["repeated"] == 2  # its answer was lost
    # Ten minutes later it starts anew, and reads the same at the same seconds.
    now = timezone.now() + dt.timedelta(minutes=10)
    monkeypatch.setattr("kitchen.accounts.models.Kitchen.now", lambda self: now)
    assert post(first).json()["kept"] == 2
    assert post(batch(25, (10, 40.0), (20, 41.0), (25, 41.0))).json()["kept"] == 1
    readings = Reading.objects.order_by("at")
    assert [r.celsius for r in readings] == [40.0, 41.0, 40.0, 41.0, 41.0]
    assert readings[2].at - readings[0].at == pytest.approx(dt.timedelta(minutes=10), abs=dt.timedelta(seconds=5))


def test_a_device_may_tell_its_start_and_its_numbers(post):
    numbered = {"readings": [{"probe": "1", "at": timezone.now().isoformat(), "celsius": 40.0, "n": n} for n in (1, 2)]}
    numbered["readings"][1]["at"] = numbered["readings"][0]["at"]
    assert post({**numbered, "boot": "a"}).json()["kept"] == 2  # one second, one value, two readings
    assert post({**numbered, "boot": "a"}).json() == {"kept": 0, "repeated": 2, "refused": []}
    assert post({**numbered, "boot": "b"}).json()["kept"] == 2


@pytest.mark.parametrize(("key", "value"), [("n", -1), ("n", 2**63), ("n", "x"), ("boot", "b" * 33)])
def test_a_start_or_number_that_is_none_is_refused(post, key, value):
    reading = {"probe": "1", "at": timezone.now().isoformat(), "celsius": 40.0}
    body = {"readings": [reading], key: value} if key == "boot" else {"readings": [{**reading, key: value}]}
    answer = post(body)
    assert answer.status_code == 422
    assert key in answer.json()["error"]["at"]
    assert not Reading.objects.exists()


def test_a_clock_ten_minutes_slow_without_sent_at_is_noticed(post, signed_in):
    old = (timezone.now() - dt.timedelta(minutes=10)).isoformat()
    answer = post({"readings": [{"probe": "1", "at": old, "celsius": 40.0}]}).json()
    assert answer["kept"] == 1
    assert answer["newest_behind_s"] == pytest.approx(600, abs=20)
    assert "its clock is slow" in body_of(signed_in.get(reverse("kit:devices")))
    (reading,) = Reading.objects.all()
    assert reading.received_at - reading.at == pytest.approx(dt.timedelta(minutes=10), abs=dt.timedelta(seconds=20))
    post({"readings": [{"probe": "1", "at": timezone.now().isoformat(), "celsius": 40.0}]})
    assert Device.objects.get().behind_s is None


def test_a_device_that_asks_too_often_is_told_when_to_come_back(post, monkeypatch):
    monkeypatch.setattr(api, "POSTS_A_MINUTE", 3)
    answers = [post({"readings": []}) for _ in range(8)]
    refused = [a for a in answers if a.status_code == 429]
    assert refused
    assert all(1 <= int(a.headers["Retry-After"]) <= 60 for a in refused)
    assert refused[0].headers["Content-Type"] == "application/problem+json"


def test_what_comes_after_a_signature_never_changes_the_record(post, signed_in, chef, running, device, monkeypatch):
    use = ProbeUse.objects.get(cook=running)
    probe = use.probe
    start = running.started_at
    source = {"probe": probe, "kitchen": running.kitchen}
    for s, c in ((10, 20.0), (60, 30.0)):
        at = start + dt.timedelta(seconds=s)
        Reading.objects.create(**source, at=at, claimed_at=at, received_at=at, celsius=c)
    end = start + dt.timedelta(seconds=120)
    CookEvent.objects.create(cook=running, kind=CookEvent.Kind.CORRECTED, at=end, by=chef, data={"note": "thrown away"})
    running.finished_at = end
    running.save()
    use.during = (start, end)
    use.save()

    late = start + dt.timedelta(seconds=90)
    Reading.objects.create(**source, at=late, claimed_at=late, received_at=end + dt.timedelta(seconds=5), celsius=35.0)
    assert came_late(running) == (1, 0)
    assert readings_of(running).count() == 3

    monkeypatch.setattr("kitchen.accounts.models.Kitchen.now", lambda self: end + dt.timedelta(minutes=1))
    signature = sign(running, chef, "password")
    csv_url = reverse("logbook:readings-csv", args=[running.pk])
    record_url = reverse("logbook:record", args=[running.pk])
    csv = b"".join(signed_in.get(csv_url).streaming_content)
    later = start + dt.timedelta(seconds=95)
    after = signature.at + dt.timedelta(minutes=5)
    Reading.objects.create(**source, at=later, claimed_at=later, received_at=after, celsius=99.0)
    running.refresh_from_db()
    assert came_late(running) == (2, 1)
    assert b"".join(signed_in.get(csv_url).streaming_content) == csv
    page = body_of(signed_in.get(record_url))
    assert "2 readings arrived after the cook was finished; 1 after it was signed off, and not in the record" in page
    assert "99.0" not in page
