"""Freezing, thawing and cooking from frozen, against measured enthalpies and Pham's freezing times."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.composition import Composition, freezable_water
from ember.heat.frost import enthalpy, ice_of, temperature
from ember.heat.problem import make_problem
from ember.heat.simulate import simulate

from .plans import document, plan

LEAN = {"water": 0.745, "protein": 0.22, "fat": 0.025, "carbohydrate": 0.0, "ash": 0.01}
FREEZES_C = -1.0


def lean():
    composition = Composition.from_fractions(LEAN)
    return float(composition.heat_capacity(0.0)), freezable_water(composition)


def slab(stage, mm, start_c):
    shape = {"kind": "general", "thickness_mm": mm, "exponent": 0}
    return simulate(plan([stage], shape=shape, start_c=start_c, composition=LEAN))


@pytest.mark.parametrize(("celsius", "kj_kg"), [(-20, 42.0), (-10, 73.5), (0, 304.0), (20, 375.0)])
def test_enthalpy_of_lean_beef_is_as_riedel_measured(celsius, kj_kg):
    # Riedel 1957, Kältetechnik 9:38, from -40 °C, from memory; within 5 % of its value at 20 °C.
    heat, ice = lean()
    found = (enthalpy(heat, ice, FREEZES_C, celsius) - enthalpy(heat, ice, FREEZES_C, -40.0)) / 1e3
    assert found == pytest.approx(kj_kg, abs=0.05 * 375.0)


@pytest.mark.parametrize(("celsius", "share"), [(-5, 0.74), (-10, 0.83), (-20, 0.88)])
def test_so_much_of_the_water_is_ice_as_riedel_measured(celsius, share):
    assert ice_of(lean()[1], FREEZES_C, celsius) / LEAN["water"] == pytest.approx(share, abs=0.02)


@given(st.floats(-60.0, 30.0), st.floats(-60.0, 30.0))
def test_a_temperature_comes_back_from_its_enthalpy(celsius, guess):
    heat, ice = lean()
    joules = enthalpy(heat, ice, FREEZES_C, celsius)
    assert temperature(heat, ice, FREEZES_C, joules, guess) == pytest.approx(celsius, abs=1e-3)


@pytest.mark.parametrize(
    ("mm", "air_c", "h", "minutes"), [(25, -30, 25, 98), (50, -30, 25, 213), (100, -30, 25, 497), (50, -18, 10, 807)]
)
def test_a_slab_freezes_as_pham_says(mm, air_c, h, minutes):
    # Pham 1986, Int J Refrig 9:297, to -10 °C in the middle from 5 °C; worked from memory, itself good to about 10 %.
    stage = {"kind": "medium", "medium_c": air_c, "h_w_m2k": h, "until": {"core_c": -10}}
    assert slab(stage, mm, 5).end_s / 60 == pytest.approx(minutes, rel=0.12)


@pytest.mark.parametrize(("mm", "minutes"), [(25, 60), (50, 195)])
def test_it_thaws_as_a_fine_integration_of_enthalpy_says(mm, minutes):
    stage = {"kind": "medium", "medium_c": 12, "h_w_m2k": 150, "until": {"core_c": 0}}
    assert slab(stage, mm, -18).end_s / 60 == pytest.approx(minutes, rel=0.05)


@pytest.mark.parametrize("start_c", [-18, 5])
def test_heat_through_the_faces_is_enthalpy_in_the_piece(start_c):
    medium_c = 12 if start_c < 0 else -30
    recipe = plan(
        [{"kind": "medium", "medium_c": medium_c, "h_w_m2k": 60, "minutes": 90}],
        shape={"kind": "general", "thickness_mm": 40, "exponent": 0}, start_c=start_c, composition=LEAN,
    )  # fmt: skip
    run = simulate(recipe)
    problem = make_problem(recipe, 0.03)
    held = [
        sum(
            enthalpy(problem.food.c[0, 0], ice, problem.food.freezes_c, c) * volume
            for c, ice, volume in zip(row, problem.food.ice, run.grid.volume, strict=True)
        )
        for row in (run.temperature_c[0], run.temperature_c[-1])
    ]
    assert float((run.heat_j * run.grid.face_area).sum()) == pytest.approx(held[1] - held[0], rel=0.01)


def test_the_middle_stands_where_its_water_freezes():
    run = slab({"kind": "freeze", "air_c": -25, "blast": True, "minutes": 600}, 50, 10)
    between = (run.core_c < -0.9) & (run.core_c > -1.6)
    assert np.ptp(run.t_s[between]) > 0.3 * run.t_s[np.argmax(run.core_c < -10)]
    assert run.core_c[-1] == pytest.approx(-25, abs=1.0)


@pytest.mark.parametrize(
    ("cut", "mass_g", "air_c", "core_c"),
    [("beef/rump-roast", 1500, 163, 63), ("turkey/whole", 5900, 163, 74), ("chicken/breast", 170, 200, 74)],
)
def test_from_frozen_it_takes_about_half_as_long_again(cut, mass_g, air_c, core_c):
    # USDA FSIS, "The Big Thaw": about 50 % longer, from memory.
    oven = {"kind": "oven", "air_c": air_c, "until": {"core_c": core_c}}
    frozen, thawed = (
        simulate(plan([oven], cut, shape={"kind": "from_mass"}, mass_g=mass_g, start_c=start_c)) for start_c in (-18, 4)
    )
    assert 1.35 < frozen.end_s / thawed.end_s < 1.75


def test_a_frozen_piece_is_thawed_seared_and_judged_like_any_other():
    stages = [
        {"kind": "thaw", "in": "water", "water_c": 15, "until": {"core_c": 2}},
        {"kind": "bath", "water_c": 56, "minutes": 120}, {"kind": "pan", "pan_c": 230, "seconds_a_side": 45},
    ]  # fmt: skip
    result = evaluate(parse_plan(document(stages, start_c=-18)))
    assert 15 < (result.stages[0].end_s - result.stages[0].start_s) / 60 < 75  # a pound in cold water: within the hour
    assert result.core.peak_c > 55
    assert result.safety[0].words


def test_an_outline_is_followed_by_its_thickness_while_it_is_frozen():
    piece = {
        "shape": {"kind": "slab", "thickness_mm": 26},
        "outline": {"family": "steak", "row_mm": 90},
        "start_c": -18,
    }
    run = simulate(plan([{"kind": "oven", "air_c": 180, "until": {"core_c": 55}}], **piece))
    assert run.row is None
    assert run.core_c[-1] == pytest.approx(55, abs=0.1)


def test_what_is_cooked_and_frozen_is_judged_as_cooled():
    def cooling(*cold):
        roast = {"shape": {"kind": "cylinder", "diameter_mm": 120}, "start_c": 5}
        oven = {"kind": "oven", "air_c": 180, "until": {"core_c": 66}}
        result = evaluate(parse_plan(document([oven, *cold], "beef/rump-roast", **roast)))
        return [entry for entry in result.safety if entry.kind == "cool"]

    (frozen,) = cooling({"kind": "freeze", "air_c": -18, "minutes": 1440})
    (chilled,) = cooling({"kind": "chill", "air_c": 3, "minutes": 1440})
    assert not chilled.met
    assert frozen.margin > chilled.margin
