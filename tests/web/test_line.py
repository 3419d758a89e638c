"""The line: starting, steps once however often they are tapped, readings, checks, records that stand."""

from __future__ import annotations

import datetime as dt
import uuid

import pytest
from django.db import DatabaseError, connection, transaction
from django.urls import reverse
from django.utils import timezone

from kitchen.line import actions, queries, reading_actions, starting
from kitchen.line.models import Cook, CookEvent, ProbeUse, Reading
from kitchen.logbook.actions import sign
from kitchen.logbook.models import SignOff

from ..conftest import PASSWORD
from .pages import body_of
from .posting import posted


@pytest.fixture
def signed_in(client, cook_person):
    client.force_login(cook_person)
    return client


def read_back(cook, *values, every_s=10):
    """Typed readings from the start on."""
    for i, celsius in enumerate(values):
        reading_actions.type_reading(
            cook, cook.started_by, celsius, cook.started_at + dt.timedelta(seconds=every_s * i)
        )


def test_sending_to_the_line_makes_one_cook_however_often(signed_in, plan, document):
    data = posted(document) | {"then": "start", "start_token": str(uuid.uuid4())}
    for _ in range(2):
        url = signed_in.post(reverse("plans:edit", args=[plan.pk]), data).url
        assert url == reverse("line:steps", args=[Cook.objects.get().pk])
    assert Cook.objects.count() == 1
    body = body_of(signed_in.get("/line/"))
    assert "Next action" in body
    assert "Drop Test strip" in body


def test_a_probe_cannot_be_in_two_pieces(plan, chef, running, device):
    with pytest.raises(actions.LineError, match="already in Test strip"):
        starting.start(plan, chef, device[0].probes.first())
    assert Cook.objects.count() == 1


def test_two_people_tapping_the_same_step_do_it_once(running, chef, cook_person):
    steps = queries.status_of(running).steps
    first = actions.do_step(running, cook_person, 1, uuid.uuid4(), steps)
    second = actions.do_step(running, chef, 1, uuid.uuid4(), steps)
    assert first.pk == second.pk
    assert CookEvent.objects.filter(kind="done").count() == 1


def test_the_same_request_twice_does_it_once(running, cook_person):
    token = uuid.uuid4()
    for _ in range(2):
        actions.do_step(running, cook_person, 1, token, queries.status_of(running).steps)
    assert CookEvent.objects.filter(kind="done").count() == 1


@pytest.mark.parametrize("step", [2, 4, 99, -1])
def test_a_step_that_is_not_next_is_refused(running, cook_person, step):
    with pytest.raises(actions.LineError):
        actions.do_step(running, cook_person, step, uuid.uuid4(), queries.status_of(running).steps)


def test_a_step_can_be_taken_back_but_not_the_start(running, cook_person):
    actions.do_step(running, cook_person, 1, uuid.uuid4(), queries.status_of(running).steps)
    assert actions.undo_step(running, cook_person, uuid.uuid4()).step == 1
    assert set(queries.status_of(running).done) == {0}
    assert actions.undo_step(running, cook_person, uuid.uuid4()) is None
    actions.do_step(running, cook_person, 1, uuid.uuid4(), queries.status_of(running).steps)
    assert set(queries.status_of(running).done) == {0, 1}


def test_taps_answer_with_the_board(signed_in, running):
    response = signed_in.post(
        reverse("line:do", args=[running.pk]), {"step": "1", "token": str(uuid.uuid4())}, headers={"HX-Request": "true"}
    )
    assert 'id="board"' in body_of(response)
    stale = signed_in.post(reverse("line:do", args=[running.pk]), {"step": "4"}, headers={"HX-Request": "true"})
    assert "not next" in body_of(stale)


def test_typed_readings(signed_in, running):
    url = reverse("line:reading", args=[running.pk])
    signed_in.post(url, {"celsius": "31,5"}, headers={"HX-Request": "true"})
    assert Reading.objects.get().celsius == 31.5
    for bad in ("abc", "", "999", "-80"):
        body = body_of(signed_in.post(url, {"celsius": bad}, headers={"HX-Request": "true"}))
        assert "board-problem" in body
    assert Reading.objects.count() == 1
    assert "31.5" in body_of(signed_in.get("/line/"))


def test_a_reading_moves_the_pull(running):
    status = queries.status_of(running)
    planned = status.progress.due_s
    half = planned / 2
    now = running.started_at + dt.timedelta(seconds=half)
    cool = status.progress.reading_c
    reading_actions.type_reading(running, running.started_by, cool, now)
    behind = queries.CookStatus(Cook.objects.get(pk=running.pk), now)
    assert behind.is_measured
    assert behind.progress.due_s > planned + 60


def test_a_silent_probe_is_told(signed_in, running):
    later = queries.CookStatus(running, running.started_at + dt.timedelta(seconds=200))
    assert later.silent_s == pytest.approx(200)
    assert not later.is_measured


def test_check_asks_for_what_the_sense_gives(signed_in, running):
    url = reverse("line:check", args=[running.pk])
    assert "Enter the probe reading" in body_of(signed_in.post(url, {"sense": "probe"}))
    assert "Choose what you felt" in body_of(signed_in.post(url, {"sense": "press"}))
    response = signed_in.post(url, {"sense": "press", "word": "rare", "then": "finish", "token": str(uuid.uuid4())})
    assert response.url == reverse("logbook:record", args=[running.pk])
    running.refresh_from_db()
    assert running.finished_at is not None
    assert ProbeUse.objects.get().during.upper is not None
    body = body_of(signed_in.get(response.url))
    assert "Rare" in body
    assert "Not met" in body, "a second in the pan"


def test_stopping_needs_a_reason(signed_in, running):
    url = reverse("line:stop", args=[running.pk])
    signed_in.post(url, {"why": " "})
    running.refresh_from_db()
    assert running.finished_at is None
    signed_in.post(url, {"why": "dropped on the floor"})
    body = body_of(signed_in.get(reverse("logbook:record", args=[running.pk])))
    assert "dropped on the floor" in body


def test_nothing_more_happens_to_a_finished_cook(running, cook_person):
    actions.finish(running, cook_person)
    actions.finish(running, cook_person)
    assert CookEvent.objects.filter(kind="finished").count() == 1
    for act in (
        lambda: actions.do_step(running, cook_person, 1, uuid.uuid4(), queries.status_of(running).steps),
        lambda: actions.undo_step(running, cook_person, uuid.uuid4()),
        lambda: reading_actions.type_reading(running, cook_person, 50.0),
    ):
        with pytest.raises(actions.LineError):
            act()


def test_a_record_shows_plan_against_done_and_its_rule(client, chef, running, cook_person):
    read_back(running, *[5 + i for i in range(40)], every_s=30)
    actions.do_step(running, cook_person, 1, uuid.uuid4(), queries.status_of(running).steps)
    actions.finish(running, cook_person)
    client.force_login(chef)
    body = body_of(client.get(reverse("logbook:record", args=[running.pk])))
    for words in ("Not met", "3-401.11", "Sign off as Ada Chef", "Core at pull", "planned", "measured"):
        assert words in body


def test_a_missed_rule_is_not_signed_without_a_word(client, chef, running, cook_person):
    read_back(running, 20, 40, 55, 56)
    actions.finish(running, cook_person)
    client.force_login(chef)
    url = reverse("logbook:record", args=[running.pk])
    assert "Enter the corrective action" in body_of(client.post(
        reverse("logbook:sign", args=[running.pk]), {"own_password": PASSWORD}, follow=True
    ))  # fmt: skip
    assert not SignOff.objects.exists()
    client.post(reverse("logbook:correct", args=[running.pk]), {"note": "Back in the oven, 66 after 5 min"})
    client.post(reverse("logbook:sign", args=[running.pk]), {"own_password": PASSWORD})
    assert SignOff.objects.get().record["corrections"][0]["note"].startswith("Back in the oven")
    body = body_of(client.get(url))
    assert "A signed record cannot be changed" in body
    again = client.post(reverse("logbook:correct", args=[running.pk]), {"note": "later"}, follow=True)
    assert "signed" in body_of(again)


def test_a_cook_cannot_sign(signed_in, running, cook_person):
    actions.finish(running, cook_person)
    assert signed_in.post(reverse("logbook:sign", args=[running.pk])).status_code == 403


def test_a_running_cook_cannot_be_signed(running, chef):
    with pytest.raises(actions.LineError, match="Finish"):
        sign(running, chef, "password")


@pytest.mark.parametrize(
    "statement",
    [
        "update line_cookevent set at = now()",
        "delete from line_cookevent",
        "update line_reading set celsius = 70",
        "delete from line_reading",
        "update logbook_signoff set record = '{}'",
        "delete from logbook_signoff",
        "update line_cook set name = 'x'",
        "delete from line_cook",
        "update line_probeuse set during = tstzrange(now(), null)",
        "insert into line_cookevent (cook_id, kind, at, by_id, data, token) "
        "select cook_id, kind, at, by_id, data, gen_random_uuid() from line_cookevent limit 1",
    ],
)
def test_the_database_itself_refuses_to_change_a_signed_record(running, chef, cook_person, statement):
    read_back(running, 20, 64, 64, 64)
    actions.finish(running, cook_person)
    sign(running, chef, "password")
    with (
        pytest.raises(DatabaseError, match=r"never changed|signed"),
        transaction.atomic(),
        connection.cursor() as cursor,
    ):
        cursor.execute(statement)


def test_readings_go_out_as_a_probe_log(signed_in, running, cook_person, device):
    now = timezone.now()
    reading_actions.keep_readings(
        running.kitchen, [reading_actions.ProbeReading(device[0].probes.first(), now, now, 33.25)]
    )
    reading_actions.type_reading(running, cook_person, 34.5)
    actions.finish(running, cook_person)
    response = signed_in.get(reverse("logbook:readings-csv", args=[running.pk]))
    lines = b"".join(response.streaming_content).decode().splitlines()
    assert lines[0] == "time,probe,celsius"
    assert [line.split(",")[1:] for line in lines[1:]] == [["Box 1", "33.25"], ["typed", "34.50"]]
    assert dt.datetime.fromisoformat(lines[1].split(",")[0]).utcoffset() is not None


def test_an_empty_line_and_an_empty_log_say_what_to_do(signed_in):
    assert "Nothing is cooking" in body_of(signed_in.get("/line/"))
    assert "No finished cooks yet" in body_of(signed_in.get("/log/"))


def test_a_plan_changed_later_does_not_change_its_cook(running, plan, chef):
    plan.document["stages"][0]["water_c"] = 70
    plan.save()
    assert Cook.objects.get().document["stages"][0]["water_c"] == 57.0


def test_the_first_hand_says_what_can_hurt(client, cook_person, running):
    client.force_login(cook_person)
    body = body_of(client.get(reverse("line:board")))
    assert "Lay it away from you" in body or "Open the pouch away from you" in body
