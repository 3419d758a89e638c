"""The demonstration kitchen, and the simulated probe's physics."""

from __future__ import annotations

import datetime as dt

import pytest
from django.core.management import call_command

from ember.errors import NeverReached
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.track.full_steps import full_steps_of
from ember.track.steps import steps_of
from kitchen.accounts.models import Kitchen
from kitchen.demo.build import build
from kitchen.demo.kitchen import PLANS
from kitchen.demo.simulated_probe import reading_now, truth_of
from kitchen.line.models import Cook
from kitchen.line.queries import status_of
from kitchen.logbook.record import build as record
from kitchen.plans.models import Plan


@pytest.fixture
def demo(db):
    return build("a-token-for-tests")


def test_the_demo_has_its_plans_and_three_past_cooks(demo):
    assert Plan.objects.of(demo).count() == len(PLANS)
    cooks = list(Cook.objects.of(demo).order_by("started_at"))
    assert len(cooks) == 3
    verdicts = {cook.name: record(status_of(cook))["verdict"] for cook in cooks}
    assert verdicts["Chicken breast for the crossing"]["met"] is True
    short = next(cook for cook in cooks if cook.name.startswith("Harbour cod"))
    assert verdicts[short.name]["met"] is False
    assert short.sign_off.record["corrections"]
    served = next(cook for cook in cooks if cook.name.startswith("Lamb"))
    assert verdicts[served.name]["met"] is False
    assert served.document["advisory"] is True


@pytest.mark.parametrize("document", PLANS, ids=[d["name"] for d in PLANS])
def test_every_demo_plan_lands_where_it_wants(document):
    result = evaluate(parse_plan(document))
    assert result.doneness.word == document["target"]["doneness"]
    rule = result.safety[0]
    assert rule.met or document.get("advisory"), rule.words


def test_loading_twice_makes_one_kitchen(db, settings, tmp_path):
    settings.LOCAL = tmp_path
    call_command("load_demo", if_empty=True, quiet=True)
    call_command("load_demo", if_empty=True, quiet=True)
    assert Kitchen.objects.count() == 1
    assert (tmp_path / "demo-probe-token").stat().st_mode & 0o077 == 0


def test_the_simulated_truth_follows_what_hands_did(document):
    plan = parse_plan(document)
    planned = evaluate(plan)
    steps = steps_of(plan, planned.stages)
    started = dt.datetime(2026, 5, 1, 12, tzinfo=dt.UTC)

    def event(step, s, kind="done"):
        return {"kind": kind, "step": step, "at": (started + dt.timedelta(seconds=s)).isoformat()}

    def read(truth, events, s):
        return reading_now(truth, steps, events, started, started + dt.timedelta(seconds=s))

    begun = [event(0, 0, "started")]
    same = truth_of(plan, 1.0, 0.0)
    pull = planned.stages[0].end_s
    assert read(same, begun, pull) == pytest.approx(planned.pull.reading_c, abs=0.1)
    assert read(truth_of(plan, 1.2, 0.0), begun, pull) < planned.pull.reading_c - 1
    left_in = read(same, begun, pull * 1.5)
    assert left_in > planned.pull.reading_c + 1
    seared = [*begun, event(1, pull), event(2, pull + 40), event(3, pull + 80)]
    assert read(same, seared, pull + 380) > planned.pull.reading_c
    taken_back = [*seared, event(3, pull + 90, "undone")]
    assert read(same, taken_back, pull + 100) != read(same, seared, pull + 100)


def test_the_simulated_truth_tempers_for_as_long_as_it_stood(document):
    document["stages"].insert(0, {"kind": "temper", "air_c": 21, "minutes": 40})
    plan = parse_plan(document)
    steps = full_steps_of(plan, evaluate(plan).stages, cut(plan.piece.cut))
    started = dt.datetime(2026, 5, 1, 12, tzinfo=dt.UTC)
    begun = [{"kind": "started", "step": 0, "at": started.isoformat()}]

    def after(minutes):
        return reading_now(plan, steps, begun, started, started + dt.timedelta(minutes=minutes))

    assert after(0.1) == pytest.approx(5.0, abs=0.3)
    assert after(5) < after(20) < after(40) < 21


def test_a_demo_that_cannot_be_cooked_would_be_noticed(document):
    document["stages"][0] = {"kind": "bath", "water_c": 50, "until": {"peak_c": 80}}
    with pytest.raises(NeverReached):
        evaluate(parse_plan(document))
