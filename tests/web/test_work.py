"""Limits on what a request may cost, and what keeps a tap quick while others calculate."""

from __future__ import annotations

import json
import threading
import time

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection, transaction
from django.urls import reverse

from kitchen import work
from kitchen.errors import server_error
from kitchen.plans.models import Plan
from kitchen.work import Busy, Gate

from .pages import body_of
from .posting import posted


@pytest.fixture(autouse=True)
def _places_of_their_own(settings, tmp_path):
    settings.LOCAL = tmp_path


FORTY = [{"kind": "oven", "air_c": 100.0 + 5 * (i % 20), "until": {"peak_c": 60.0 + i % 5}} for i in range(39)]


@pytest.fixture
def endless(document):
    return {**document, "stages": [*FORTY, {"kind": "rest", "minutes": 10.0}]}


def test_an_import_that_takes_too_long_is_refused_and_not_kept(signed_in, kitchen, endless):
    file = SimpleUploadedFile("plan.ember.json", json.dumps(endless).encode())
    answer = signed_in.post(reverse("plans:import"), {"file": file}, follow=True)
    assert "too long to calculate" in body_of(answer)
    assert not Plan.objects.of(kitchen).exists()


def test_the_bench_says_so_beside_the_plan(signed_in, endless):
    answer = signed_in.post(reverse("plans:bench"), posted(endless))
    assert "too long to calculate" in body_of(answer)


def test_a_plan_that_takes_too_long_is_not_saved(signed_in, kitchen, endless):
    answer = signed_in.post(reverse("plans:new"), posted(endless))
    assert answer.status_code == 422
    assert not Plan.objects.of(kitchen).exists()


def test_a_full_gate_sends_away_and_lets_in_again(monkeypatch):
    monkeypatch.setattr(work, "PATIENCE_S", 0.05)
    gate = Gate(at_once=1, waiting=1, a_person=2)
    with gate.held("ada") as enter, gate.held("bo") as other, gate.held("cy") as third:
        enter()
        with pytest.raises(Busy):
            other()  # waits, and is sent away
        with pytest.raises(Busy):
            third()  # both places are taken: at once
    with gate.held("dee") as again:
        again()
    assert gate.inside.total() == 0


def test_one_person_does_not_take_all_places():
    gate = Gate(at_once=3, waiting=3, a_person=1, host=3)
    with gate.held("ada") as enter, gate.held("ada") as more, gate.held("bo") as other:
        enter()
        with pytest.raises(Busy):
            more()
        other()


def test_a_newer_request_sends_the_one_that_waits_away():
    gate, outcomes = Gate(), []
    with gate.held("ada") as enter:
        enter()

        def wait(what):
            with gate.held("bo", "/plans/bench/") as other:
                try:
                    other()
                    outcomes.append(f"{what} in")
                except Busy:
                    outcomes.append(f"{what} away")

        first = threading.Thread(target=wait, args=("first",))
        first.start()
        while not gate.inside["bo"]:
            time.sleep(0.01)
        second = threading.Thread(target=wait, args=("second",))
        second.start()
        first.join(5)
    second.join(5)
    assert outcomes == ["first away", "second in"]


def test_who_waits_gets_the_place():
    gate, order = Gate(at_once=1, waiting=1), []
    with gate.held("ada") as enter:
        enter()
        waiting = threading.Thread(target=lambda: _take(gate, order))
        waiting.start()
    waiting.join(5)
    assert order == ["in"]


def _take(gate, order):
    with gate.held("bo") as enter:
        enter()
        order.append("in")


def test_whoever_waits_too_long_for_a_lock_is_told_to_come_back(rf, db):
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET LOCAL statement_timeout = 20")
            cursor.execute("SELECT pg_sleep(1)")
    except OperationalError:
        answer = server_error(rf.get("/api/v1/clock"))
    assert answer.status_code == 503
    assert server_error(rf.get("/api/v1/clock")).status_code == 500


def test_a_busy_kitchen_says_when_to_come_back(rf):
    answer = work.WorkMiddleware(lambda request: None).process_exception(rf.get("/api/v1/clock"), Busy())
    assert answer.status_code == 503
    assert answer.headers["Retry-After"] == work.RETRY_S
    assert answer.headers["Content-Type"] == "application/problem+json"
    assert work.WorkMiddleware(lambda request: None).process_exception(rf.get("/"), ValueError()) is None
