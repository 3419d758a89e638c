"""What hands do beside the chain of stages."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from ember.food.catalogue import cut
from ember.track.full_steps import PAN_READY_S, early_s, full_steps_of
from ember.track.steps import steps_of

from .plans import plan

CHAIN = [
    {"kind": "bath", "water_c": 57, "until": {"core_c": 52}},
    {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 2},
    {"kind": "rest", "minutes": 5},
]


def hands(stages, cut_id="beef/strip-loin", prep=(), **piece):
    recipe = plan(stages, cut_id, **piece).model_copy()
    recipe = type(recipe).model_validate({**recipe.model_dump(by_alias=True, exclude_none=True), "prep": list(prep)})
    result = evaluate(recipe)
    return full_steps_of(recipe, result.stages, cut(cut_id)), recipe, result


def words(steps):
    return [step.verb for step in steps]


def test_a_plain_chain_has_its_steps_and_nothing_else():
    steps, recipe, result = hands(CHAIN)
    assert steps == steps_of(recipe, result.stages)


def test_preparation_stands_between_lifting_and_laying():
    prep = [
        {"kind": "season", "before": 0},
        {"kind": "dry", "before": 1},
        {"kind": "rub", "before": 1, "with": ["pepper"]},
    ]
    steps, _, result = hands(CHAIN, prep=prep)
    assert words(steps) == ["Drop", "Pull", "Dry it", "Rub", "Lay", "Turn", "Rest", "Check"]
    pull, dry, rub, lay = steps[1:5]
    assert pull.reading_c == result.stages[0].reading_c
    assert (pull.to_place, dry.to_place, lay.from_place, lay.to_place, lay.to_c) == (
        "board", "board", "board", "pan", 225,
    )  # fmt: skip
    assert rub.how == "with pepper"
    assert {step.at_s for step in steps[1:5]} == {result.stages[0].end_s}
    assert [step.number for step in steps] == list(range(len(steps)))


def test_carving_comes_before_the_check_that_ends_it():
    steps, *_ = hands(CHAIN, prep=[{"kind": "carve", "before": 3, "minutes": 4}])
    assert words(steps)[-2:] == ["Carve", "Check"]


def test_what_is_pulled_at_the_end_is_carved_after():
    steps, *_ = hands([{"kind": "oven", "air_c": 170, "minutes": 60}], prep=[{"kind": "carve", "before": 1}])
    assert words(steps) == ["Load", "Pull", "Carve", "Check"]


def test_an_oven_is_opened_to_baste_and_not_at_the_very_end():
    oven = [{"kind": "oven", "air_c": 170, "minutes": 90, "baste_every_min": 30}, {"kind": "rest", "minutes": 5}]
    steps, *_ = hands(oven)
    assert [(step.verb, step.at_s) for step in steps] == [
        ("Load", 0.0), ("Baste", 1800.0), ("Baste", 3600.0), ("Pull", 5400.0), ("Check", 5700.0),
    ]  # fmt: skip


def test_a_pan_is_basted_from_its_second_on_among_its_turns():
    pan = [{"kind": "pan", "pan_c": 200, "minutes": 6, "turn_every_s": 120, "baste": {"from_s": 180, "every_s": 5}}]
    steps, *_ = hands(pan)
    assert [(step.verb, step.at_s) for step in steps] == [
        ("Lay", 0.0), ("Turn", 120.0), ("Baste", 180.0), ("Turn", 240.0), ("Pull", 360.0),
    ]  # fmt: skip
    assert "flame on" in steps[2].how


@pytest.mark.parametrize(
    ("cut_id", "origin", "washed"),
    [("chicken/breast", "farmed", True), ("venison/loin", "wild", True), ("venison/loin", "farmed", False),
     ("beef/strip-loin", "farmed", False), ("duck/breast", "farmed", True)],
)  # fmt: skip
def test_hands_are_washed_after_raw_poultry_and_game(cut_id, origin, washed):
    steps, *_ = hands([{"kind": "bath", "water_c": 66, "minutes": 90}], cut_id, origin=origin)
    assert (steps[1].verb == "Wash") is washed
    if washed:
        assert steps[1].at_s == 0.0


def test_a_pan_is_told_of_early_enough_to_heat_it():
    steps, *_ = hands(CHAIN)
    assert early_s(steps[1]) == PAN_READY_S  # into the pan
    assert early_s(steps[2]) == 10.0  # a turn
