"""The check that every plan of a service is held against: each limit, bent, is found and said; nothing else is."""

from __future__ import annotations

import datetime as dt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ember.bench.service_made import made_service
from ember.files.service import parse_service
from ember.service.answer import plan_service
from ember.service.check import broken
from ember.service.problem import make_problem
from ember.service.reading import changes_of, hands_peak, settings_of, slack_of, waits_of

NOW = dt.datetime(2031, 5, 7, 12, 0, tzinfo=dt.timezone(dt.timedelta(hours=2)))


def clock(minutes):
    return (NOW + dt.timedelta(minutes=minutes)).isoformat()


EQUIPMENT = [
    {"id": "oven", "kind": "oven", "name": "Oven 4", "capacity": 2, "start_c": 20, "heat_c_per_min": 10,
     "cool_c_per_min": 5},
    {"id": "hands", "kind": "hands", "name": "Hands", "capacity": 1, "shifts": [[clock(30), clock(400)]]},
]  # fmt: skip
BIRD = [
    {"id": "roast", "name": "Roast", "minutes": 60, "uses": [{"equipment": "oven", "setting_c": 180}]},
    {"id": "baste", "name": "Baste", "minutes": 2, "uses": [{"equipment": "hands"}],
     "during": {"task": "roast", "every_min": 25, "slack_min": 3}},
    {"id": "parcels", "name": "Parcels", "minutes": 20, "uses": [{"equipment": "oven", "setting_c": 180}],
     "ends_with": "roast"},
    {"id": "rest", "name": "Rest", "minutes": 20, "after": ["roast"], "max_gap_min": 2, "max_wait_min": 15},
    {"id": "carve", "name": "Carve", "minutes": 10, "after": ["rest"], "uses": [{"equipment": "hands"}],
     "max_wait_min": 8},
]  # fmt: skip
TART = [
    {"id": "bake", "name": "Bake", "minutes": 30, "uses": [{"equipment": "oven", "setting_c": 210}]},
    {"id": "soup", "name": "Soup", "minutes": 15, "starts_with": "bake", "not_before": clock(40)},
]  # fmt: skip
# Where everything stands and holds, minutes from now, by task and how often it came.
HOLDS = {
    ("bird", "roast", 0): 250, ("bird", "baste", 1): 275, ("bird", "baste", 2): 300, ("bird", "parcels", 0): 290,
    ("bird", "rest", 0): 310, ("bird", "carve", 0): 335, ("tart", "bake", 0): 100, ("tart", "soup", 0): 100,
}  # fmt: skip


def problem_of(**more):
    dishes = [
        {"id": "bird", "name": "Bird", "plate_up": clock(350), "tasks": [{**t, **more.get(t["id"], {})} for t in BIRD]},
        {"id": "tart", "name": "Tart", "plate_up": clock(350), "tasks": [{**t, **more.get(t["id"], {})} for t in TART]},
    ]
    data = {"format": "open-ember/service", "version": 1, "now": NOW.isoformat(), "dishes": dishes}
    return make_problem(parse_service({**data, "equipment": EQUIPMENT}))


def starts(problem, **moved):
    """Where all stands, with some of it elsewhere: `carve=340`; of what comes again `baste_2=310`."""
    found = {}
    for step in problem.steps:
        name = step.task.id if not step.n else f"{step.task.id}_{step.n}"
        found[step.index] = problem.now + moved.get(name, HOLDS[step.dish.id, step.task.id, step.n])
    return found


def kinds(problem, **moved):
    return {row.kind for row in broken(problem, starts(problem, **moved))}


def test_what_holds_breaks_nothing():
    assert broken(problem_of(), starts(problem_of())) == []


@pytest.mark.parametrize(
    ("moved", "kind", "words"),
    [
        ({"carve": 345}, "late", "Bird would be 5 min late"),
        ({"bake": 10, "soup": 10}, "too-early", "Before 12:40 it cannot begin"),
        ({"carve": 325}, "order", "Carve comes after Rest"),
        ({"rest": 314}, "gap", "Rest begins at most 2 min after Roast"),
        ({"parcels": 280}, "tied", "Parcels ends with Roast"),
        ({"soup": 101}, "tied", "Soup begins with Bake"),
        ({"baste_1": 279}, "during", "Baste has its minute while Roast runs"),
        ({"carve": 331}, "wait", "Carve waits at most 8 min"),
        ({"bake": 2, "soup": 2}, "warm", "Oven 4 is at 210 °C from 12:19 on"),
        ({"bake": 225, "soup": 225}, "setting", "Oven 4 cannot be 210 and 180 °C"),
        ({"baste_1": 300, "baste_2": 300}, "places", "Hands has 1"),
    ],
)
def test_each_limit_that_is_bent_is_found_and_said(moved, kind, words):
    problem = problem_of()
    found = broken(problem, starts(problem, **moved))
    assert kind in {row.kind for row in found}
    assert any(words in row.text for row in found if row.kind == kind), [row.text for row in found]


def test_a_change_of_setting_takes_its_time_and_not_a_minute_more():
    """From 210 down to 180 at 5 K a minute: 6 min between; Bake is over at 244 when it begins at 214."""
    problem = problem_of()
    assert "setting" not in kinds(problem, bake=214, soup=214)
    assert "setting" in kinds(problem, bake=215, soup=215)


def test_hands_that_went_home():
    problem = problem_of(bake={"uses": [{"equipment": "hands"}]})
    assert "shift" in kinds(problem, bake=20, soup=20)
    assert "shift" not in kinds(problem, bake=30, soup=30)


def test_what_has_begun_and_what_was_put_by_hand_stays():
    problem = problem_of(bake={"started": clock(-5)}, carve={"at": clock(335)})
    assert kinds(problem, bake=-5, soup=-5) <= {"too-early", "tied"}
    assert "started" in kinds(problem, bake=0)
    assert "pinned" in kinds(problem, carve=338)


def test_more_pieces_than_places():
    full = problem_of(parcels={"uses": [{"equipment": "oven", "setting_c": 180, "amount": 2}]})
    found = broken(full, starts(full))
    assert [row.kind for row in found] == ["places"]
    assert "Oven 4 has 2, at 16:50 3 are wanted: Roast, Parcels." in found[0].text


@given(st.sampled_from(sorted(HOLDS)), st.integers(-40, 40))
def test_of_one_step_the_same_is_found_as_of_all(key, by):
    """With `only` a step is held against the same limits, and against no others."""
    problem = problem_of()
    step = next(s for s in problem.steps if (s.dish.id, s.task.id, s.n) == key)
    there = {**starts(problem), step.index: problem.now + HOLDS[key] + by}
    everything = {(row.kind, row.steps) for row in broken(problem, there) if step.index in row.steps}
    alone = {(row.kind, row.steps) for row in broken(problem, there, only=step.index)}
    assert {kind for kind, _ in alone} == {kind for kind, _ in everything}


def test_what_the_starts_come_to():
    problem = problem_of()
    there = starts(problem)
    by_name = {problem.steps[i].task.id: minutes for i, minutes in waits_of(problem, there).items()}
    assert by_name == {"roast": 0, "parcels": 40, "rest": 5, "carve": 5, "bake": 220, "soup": 235}
    told = settings_of(problem, there)
    assert [(row.setting_c, (row.there - row.on_the_way).total_seconds() / 60) for row in told] == [(210, 19), (180, 6)]
    assert changes_of(told) == 1
    assert hands_peak(problem, there) == 1


def test_slack_ends_where_the_next_limit_begins():
    """Carving may begin at 340 at the latest; the bake at 214, for the oven's sake, but its soup holds it."""
    problem = problem_of()
    by_name = {step.task.id: step for step in problem.steps if not step.n}
    assert slack_of(problem, starts(problem), by_name["carve"]) == 5
    assert slack_of(problem, starts(problem), by_name["rest"]) == 2
    assert slack_of(problem, starts(problem), by_name["bake"]) == 0


@pytest.mark.parametrize("seed", [11, 12, 13])
def test_a_plan_moved_by_its_slack_still_holds_and_by_a_minute_more_does_not(seed):
    request = parse_service(made_service(9, seed))
    answer = plan_service(request)
    problem = make_problem(request)
    told = {(row.dish, row.id, row.n): row.start for row in answer.tasks}
    there = {s.index: problem.at_down(told[s.dish.id, s.task.id, s.n]) for s in problem.steps}
    for step in problem.steps:
        slack = slack_of(problem, there, step)
        assert broken(problem, {**there, step.index: there[step.index] + slack}, only=step.index) == []
        if slack < problem.units_down(600):
            assert broken(problem, {**there, step.index: there[step.index] + slack + 1}, only=step.index)
