"""The readings API as a device meets it."""

from __future__ import annotations

import datetime as dt
import json

import pytest
from django.urls import reverse
from django.utils import timezone

from kitchen.accounts.models import Kitchen
from kitchen.kit.actions import revoke
from kitchen.line.models import Reading

from .pages import body_of

URL = "/api/v1/readings"


@pytest.fixture
def post(client, device):
    def send(body, token=device[1], url=URL):
        text = body if isinstance(body, str) else json.dumps(body)
        return client.post(url, text, content_type="application/json", headers={"Authorization": f"Bearer {token}"})

    return send


def at(seconds=0.0):
    return (timezone.now() + dt.timedelta(seconds=seconds)).isoformat()


def reading(seconds=0.0, celsius=40.0, probe="1"):
    return {"probe": probe, "at": at(seconds), "celsius": celsius}


def test_readings_are_kept_once_however_often_they_come(post):
    batch = {"readings": [reading(-20, 40.0), reading(-10, 41.0)]}
    assert post(batch).json() == {"kept": 2, "repeated": 0, "refused": []}
    assert post(batch).json() == {"kept": 0, "repeated": 2, "refused": []}
    assert Reading.objects.count() == 2


def test_readings_may_come_out_of_order_and_late(post, running):
    from kitchen.line.cook_readings import readings_of

    post({"readings": [reading(0, 43.0)]})
    post({"readings": [reading(-1, 42.0), reading(-2, 41.0)]})
    times = list(readings_of(running).values_list("at", flat=True))
    assert times == sorted(times)


@pytest.mark.parametrize("token", ["", "wrong", "x" * 500])
def test_a_wrong_token_is_refused(post, token):
    response = post({"readings": []}, token)
    assert response.status_code == 401
    assert response.json()["error"]["code"] == "token"


def test_no_token_at_all(client, db):
    assert client.post(URL, "{}", content_type="application/json").status_code == 401


def test_a_revoked_token_is_refused(post, device):
    assert post({"readings": []}).status_code == 200
    revoke(device[0])
    assert post({"readings": []}).status_code == 401


def test_only_the_hash_of_a_token_is_kept(device):
    assert device[1] not in json.dumps(list(type(device[0]).objects.values("token_hash", "name")))


@pytest.mark.parametrize(
    ("body", "place"),
    [
        ("nonsense", ""),
        ("[]", ""),
        ({}, "readings"),
        ({"readings": [{"probe": "1", "at": "yesterday", "celsius": 5}]}, "readings[0].at"),
        ({"readings": [{"probe": "1", "at": "2026-01-01T10:00:00", "celsius": 5}]}, "readings[0].at"),
        ({"readings": [{"probe": "1", "at": "2026-01-01T10:00:00Z", "celsius": "hot"}]}, "readings[0].celsius"),
        ({"readings": [{"probe": "1", "at": "2026-01-01T10:00:00Z", "celsius": 5000}]}, "readings[0].celsius"),
        ({"readings": [], "extra": 1}, "extra"),
    ],
)
def test_bad_bodies_name_their_place(post, body, place):
    response = post(body)
    assert response.status_code == 422
    assert response.json()["error"].get("at", "") == place


def test_ten_thousand_readings_are_asked_for_in_parts(post):
    response = post({"readings": [reading(-i, 40.0) for i in range(10_000)]})
    assert response.status_code == 413
    assert "5000" in response.json()["error"]["message"]
    assert Reading.objects.count() == 0


def test_five_thousand_readings_are_kept(post, django_assert_max_num_queries):
    with django_assert_max_num_queries(16):
        response = post({"readings": [reading(-i / 10, 40.0) for i in range(5000)]})
    assert response.json()["kept"] == 5000


def test_one_bad_reading_does_not_lose_the_others(post):
    answer = post({"readings": [reading(-5, 40.0), reading(-4, 41.0, probe="9"), reading(7200, 42.0)]}).json()
    assert answer["kept"] == 1
    assert [row["index"] for row in answer["refused"]] == [1, 2]
    assert "no probe" in answer["refused"][0]["message"]
    assert "in the future" in answer["refused"][1]["message"]


def test_a_device_with_a_wrong_clock_is_put_right(post):
    wrong = timezone.now() - dt.timedelta(days=400)
    batch = {
        "sent_at": wrong.isoformat(),
        "readings": [{"probe": "1", "at": (wrong - dt.timedelta(seconds=30)).isoformat(), "celsius": 51.0}],
    }
    answer = post(batch).json()
    assert answer["kept"] == 1
    assert answer["clock_off_s"] == pytest.approx(400 * 86400, abs=5)
    assert (timezone.now() - Reading.objects.get().at).total_seconds() == pytest.approx(30, abs=5)
    assert post(batch).json()["repeated"] == 1


def test_a_clock_that_jumps_back_loses_nothing(post):
    before, after = timezone.now(), timezone.now() - dt.timedelta(hours=1)
    for sent, celsius in ((before, 50.0), (after, 50.5)):
        body = {"sent_at": sent.isoformat(), "readings": [{"probe": "1", "at": sent.isoformat(), "celsius": celsius}]}
        assert post(body).json()["kept"] == 1
    times = list(Reading.objects.order_by("id").values_list("at", flat=True))
    assert times[1] >= times[0]


def test_without_sent_at_a_very_old_reading_is_refused(post):
    answer = post({"readings": [reading(-40 * 86400)]})
    assert answer.status_code == 422
    assert "30 days" in answer.json()["refused"][0]["message"]


def test_other_methods_are_refused_in_json(client, device):
    response = client.get(URL, headers={"Authorization": f"Bearer {device[1]}"})
    assert response.status_code == 405
    assert response.json()["error"]["code"] == "method"


def test_the_clock_of_a_real_kitchen_cannot_be_sped_up(post, client, device, kitchen):
    assert post({"rate": 60}, url="/api/v1/clock").status_code == 403
    Kitchen.objects.filter(pk=kitchen.pk).update(is_demo=True)
    assert post({"rate": 60}, url="/api/v1/clock").json()["rate"] == 60
    assert post({"rate": 0}, url="/api/v1/clock").status_code == 422
    now = client.get("/api/v1/clock", headers={"Authorization": f"Bearer {device[1]}"}).json()
    assert now["rate"] == 60


def test_a_sped_up_clock_goes_on_from_what_it_showed(kitchen):
    from kitchen.kit.actions import set_clock

    kitchen.is_demo = True
    kitchen.save()
    set_clock(kitchen, 100.0)
    first = kitchen.now()
    assert (first - timezone.now()).total_seconds() < 5
    set_clock(kitchen, 1.0)
    assert kitchen.now() >= first


def test_a_device_sees_only_what_its_own_probes_are_in(client, post, running, device, kitchen):
    from kitchen.kit.actions import add_device

    _, other = add_device(kitchen, "Other box", 1)
    url = reverse("readings:cooks")
    mine = client.get(url, headers={"Authorization": f"Bearer {device[1]}"}).json()["cooks"]
    assert [(c["name"], c["probes"]) for c in mine] == [("Test strip", ["1"])]
    assert client.get(url, headers={"Authorization": f"Bearer {other}"}).json()["cooks"] == []


def test_a_device_is_added_and_its_token_shown_once(client, chef):
    client.force_login(chef)
    body = body_of(client.post(reverse("kit:add-device"), {"name": "Four", "probes": "4"}, follow=True))
    assert "not be shown again" in body
    assert "not be shown again" not in body_of(client.get(reverse("kit:kit")))
    again = body_of(client.post(reverse("kit:add-device"), {"name": "Four", "probes": "1"}, follow=True))
    assert "already a device" in again
    assert "1 to 8" in body_of(client.post(reverse("kit:add-device"), {"name": "F", "probes": "0"}, follow=True))
