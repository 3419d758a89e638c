"""Codes decide, words are shown: with every display word replaced by a random one the flows go the same way."""

from __future__ import annotations

import datetime as dt
import random
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.files import actions as codes
from ember.files.plan import parse_plan
from ember.methods.prep import prep_kinds
from ember.quantities import Units
from ember.service import of_plan
from kitchen.accounts.models import Kitchen
from kitchen.brines.forms import BrineForm
from kitchen.eggs import words as egg_words
from kitchen.line import actions as line_actions
from kitchen.line import next_actions
from kitchen.line import words as line_words
from kitchen.line.models import Cook
from kitchen.line.queries import running, status_of
from kitchen.line.starting import send
from kitchen.line.step_actions import start_steps
from kitchen.line.step_cooks import step_status_of
from kitchen.logbook.record import record_of, record_state
from kitchen.plans.actions import create
from kitchen.services import day
from kitchen.services import words as service_words
from kitchen.services.models import Dish
from kitchen.services.next_actions import service_actions

from .test_batches import typed_document
from .test_brines import TYPED as BRINE
from .test_eggs import HARD, POACH

# Every table of words that a step, a place, a task or a tap is called by, and all of the apps' own.
TABLES = [codes.ACTION_WORDS, codes.PLACE_WORDS, of_plan.NAMES] + [
    table
    for words in (line_words, egg_words, service_words)
    for name, table in vars(words).items()
    if name.isupper() and isinstance(table, dict)
]
PREPARED = [
    {"kind": "dry", "minutes": 3}, {"kind": "press", "minutes": 20}, {"kind": "dry", "minutes": 1, "before": 1},
    {"kind": "carve", "minutes": 1, "before": 9},
]  # fmt: skip


def nonsense(shown):
    word = "".join(random.choices("bdfgklmnprst", k=4)) + "".join(random.choices("aeiou", k=2))
    return (word, word[::-1]) if isinstance(shown, tuple) else word


@pytest.fixture
def random_words(monkeypatch):
    """Replaces every display word; called between two runs of a flow."""

    def replace():
        random.seed(20261129)
        for table in TABLES:
            for key, shown in list(table.items()):
                monkeypatch.setitem(table, key, nonsense(shown))
        for key, kind in list(prep_kinds().items()):
            monkeypatch.setitem(prep_kinds(), key, kind.model_copy(update={"name": nonsense("")}))

    return replace


@pytest.fixture
def same_either_way(random_words):
    """Runs a flow with the words as they are and with random ones: what it traces has to be the same."""

    def compare(flow):
        usual = flow()
        assert usual, "a flow that traces nothing shows nothing"
        random_words()
        assert flow() == usual

    return compare


def at(moment):
    return patch.object(Kitchen, "now", lambda self: moment)


def plan_flow(kitchen, chef, client, document):
    """Sent to the line, each step done when it is due, checked and finished: what the codes said on the way."""
    cook = send(create(kitchen, chef, parse_plan(document), []), chef)
    moment, trace = kitchen.now(), []
    for _ in range(60):
        cook = Cook.objects.get(pk=cook.pk)
        with at(moment):
            status = status_of(cook)
            step = status.progress.next
            hand = next(h for h in next_actions.next_actions_of(running(kitchen), moment) if h.status.cook == cook)
            trace.append(
                (status.place_kind, hand.is_check, hand.early_s, step and (step.kind, step.action, step.stage))
            )
            if step is None or hand.is_check:
                break
        moment = max(status.due_at, moment)
        with at(moment):
            line_actions.do_step(cook, chef, step.number, uuid.uuid4(), status.steps)
            assert client.get(reverse("line:steps", args=[cook.pk])).status_code == 200
    with at(moment + dt.timedelta(minutes=1)):
        assert client.get(reverse("line:board")).status_code == 200
        cook = line_actions.finish(Cook.objects.get(pk=cook.pk), chef)
        record = record_of(Cook.objects.get(pk=cook.pk))
    return [*trace, record_state(record), [row["kind"] for row in record["events"]]]


def steps_flow(kitchen, chef, client, document):
    """Eggs, a brine or a reheating by their steps: where each piece is after each tap, and what is recorded."""
    cook = start_steps(kitchen, chef, "Steps", document, uuid.uuid4())
    moment, trace = kitchen.now(), []
    for _ in range(60):
        cook = Cook.objects.get(pk=cook.pk)
        with at(moment):
            status = step_status_of(cook)
            step = status.next
            trace.append((step and (step.action, step.span, step.is_lift), [place.where for place in status.places]))
            if step is None:
                break
        moment = max(status.due_at(step), moment)
        with at(moment):
            trace.append(step_status_of(cook).if_taken_out is not None)
            line_actions.do_step(cook, chef, step.number, uuid.uuid4(), status.steps)
            assert client.get(reverse("line:steps", args=[cook.pk])).status_code == 200
    with at(moment):
        heated_s = step_status_of(cook).heated_s
        cook = line_actions.finish(cook, chef)
        record = record_of(Cook.objects.get(pk=cook.pk))
    return [*trace, round(heated_s or 0.0), record_state(record)]


def test_a_plan_on_the_line(kitchen, chef, signed_in, document, same_either_way):
    document["prep"] = PREPARED
    trace = []
    same_either_way(lambda: trace.append(plan_flow(kitchen, chef, signed_in, document)) or trace[-1])
    assert any(hand_is_check for _, hand_is_check, *_ in trace[0][:-2])


@pytest.mark.parametrize("document", [HARD, HARD | {"start": "cold"}, HARD | {"start": "off-heat"}, POACH])
def test_eggs(kitchen, chef, signed_in, same_either_way, document):
    if "start" in document:
        document = {key: value for key, value in document.items() if key != "minutes"} | {"minutes": 12.0}
    flow = []
    same_either_way(lambda: flow.append(steps_flow(kitchen, chef, signed_in, document)) or flow[-1])
    wheres = {where for row in flow[0] if isinstance(row, tuple) for where in row[1]}
    assert wheres == {"waits", "in", "out"}


@pytest.mark.parametrize("school", ["equilibrium", "dry", "injected"])
def test_a_brine(kitchen, chef, signed_in, same_either_way, school):
    form = BrineForm(BRINE | {"school": school}, Units())
    assert form.is_valid(), form.errors
    document = form.document()
    same_either_way(lambda: steps_flow(kitchen, chef, signed_in, document))


def test_a_batch_that_is_reheated(kitchen, chef, signed_in, same_either_way):
    document = typed_document()
    same_either_way(lambda: steps_flow(kitchen, chef, signed_in, document))


def test_a_service_on_its_day(kitchen, chef, on_the_day, random_words):
    """What it tells of, and that the first stage's tap sends the cook, with the schedule planned in other words."""
    before = {(hand.task.id, hand.starts_a_cook) for hand in service_actions(kitchen, kitchen.now())}
    assert ("s0", True) in before
    random_words()
    after = {(hand.task.id, hand.starts_a_cook) for hand in service_actions(kitchen, kitchen.now())}
    assert after == before
    rump = next(dish for dish in Dish.objects.filter(service=on_the_day) if dish.name == "Rump")
    assert day.tap(on_the_day, chef, rump, "s0", 0, uuid.uuid4()) is not None
    told = {(hand.task.dish, hand.task.id) for hand in service_actions(kitchen, kitchen.now())}
    assert not {(str(rump.pk), "s0"), (str(rump.pk), "s1")} & told
