"""What a load does to a bath, a fryer, a pot, an oven; pressure."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.heat.media import medium_c
from ember.heat.simulate import simulate
from ember.service.of_plan import tasks_of_plan
from ember.solve.batches import batches_of, split_loads
from ember.track.steps import steps_of

from .plans import document, plan

BREAST = {"shape": {"kind": "slab", "thickness_mm": 30}, "mass_g": 250, "start_c": 4}


def in_bath(pieces, water_c=60, minutes=180, **load):
    bath = {"kind": "bath", "water_c": water_c, "minutes": minutes, "load": {"litres": 20, "power_w": 1500, **load}}
    return parse_plan(document([bath], "chicken/breast", count=pieces, **BREAST))


def test_sixteen_kilos_in_twenty_litres_cool_the_bath_and_it_comes_back():
    stage = evaluate(in_bath(64)).stages[0]
    assert 50 < stage.medium_low_c < 56
    assert 40 < stage.medium_back_s / 60 < 90
    few = evaluate(in_bath(4)).stages[0]
    assert few.medium_low_c > 59
    assert few.medium_back_s < stage.medium_back_s


def test_without_a_heater_it_comes_to_the_mixture():
    # Twelve kilos at 5 °C into 20 l at 55 °C: 37 to 38 °C by their heat capacities, less what the tub loses in an hour.
    run = simulate(in_bath(48, 55, 60, power_w=0))
    lost_k = 5.0 * (40 - 22) * 3600 / (20 * 4180 + 12 * 3600)
    assert float(run.around_c[-1]) == pytest.approx(37.8 - lost_k, abs=1.0)


def test_the_last_of_a_large_load_is_done_later():
    small, large = (simulate(in_bath(pieces, minutes=60)).core_c[-1] for pieces in (2, 64))
    assert large < small - 1.0


def test_a_load_that_is_too_large_says_how_many_go_in_at_once():
    (said,) = [w.text for w in evaluate(in_bath(64)).warnings if w.code == "load-cools"]
    fit = int(said.partition("at most ")[2].split()[0])
    assert 10 < fit < 64
    assert not [w for w in evaluate(in_bath(fit // 2)).warnings if w.code == "load-cools"]


def test_held_without_a_load():
    held = evaluate(parse_plan(document([{"kind": "bath", "water_c": 60, "minutes": 30}], count=60)))
    assert held.stages[0].medium_low_c is None


@pytest.mark.parametrize(
    "stage",
    [
        {"kind": "fry", "oil_c": 175, "minutes": 8}, {"kind": "boil", "minutes": 20},
        {"kind": "oven", "air_c": 180, "minutes": 40},
        {"kind": "oven", "air_c": 180, "mode": "fan", "open_every_min": 10, "minutes": 40},
    ],
)  # fmt: skip
def test_other_bodies_fall_under_their_load_too(stage):
    loaded = simulate(plan([{**stage, "load": {}}], "chicken/breast", count=12, **BREAST))
    alone = simulate(plan([{**stage, "load": {"pieces": 1}}], "chicken/breast", count=12, **BREAST))
    assert np.nanmin(loaded.around_c) < np.nanmin(alone.around_c) - 0.3
    assert loaded.core_c[-1] < alone.core_c[-1]


@pytest.mark.parametrize(
    ("bar", "metres", "celsius"), [(1.0, 0, 120.4), (0.5, 0, 111.6), (1.0, 1500, 117.7), (0.1, 0, 102.7)]
)
def test_under_pressure_water_boils_hotter(bar, metres, celsius):
    # Steam tables at 2.013, 1.513, 1.846 and 1.113 bar, from memory.
    cooker = plan([{"kind": "pressure", "bar_over": bar, "altitude_m": metres, "minutes": 30}]).stages[0]
    assert medium_c(cooker) == pytest.approx(celsius, abs=0.4)


def test_a_pressure_cooker_makes_a_shin_tender_in_less_than_half_the_time():
    # Common practice: about an hour for two and a half of braising.
    def tender(stage):
        piece = {"shape": {"kind": "slab", "thickness_mm": 40}, "start_c": 10}
        return evaluate(parse_plan(document([stage], "beef/shin", **piece))).tenderness.dose

    assert tender({"kind": "pressure", "minutes": 60}) == pytest.approx(
        tender({"kind": "simmer", "minutes": 150}), rel=0.15
    )


@pytest.mark.parametrize(
    ("stage", "low", "high"),
    [
        ({"kind": "oven", "air_c": 180, "minutes": 5}, 8, 13), ({"kind": "oven", "air_c": 240, "minutes": 5}, 12, 20),
        ({"kind": "bath", "water_c": 60, "minutes": 5}, 30, 45), ({"kind": "fry", "oil_c": 175, "minutes": 5}, 10, 20),
        ({"kind": "boil", "minutes": 5}, 12, 20),
    ],
)  # fmt: skip
def test_it_is_switched_on_so_long_before(stage, low, high):
    # Common practice.
    assert low <= evaluate(parse_plan(document([stage]))).stages[0].preheat_min <= high


def test_what_is_hot_already_is_not_heated_again():
    oven = {"kind": "oven", "air_c": 180, "minutes": 10}
    stages = evaluate(parse_plan(document([oven, {**oven, "air_c": 120}, {"kind": "rest", "minutes": 5}]))).stages
    assert stages[0].preheat_min > 0
    assert stages[1].preheat_min is stages[2].preheat_min is None


def test_a_heater_that_is_too_weak_never_gets_there():
    weak = {"kind": "bath", "water_c": 90, "minutes": 10, "load": {"litres": 100, "power_w": 200}}
    assert evaluate(parse_plan(document([weak]))).stages[0].preheat_min is None


def test_a_load_too_large_goes_in_batches_that_the_bath_bears():
    whole = document(
        [{"kind": "bath", "water_c": 60, "minutes": 60, "load": {"litres": 20, "power_w": 1500}}], "chicken/breast",
        count=64, **BREAST,
    )  # fmt: skip
    split = split_loads(whole, evaluate(parse_plan(whole)))
    parted = parse_plan(split)
    result = evaluate(parted)
    batches = batches_of(parted, 0, result.stages[0])
    assert result.stages[0].at_once is None
    assert batches.count == -(-64 // batches.size)
    assert batches.apart_min >= result.stages[0].medium_back_s / 60 - 0.01
    first_hot = simulate(parted).core_c[-1]
    assert first_hot > simulate(parse_plan(whole)).core_c[-1] + 0.5
    task = tasks_of_plan(parted, result, 64)[0]
    assert task["minutes"] == pytest.approx(60 + batches.longer_min, abs=1.01)
    assert str(batches) in task["name"]
    (into,) = [step.how for step in steps_of(parted, result.stages) if step.kind == "start"]
    assert into == str(batches)


def test_a_fryer_is_emptied_before_the_next_batch():
    whole = document(
        [{"kind": "fry", "oil_c": 175, "minutes": 6, "load": {"litres": 8, "power_w": 3000}}], "chicken/breast",
        count=40, **BREAST,
    )  # fmt: skip
    parted = parse_plan(split_loads(whole, evaluate(parse_plan(whole))))
    batches = batches_of(parted, 0, evaluate(parted).stages[0])
    assert batches.apart_min >= 6


def test_what_fits_is_not_split():
    whole = document(
        [{"kind": "bath", "water_c": 60, "minutes": 90, "load": {"litres": 20}}], "chicken/breast", count=3, **BREAST
    )
    assert split_loads(whole, evaluate(parse_plan(whole))) is None
    assert batches_of(parse_plan(whole), 0, evaluate(parse_plan(whole)).stages[0]) is None
