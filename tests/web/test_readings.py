"""Readings in: files, set points, the description of the API, simulated devices and what goes wrong with them."""

from __future__ import annotations

import datetime as dt
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import resolve, reverse
from jsonschema import Draft202012Validator

from ember.errors import BadInput
from kitchen.demo.simulated_faults import CLOCK_OFF, Fault, Sender
from kitchen.demo.simulated_probe import SimulatedBath
from kitchen.kit.models import Equipment
from kitchen.line import queries
from kitchen.line.csv_readings import read_csv
from kitchen.line.models import Cook, Reading
from kitchen.readings import openapi

from ..lanes import lanes_of
from .pages import body_of

BEGAN = dt.datetime(2026, 5, 1, 22, 50, tzinfo=dt.UTC)


def posts(client, token):
    """The API as a simulated device sees it, over the test client."""

    class Api:
        def call(self, path, body=None):
            ask = client.get if body is None else client.post
            more = {} if body is None else {"data": json.dumps(body), "content_type": "application/json"}
            reply = ask(f"/api/v1/{path}", headers={"Authorization": f"Bearer {token}"}, **more)
            assert reply.status_code in (200, 422), reply.content
            return reply.json()

    return Api()


# Files ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "seconds", "celsius"),
    [
        ("time,celsius\n0,4.5\n30,5.0\n", 30, 5.0),
        ("Time;Celsius\n0;4,5\n30;5,0\n", 30, 5.0),
        ("seconds\tfahrenheit\n0\t40\n60\t212\n", 60, 100.0),
        ("probe,at,reading\n1,2026-05-01T22:50:10Z,7\n1,2026-05-01T22:50:40+00:00,8\n", 40, 8.0),
        ("\ufefftime,temp\n22:51,7\n22:52:30,8\n\n", 150, 8.0),
        ("time,c\n23:59,7\n00:10,8\n", 4800, 8.0),  # past midnight
    ],
)
def test_a_file_is_read_in_the_ways_probes_write_it(text, seconds, celsius):
    found = read_csv(text.encode(), BEGAN, dt.UTC)
    assert found[-1] == (BEGAN + dt.timedelta(seconds=seconds), pytest.approx(celsius))
    assert len(found) == 2


@pytest.mark.parametrize(
    ("text", "says", "at"),
    [
        ("", "from 1 to", ""),
        ("when,what\n1,2\n", "name the columns", "line 1"),
        ("time,celsius\n", "no reading", ""),
        ("time,celsius\n0,4\nsoon,5\n", "not a time", "line 3"),
        ("time,celsius\n0,hot\n", "is not a temperature", "line 2"),
        ("time,celsius\n0\n", "too short", "line 2"),
        ("time,celsius\n0,900\n", "from −60 to 500", "line 2"),
        ("time,celsius\n27:99,5\n", "time of day", "line 2"),
    ],
)
def test_a_file_that_cannot_be_read_names_the_line(text, says, at):
    with pytest.raises(BadInput, match=says) as error:
        read_csv(text.encode(), BEGAN, dt.UTC)
    assert error.value.at == at


def test_a_file_that_is_no_text_or_too_large_is_refused():
    for raw in (b"\xff\xfe\x00", b"x" * 1_000_001):
        with pytest.raises(BadInput):
            read_csv(raw, BEGAN, dt.UTC)


def upload(client, cook, text):
    file = SimpleUploadedFile("log.csv", text.encode())
    return body_of(client.post(reverse("line:upload", args=[cook.pk]), {"file": file}, follow=True))


def test_readings_from_a_file_are_kept_once(signed_in, running):
    Cook.objects.filter(pk=running.pk).update(started_at=running.started_at - dt.timedelta(minutes=10))
    text = "time,celsius\n0,5\n120,21.5\n240,30\n"
    assert "3 readings imported." in upload(signed_in, running, text)
    assert "1 reading imported, 3 already there." in upload(signed_in, running, text + "300,33\n")
    assert [celsius for _, celsius in queries.status_of(Cook.objects.get()).readings] == [5, 21.5, 30, 33]


def test_readings_that_are_not_of_this_cook_are_refused_whole(signed_in, running):
    assert "not within this cook" in upload(signed_in, running, "time,celsius\n0,5\n9000,50\n")
    assert "Choose a CSV file" in body_of(signed_in.post(reverse("line:upload", args=[running.pk]), follow=True))
    assert not Reading.objects.exists()


# The API's description -----------------------------------------------------------------------------------------------


def test_the_description_names_what_there_is():
    found = openapi.document()
    assert found["openapi"].startswith("3.1")
    for path in found["paths"]:
        assert resolve(path).app_name == "readings"
    for schema in found["components"]["schemas"].values():
        Draft202012Validator.check_schema(schema)


def test_the_description_is_what_is_checked(client, device):
    schemas = openapi.document()["components"]["schemas"]
    wanted = Draft202012Validator({**schemas["ReadingIn"]})
    good = {"probe": "1", "at": "2026-05-01T10:00:00Z", "celsius": 5, "set_c": 6}
    assert wanted.is_valid(good)
    assert not wanted.is_valid({**good, "celsius": 900})
    assert not wanted.is_valid({**good, "surprise": 1})


def test_the_api_page_opens_and_is_the_same_as_the_file(signed_in):
    body = body_of(signed_in.get(reverse("readings:page")))
    for words in ("POST /api/v1/readings", "GET /api/v1/cooks", "celsius", "from -60"):
        assert words in body
    assert signed_in.get(reverse("readings:openapi")).json() == json.loads(json.dumps(openapi.document()))


# Controllers ---------------------------------------------------------------------------------------------------------


def test_a_controller_tells_its_set_point_and_the_lane_what_is_off(client, kitchen, chef, document, device):
    from ember.files.plan import parse_plan
    from kitchen.line.starting import start
    from kitchen.plans.actions import create

    bath = Equipment.objects.create(kitchen=kitchen, kind="bath", name="Bath A")
    device[0].probes.update(fixed_in=bath)
    start(create(kitchen, chef, parse_plan(document)), chef)
    controller = SimulatedBath(posts(client, device[1]), 57.0, 0.0, 1)
    Sender(posts(client, device[1])).send(*controller.measure())
    reading = Reading.objects.get()
    assert reading.set_c == 57.0
    (lane,) = lanes_of(kitchen)
    assert lane.found_c == pytest.approx(reading.celsius)  # still heating: 1.2 below
    for _ in range(30):
        Sender(posts(client, device[1])).send(*controller.measure())
    (lane,) = lanes_of(kitchen)
    assert lane.found_c is None  # at its setting: no second number


# Faults --------------------------------------------------------------------------------------------------------------


def readings_at(kitchen, *values):
    now = kitchen.now()
    return [{"probe": "1", "at": now.isoformat(), "celsius": value} for value in values], now


def test_what_was_held_back_comes_in_one_batch_and_nothing_is_lost_or_doubled(client, kitchen, device):
    sender = Sender(posts(client, device[1]), [Fault.parse("late@2-4"), Fault.parse("twice@5-6")])
    for value in range(1, 8):
        sender.send(*readings_at(kitchen, float(value)))
    assert sorted(Reading.objects.values_list("celsius", flat=True)) == [1, 2, 3, 4, 5, 6, 7]


def test_a_server_that_does_not_answer_costs_no_reading(client, kitchen, device):
    class Down:
        def call(self, path, body=None):
            raise OSError("nobody there")

    sender = Sender(Down())
    for value in (1.0, 2.0):
        with pytest.raises(OSError, match="nobody"):
            sender.send(*readings_at(kitchen, value))
    sender.api = posts(client, device[1])
    sender.send(*readings_at(kitchen, 3.0))
    assert sorted(Reading.objects.values_list("celsius", flat=True)) == [1, 2, 3]


def test_a_clock_hours_ahead_is_put_right(client, kitchen, device):
    sender = Sender(posts(client, device[1]), [Fault.parse("clock")])
    sender.send(*readings_at(kitchen, 50.0))
    reading = Reading.objects.get()
    assert abs((reading.at - kitchen.now()).total_seconds()) < 5
    assert (reading.claimed_at - reading.at).total_seconds() == pytest.approx(CLOCK_OFF.total_seconds(), abs=5)


def test_lost_slipped_and_stuck(client, kitchen, device):
    sender = Sender(posts(client, device[1]), [Fault.parse("lost@1"), Fault.parse("slipped@3"), Fault.parse("stuck@4")])
    for value in (40.0, 41.0, 42.0, 43.0, 44.0):
        sender.send(*readings_at(kitchen, value))
    assert list(Reading.objects.order_by("claimed_at").values_list("celsius", flat=True)) == [41, 51, 51, 44]


@pytest.mark.parametrize("text", ["broken", "late@x", ""])
def test_an_unknown_fault_is_refused(text):
    with pytest.raises(ValueError, match=r"faults are|invalid literal"):
        Fault.parse(text)
