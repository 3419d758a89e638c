"""No heat model runs while a transaction or a lock is held: what a view calculates is done before."""

from __future__ import annotations

import json
import uuid

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.urls import reverse

from ember.heat.budget import Budget
from kitchen.line import real_course, starting, step_actions
from kitchen.line.models import Cook
from kitchen.line.queries import status_of
from kitchen.plans import evaluated
from kitchen.services import cook_from_schedule

from .posting import posted


@pytest.fixture
def held(monkeypatch):
    """How many runs of the solver came within a transaction of a request, and how many there were."""
    for memo in (
        evaluated._answer, starting._kept, step_actions._settled, cook_from_schedule._moved, real_course._simulated,
    ):  # fmt: skip
        memo.cache_clear()
    runs, spend = {"held": 0, "all": 0}, Budget.spend

    def noted(self, steps):
        runs["all"] += 1
        runs["held"] += len(connection.atomic_blocks) > 1  # the test's own is one
        spend(self, steps)

    monkeypatch.setattr(Budget, "spend", noted)
    return runs


def once(**values):
    return {"token": str(uuid.uuid4()), **values}


def test_saving_and_sending_to_the_line(chef_in, plan, document, held):
    values = posted({**document, "stages": [{**document["stages"][0], "water_c": 57.5}, *document["stages"][1:]]})
    answer = chef_in.post(reverse("plans:edit", args=[plan.pk]), once(**values, then="start"))
    assert answer.status_code == 302, answer.content.decode()[:2000]
    assert Cook.objects.get().document["stages"][0]["water_c"] == 57.5
    assert held["all"] > 0
    assert held["held"] == 0


def test_a_plan_that_cannot_be_cooked(chef_in, plan, document, held):
    values = posted({**document, "stages": [{**document["stages"][0], "water_c": 40.0}, *document["stages"][1:]]})
    assert chef_in.post(reverse("plans:edit", args=[plan.pk]), once(**values)).status_code in (302, 422)
    assert held["held"] == 0


def test_importing(chef_in, document, held):
    file = SimpleUploadedFile("plan.json", json.dumps(document).encode())
    assert chef_in.post(reverse("plans:import"), once(file=file)).status_code == 302
    assert held["all"] > 0
    assert held["held"] == 0


def test_a_tap_on_the_line(chef_in, running, held):
    step = status_of(running).progress.next
    for _ in range(2):
        answer = chef_in.post(
            reverse("line:do", args=[running.pk]), once(step=str(step.number), sure="1"), headers={"HX-Request": "true"}
        )
        assert b'id="board"' in answer.content
    assert held["held"] == 0


def test_the_first_task_of_a_dish(chef_in, on_the_day, held):
    service = on_the_day
    dish = service.dishes.exclude(plan=None).first()
    chef_in.post(
        reverse("services:tap", args=[service.pk]), once(dish=str(dish.pk), task="s0", n="0"),
    )  # fmt: skip
    assert Cook.objects.filter(plan=dish.plan).exists()
    assert held["held"] == 0


def test_eggs(chef_in, held):
    values = once(target="runny", mass="60", start="4", count="2")
    chef_in.post(reverse("eggs:send", args=["boil"]), values)
    assert held["held"] == 0
