"""Inverse questions: what was asked for comes true when the answer is put into the plan."""

from __future__ import annotations

import json

import pytest

from ember.cli import main
from ember.errors import BadInput, NeverReached
from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.files.solve import parse_solve
from ember.solve.find import find

from .plans import document

BATH = [
    {"kind": "bath", "water_c": 58, "minutes": 60},
    {"kind": "pan", "pan_c": 220, "seconds_a_side": 40},
    {"kind": "rest", "minutes": 5},
]
UNTIL = [{"kind": "bath", "water_c": 58, "until": {"core_c": 54}}, {"kind": "rest", "minutes": 5}]


def ask(stages, what, stage=None, **so_that):
    question = {"what": what, "so_that": so_that} | ({} if stage is None else {"stage": stage})
    return find(parse_solve(document(stages) | {"find": question}))


def test_a_pull_for_a_peak_is_a_reading():
    found = ask(BATH, "pull", 0, peak_c=55)
    assert found.unit == "°C"
    assert found.result.core.peak_c == pytest.approx(55, abs=0.1)
    assert found.value == found.result.stages[0].reading_c < 55


@pytest.mark.parametrize(
    ("what", "stage", "so_that", "check"),
    [
        ("minutes", 0, {"peak_c": 55}, lambda r: (r.core.peak_c, 55)),
        ("minutes", 0, {"core_c": 54}, lambda r: (r.stages[0].core_c[1], 54)),
        ("minutes", 0, {"log10": 5, "organism": "listeria"}, lambda r: (r.lethality[1].log10, 5)),
        ("minutes", 1, {"peak_c": 60}, lambda r: (r.core.peak_c, 60)),
        ("minutes", 2, {"ready_s": 4200}, lambda r: (r.stages[-1].end_s / 100, 42)),
        ("medium_c", 0, {"peak_c": 55}, lambda r: (r.core.peak_c, 55)),
        ("medium_c", 1, {"peak_c": 57.5}, lambda r: (r.core.peak_c, 57.5)),
        ("thickness_mm", 0, {"core_c": 50}, lambda r: (r.stages[0].core_c[1], 50)),
    ],
)
def test_the_answer_put_into_the_plan_makes_it_true(what, stage, so_that, check):
    found = ask(BATH, what, stage, **so_that)
    got, wanted = check(found.result)
    assert got == pytest.approx(wanted, abs=0.12)


def test_a_ready_time_is_met_by_the_medium_or_by_the_thickness():
    for what in ("medium_c", "thickness_mm"):
        found = ask(UNTIL, what, 0, ready_s=5400)
        assert found.result.stages[-1].end_s == pytest.approx(5400, abs=15)
        assert found.result.stages[0].core_c[1] == pytest.approx(54, abs=0.01)


def test_what_cannot_be_says_how_near_it_comes():
    with pytest.raises(NeverReached) as caught:
        ask(BATH, "minutes", 0, peak_c=90)
    assert 55 < caught.value.highest_c < 90
    assert caught.value.at == "stages[0]"


@pytest.mark.parametrize(
    ("find_key", "at"),
    [
        ({"what": "pull", "stage": 9, "so_that": {"peak_c": 55}}, "find.stage"),
        ({"what": "pull", "stage": 0, "so_that": {"core_c": 55}}, "find.so_that"),
        ({"what": "cheaper", "so_that": {"peak_c": 55}}, "find.what"),
        ({"what": "minutes", "so_that": {"peak_c": 55, "core_c": 55}}, "find.so_that"),
        ({"what": "minutes", "so_that": {"log10": 5}}, "find.so_that"),
        ({"what": "medium_c", "stage": 0, "so_that": {"ready_s": 600}}, "find.stage"),
        ({"what": "medium_c", "stage": 3, "so_that": {"peak_c": 60}}, "stages[3]"),
    ],
)
def test_a_question_that_cannot_be_asked_is_bad_input(find_key, at):
    stages = [*BATH, {"kind": "torch", "minutes": 0.5}]
    with pytest.raises(BadInput) as caught:
        find(parse_solve(document(stages) | {"find": find_key}))
    assert caught.value.at == at


def test_a_stage_may_end_when_enough_has_died():
    stage = {"kind": "bath", "water_c": 60, "until": {"log10": 6.5, "organism": "salmonella"}}
    result = evaluate(parse_plan(document([stage])))
    assert result.stages[0].ended_by == "log10"
    assert result.lethality[0].log10 == pytest.approx(6.5, abs=0.02)
    # What died before counts: after an hour at 60 °C less is left to do.
    later = evaluate(parse_plan(document([{"kind": "bath", "water_c": 60, "minutes": 60}, stage])))
    whole = later.stages[1].end_s
    assert whole == pytest.approx(result.stages[0].end_s, rel=0.02)


def test_too_cold_a_bath_never_kills_enough():
    stage = {"kind": "bath", "water_c": 54, "until": {"log10": 1, "organism": "salmonella", "max_minutes": 600}}
    with pytest.raises(NeverReached, match=r"54\.4"):
        evaluate(parse_plan(document([stage])))


def test_solve_on_the_command_line(capsys, tmp_path):
    file = tmp_path / "question.json"
    file.write_text(json.dumps(document(BATH) | {"find": {"what": "pull", "stage": 0, "so_that": {"peak_c": 55}}}))
    assert main(["solve", str(file)]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert set(answer) == {"value", "unit", "result"}
    file.write_text(json.dumps(document(BATH)))
    assert main(["solve", str(file)]) == 2
    assert json.loads(capsys.readouterr().out)["error"]["at"] == "find"


def test_a_question_beside_an_end_by_log_reduction():
    stages = [
        {"kind": "bath", "water_c": 62, "until": {"log10": 5, "organism": "salmonella"}},
        {"kind": "pan", "pan_c": 220, "seconds_a_side": 40}, {"kind": "rest", "minutes": 5},
    ]  # fmt: skip
    assert ask(stages, "thickness_mm", 0, ready_s=3600).result.stages[-1].end_s == pytest.approx(3600, abs=15)
    assert ask(stages, "pull", 1, peak_c=66).result.core.peak_c == pytest.approx(66, abs=0.2)
