"""A plan sent to the line waits there with its preparation; its clock starts when the piece goes in."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen
from kitchen.line import actions
from kitchen.line.forecasting import due_cooks, refresh
from kitchen.line.models import Cook, CookEvent
from kitchen.line.queries import status_of
from kitchen.line.starting import send
from kitchen.plans.actions import create

from .pages import body_of
from .test_plans import posted


@pytest.fixture
def prepared(document):
    """A plan with two things to do before the bath, and one after it."""
    document["prep"] = [
        {"kind": "dry", "minutes": 3}, {"kind": "season", "minutes": 2, "with": ["pepper"]},
        {"kind": "dry", "minutes": 1, "before": 1},
    ]  # fmt: skip
    return document


@pytest.fixture
def sent(kitchen, chef, prepared):
    return send(create(kitchen, chef, parse_plan(prepared), []), chef)


def later(cook: Cook, minutes: float):
    at = cook.events.first().at + dt.timedelta(minutes=minutes)
    return patch.object(Kitchen, "now", lambda self: at)


def done(cook: Cook, person, times: int = 1) -> Cook:
    for _ in range(times):
        cook = Cook.objects.get(pk=cook.pk)
        status = status_of(cook)
        actions.do_step(cook, person, status.progress.next.number, uuid.uuid4(), status.steps)
    return Cook.objects.get(pk=cook.pk)


def test_the_preparation_comes_first_and_nothing_heats(sent, chef):
    assert sent.waits
    verbs = [step.verb for step in status_of(sent).steps]
    assert verbs[:3] == ["Dry it", "Season", "Drop"]
    assert verbs.count("Dry it") == 2
    with later(sent, 30):
        status = status_of(Cook.objects.get(pk=sent.pk))
        assert status.present_c == pytest.approx(5.0)
        assert status.course is None
        assert status.progress.late_s(status.now_s) > 0
    assert due_cooks() == []
    assert refresh(sent) is None


def test_the_clock_starts_with_the_tap_that_puts_it_in(sent, chef):
    with later(sent, 1):
        done(sent, chef, 2)
    with later(sent, 20):
        cook = done(sent, chef)
        assert not cook.waits
        assert cook.started_at == cook.kitchen.now()
        status = status_of(cook)
        assert status.now_s == 0.0
        assert status.progress.next.verb == "Lift" or status.progress.next.kind in ("pull", "move")
        assert status.due_at > cook.started_at
    with later(sent, 50):
        assert status_of(Cook.objects.get(pk=sent.pk)).present_c > 15.0


def test_putting_it_in_is_taken_back(sent, chef):
    due = sent.started_at
    with later(sent, 9):
        cook = done(sent, chef, 3)
        assert not cook.waits
        actions.undo_step(cook, chef, uuid.uuid4())
    cook = Cook.objects.get(pk=sent.pk)
    assert cook.waits
    assert cook.started_at == due


def test_a_planned_start_is_kept_and_late_shows(signed_in, kitchen, chef, prepared):
    plan = create(kitchen, chef, parse_plan(prepared), [])
    wanted = (kitchen.now() + dt.timedelta(hours=3)).astimezone(kitchen.zone)
    data = posted(prepared) | {"then": "start", "start_token": str(uuid.uuid4()), "up_at": f"{wanted:%H:%M}"}
    signed_in.post(reverse("plans:edit", args=[plan.pk]), data)
    cook = Cook.objects.get()
    due = cook.started_at
    status = status_of(cook)
    last_s = status.steps[-1].at_s
    assert abs((due + dt.timedelta(seconds=last_s) - wanted).total_seconds()) < 61
    at = due + dt.timedelta(minutes=2)
    with patch.object(Kitchen, "now", lambda self: at):
        body = body_of(signed_in.get(reverse("line:steps", args=[cook.pk])))
        assert " late</p>" in body
        assert CookEvent.objects.get(cook=cook).data["due_at"] == due.isoformat()


def test_a_time_that_is_none_is_told_beside_the_plan(signed_in, plan, document):
    data = posted(document) | {"then": "start", "start_token": str(uuid.uuid4()), "up_at": "soon"}
    answer = signed_in.post(reverse("plans:edit", args=[plan.pk]), data)
    assert answer.status_code == 422
    assert "Enter a time of day, like 18:30." in body_of(answer)
    assert 'value="soon"' in body_of(answer)
    assert not Cook.objects.exists()


def test_its_steps_are_tapped_one_after_the_other_to_the_check(signed_in, sent):
    url = reverse("line:steps", args=[sent.pk])
    body = body_of(signed_in.get(url))
    assert "Dry it" in body
    status = status_of(sent)
    start = next(step for step in status.steps if step.kind == "start")
    for step in status.steps[: start.number]:
        signed_in.post(reverse("line:steps-act", args=[sent.pk]), {"step": step.number, "how": "done"})
    assert "In the bath now" in body_of(signed_in.get(url))
    for step in status.steps[start.number : -1]:
        signed_in.post(reverse("line:steps-act", args=[sent.pk]), {"step": step.number, "how": "done"})
    body = body_of(signed_in.get(url))
    assert "Check<" in body
    answer = signed_in.post(reverse("line:steps-act", args=[sent.pk]), {"how": "finish"})
    assert answer.url == reverse("line:check", args=[sent.pk])


def test_stopping_one_that_waits_for_later_is_no_crash(signed_in, kitchen, chef, prepared):
    plan = create(kitchen, chef, parse_plan(prepared), [])
    cook = send(plan, chef, due_at=kitchen.now() + dt.timedelta(hours=2))
    signed_in.post(reverse("line:stop", args=[cook.pk]), {"why": "not ordered"})
    cook.refresh_from_db()
    assert cook.finished_at is not None
    assert signed_in.get(reverse("logbook:record", args=[cook.pk])).status_code == 200


def test_every_page_opens_while_it_waits(signed_in, sent):
    for name in ("line:check", "line:steps"):
        assert signed_in.get(reverse(name, args=[sent.pk])).status_code == 200
    body = body_of(signed_in.get(reverse("line:board")))
    assert "Waiting" in body


def test_a_device_is_told_of_it_once_it_has_begun(client, kitchen, chef, prepared, device):
    cook = send(create(kitchen, chef, parse_plan(prepared), []), chef, device[0].probes.first())
    auth = {"Authorization": f"Bearer {device[1]}"}
    assert client.get("/api/v1/cooks", headers=auth).json()["cooks"] == []
    done(cook, chef, 3)
    (row,) = client.get("/api/v1/cooks", headers=auth).json()["cooks"]
    assert [event["kind"] for event in row["events"]] == ["done", "done", "started"]
    assert None not in [event["step"] for event in row["events"]]


def test_a_chosen_probe_outlives_the_next_number_typed(signed_in, document, device):
    probe = device[0].probes.last()
    body = body_of(signed_in.post(reverse("plans:bench"), posted(document) | {"probe": str(probe.pk)}))
    assert f'<option value="{probe.pk}" selected>' in body


def test_washing_hands_is_among_the_steps_and_holds_up_nothing(signed_in, kitchen, chef, prepared):
    prepared |= {"piece": {**prepared["piece"], "cut": "chicken/breast"}, "target": {"core_c": 66.0}, "prep": []}
    prepared["stages"] = [{"kind": "bath", "water_c": 67.0, "until": {"core_c": 65.0}}]
    cook = send(create(kitchen, chef, parse_plan(prepared), []), chef)
    url = reverse("line:steps", args=[cook.pk])
    done(cook, chef)
    body = body_of(signed_in.get(url))
    assert "Wash hands" in body
    assert "hands washed, board changed" in body
    wash = next(step for step in status_of(cook).steps if step.kind == "wash")
    signed_in.post(reverse("line:steps-act", args=[cook.pk]), {"step": wash.number, "how": "done"})
    assert "Wash hands" not in body_of(signed_in.get(url)).split("steps-after")[0]


def test_preparation_is_late_only_once_its_own_minutes_have_passed(sent):
    for minutes, in_s in ((0.5, 150.0), (2.9, 6.0), (3.5, -30.0)):
        with later(sent, minutes):
            status = status_of(Cook.objects.get(pk=sent.pk))
            assert status.progress.next.verb == "Dry it"
            assert status.progress.due_s - status.now_s == pytest.approx(in_s, abs=0.01)
