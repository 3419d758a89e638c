"""Pan jobs where cooks say they land, carryover on a reading, and the pan as a body. Common practice unless a source is
named.
"""

from __future__ import annotations

import numpy as np
import pytest
from ht.conv_free_immersed import Nu_horizontal_plate_McAdams

from ember.evaluate import evaluate
from ember.heat.faces import media, vapour_pressure_pa
from ember.heat.numerics import bracketed_root
from ember.heat.pan import body_of, covered_share
from ember.heat.problem import settings_of
from ember.heat.simulate import simulate

from .plans import plan


def pan(pan_c, seconds, sides=2, **keys):
    return {"kind": "pan", "pan_c": pan_c, "seconds_a_side": seconds, "sides": sides, **keys}


def rest(minutes, **keys):
    return {"kind": "rest", "minutes": minutes, **keys}


def rise_on_a_reading(stage, pull_reading_c, minutes=45, **piece):
    """(minutes to the reading, how much it still rises at rest)."""

    def run(m):
        return simulate(plan([stage | {"minutes": m}, rest(minutes)], **piece))

    def missing(m):
        found = run(m)
        return float(found.reading_c(found.stages[0].end_s)[0]) - pull_reading_c

    m = bracketed_root(missing, 1.0, 600.0, 0.05, 0.01)
    found = run(m)
    after = found.reading_c(np.linspace(found.stages[0].end_s, found.end_s, 300))
    return m, float(after.max() - after[0])


@pytest.mark.parametrize(
    ("mm", "pan_c", "turn_s", "start_c", "pull_c"),
    [
        (25, 180, 60, 12, 50),
        (25, 200, 60, 12, 48),
        (30, 200, 60, 12, 48),
        (30, 230, 120, 15, 48),
        (40, 230, 60, 12, 48),
    ],
)
def test_a_steak_rises_three_to_seven(mm, pan_c, turn_s, start_c, pull_c):
    stage = {"kind": "pan", "pan_c": pan_c, "turn_every_s": turn_s}
    minutes, rise = rise_on_a_reading(
        stage, pull_c, 12, shape={"kind": "slab", "thickness_mm": mm}, start_c=start_c
    )  # fmt: skip
    assert 3.0 <= rise <= 7.0
    assert 5 < minutes < 20


@pytest.mark.parametrize(
    ("mm", "exponent", "air_c", "pull_c", "low", "high"),
    [
        (90, 1.2, 110, 50, 2, 4), (90, 1.2, 163, 50, 5, 8), (100, 0.9, 163, 50, 5, 8), (90, 1.2, 220, 50, 8, 14),
        (146, 1.4, 163, 70, 3, 8),
    ],
)  # fmt: skip
def test_a_roast_rises_as_its_oven_says(mm, exponent, air_c, pull_c, low, high):
    shape = {"kind": "general", "thickness_mm": mm, "exponent": exponent}
    _, rise = rise_on_a_reading({"kind": "oven", "air_c": air_c}, pull_c, shape=shape, cut="beef/rump-roast")
    assert low - 0.5 <= rise <= high + 0.5


def test_why_a_steak_rises_less_than_dry_meat_would():
    # Juice that leaves takes heat with it and wets the face, which then cools by evaporation: without water the same
    # steak rises much more.
    wet = plan([pan(220, 60, 8), rest(10)])
    dry = plan([pan(220, 60, 8), rest(10)], composition={"water": 0.0, "protein": 0.8, "fat": 0.2})
    assert evaluate(dry).pull.carryover_c > evaluate(wet).pull.carryover_c + 5


def test_four_minutes_a_side_make_a_chop_medium():
    chop = simulate(
        plan([pan(210, 240), rest(8)], cut="pork/chop", shape={"kind": "slab", "thickness_mm": 22}, start_c=15)
    )
    assert 57 <= chop.peak()[0] <= 66


def test_tempering_changes_little():
    stage = {"kind": "pan", "pan_c": 210, "turn_every_s": 60, "until": {"core_c": 46}}
    cold = simulate(plan([stage])).stages[0].end_s
    run = simulate(plan([{"kind": "temper", "air_c": 21, "minutes": 20}, stage]))
    tempered = run.stages[1].end_s - run.stages[1].start_s
    assert 0.85 < tempered / cold < 1.0


def test_a_small_lean_loin_cooks_in_its_rest_and_stays_very_rare():
    stages = [pan(220, 45, 4), {"kind": "oven", "air_c": 170, "minutes": 2.5}, rest(10)]
    loin = plan(stages, cut="venison/loin", shape={"kind": "cylinder", "diameter_mm": 45}, start_c=10)
    run = simulate(loin)
    out_c, peak_c = run.core_c[run.stages[1].last], run.peak()[0]
    assert peak_c < 48
    assert (peak_c - out_c) / (peak_c - 10) > 0.6


def test_fish_is_moist_after_pan_and_oven():
    stages = [
        pan(205, 200, 1), pan(205, 75, 1, first="top"), {"kind": "oven", "air_c": 185, "minutes": 4}, rest(2),
    ]  # fmt: skip
    cod = simulate(plan(stages, cut="cod/fillet", shape={"kind": "slab", "thickness_mm": 28}, start_c=15))
    assert 45 <= cod.peak()[0] <= 57


def test_fish_takes_ten_minutes_an_inch_in_a_hot_oven():
    cod = simulate(
        plan([{"kind": "oven", "air_c": 230, "until": {"core_c": 50}}], cut="cod/fillet",
             shape={"kind": "slab", "thickness_mm": 25})
    )  # fmt: skip
    assert 9 <= cod.end_s / 60 <= 15


def test_prawns_are_opaque_after_a_short_poach():
    stage = {"kind": "poach", "water_c": 88, "minutes": 4}
    prawn = simulate(plan([stage], cut="prawn/peeled", shape={"kind": "cylinder", "diameter_mm": 18}, start_c=4))
    assert prawn.core_c[-1] > 60
    assert simulate(plan([stage | {"minutes": 1}], cut="prawn/peeled", shape={"kind": "cylinder", "diameter_mm": 18},
                         start_c=4)).core_c[-1] < 50  # fmt: skip


def test_a_platen_cooked_steak():
    # Wheeler et al. 1998, J Anim Sci 76:2805 (from memory): belt grill, platens 163 °C on both sides, 21.6 mm, 5.7 min:
    # peak 71 °C, cook loss 20 to 23 %. Weighted contact: h 500.
    stages = [{"kind": "medium", "medium_c": 163, "h_w_m2k": 500, "minutes": 5.7}, rest(3)]
    steak = simulate(plan(stages, shape={"kind": "slab", "thickness_mm": 21.6}))
    assert steak.peak()[0] == pytest.approx(71, abs=4)
    assert 0.13 < steak.water_lost_share < 0.25


def test_the_air_side_of_a_resting_piece_is_free_convection_with_its_vapour():
    # McAdams' correlation for horizontal plates, through `ht`: a wet face at 70 °C in air at 22 °C, area over edge
    # 27 mm.
    # Moist air at the face is lighter: densities with water vapour at 18/29 of the weight of air.
    viscosity, conductivity, length, prandtl, pressure = 1.77e-5, 0.0278, 0.0266, 0.71, 101_325.0

    def density(celsius, vapour_pa):
        return (pressure - 0.378 * vapour_pa) / (287.05 * (celsius + 273.15))

    far, near = density(22, 1500), density(70, vapour_pressure_pa(70, 1.0))
    grashof = 9.81 * (far - near) / near * length**3 / viscosity**2
    h = [Nu_horizontal_plate_McAdams(prandtl, grashof, buoyant) * conductivity / length for buoyant in (True, False)]
    assert sum(h) / 2 == pytest.approx(media()["rest-open"]["hc"], rel=0.15)


def test_a_cold_load_cools_the_pan_and_crowding_keeps_it_cold():
    def coldest(count, power_w=800):
        stage = {
            "kind": "pan", "power_w": power_w, "pan": {"mass_kg": 1.5, "diameter_mm": 280, "preheated_to_c": 230},
            "seconds_a_side": 120, "sides": 2,
        }  # fmt: skip
        recipe = plan([stage], mass_g=200, count=count, shape={"kind": "slab", "thickness_mm": 25})
        return evaluate(recipe)

    one, four, six = coldest(1), coldest(4), coldest(6)
    assert one.stages[0].coldest_pan_c > four.stages[0].coldest_pan_c > six.stages[0].coldest_pan_c
    assert four.stages[0].coldest_pan_c < 190
    assert coldest(4, 2500).stages[0].coldest_pan_c > four.stages[0].coldest_pan_c + 15
    assert six.browning[0].index < one.browning[0].index
    assert "crowded" in {warning.code for warning in six.warnings}
    assert "pan-falls" in {warning.code for warning in six.warnings}
    assert not {"crowded", "pan-falls"} & {warning.code for warning in one.warnings}


def test_the_pans_own_heat_balance():
    # What the burner gave is in the pan, in the room and in the food.
    stage = {
        "kind": "pan", "power_w": 900, "pan": {"mass_kg": 2.0, "material": "cast-iron", "preheated_to_c": 210},
        "seconds_a_side": 90, "sides": 1,
    }  # fmt: skip
    recipe = plan([stage], mass_g=220, count=3, shape={"kind": "slab", "thickness_mm": 25})
    run = simulate(recipe)
    setting = settings_of(recipe)[0]
    body = body_of(recipe.stages[0], setting, True)
    t, T = run.t_s, run.around_c
    given = body.power_w_m2 * (t[-1] - t[0])
    lost = body.loss_w_m2k * np.trapezoid(T - body.ambient_c, t)
    stored = body.heat_j_m2k * (T[-1] - T[0])
    assert given == pytest.approx(stored + lost + run.heat_j[0], rel=0.005)
    assert body.heat_j_m2k * 3 * setting.face_area_m2 == pytest.approx(2.0 * 460)
    assert 0 < covered_share(recipe.stages[0], setting) < 1


def test_a_cold_start_warms_pan_and_fat_together():
    cold = {"kind": "pan", "pan_c": 170, "start": "cold", "first": "top", "seconds_a_side": 600, "sides": 1}
    duck = plan([cold, pan(170, 120, 1), rest(5)], cut="duck/breast", shape={"kind": "slab", "thickness_mm": 25},
                start_c=10)  # fmt: skip
    run = simulate(duck)
    assert run.around_c[0] == pytest.approx(22)
    assert np.nanmax(run.around_c) > 160
    assert 50 <= run.peak()[0] <= 62


def test_basting_cooks_the_upper_face_and_a_flame_off_lets_the_pan_fall():
    basted = {"from_s": 60, "every_s": 4}
    bare = simulate(plan([pan(200, 150, 1)]))
    on = simulate(plan([pan(200, 150, 1, baste=basted)]))
    off = simulate(plan([pan(200, 150, 1, baste=basted | {"flame": "off"})]))
    assert on.temperature_c[-1, -1] > bare.temperature_c[-1, -1] + 15
    assert off.around_c[-1] < on.around_c[-1] - 5


def test_a_fat_cap_is_a_layer_that_slows_the_heat():
    stage = pan(200, 240, 1, first="top")
    lean = simulate(plan([stage]))
    capped = simulate(plan([stage], fat_cap_mm=6))
    assert capped.core_c[-1] - 5 < 0.7 * (lean.core_c[-1] - 5)
    assert capped.rho_kg_m3[-1] < capped.rho_kg_m3[0]


def test_every_turn_swaps_the_faces():
    run = simulate(plan([pan(210, 30, 5)]))
    assert run.temperature_c[-1, 0] > run.temperature_c[-1, -1]  # five exposures: the under side was last down
    run = simulate(plan([pan(210, 30, 5, first="top")]))
    assert run.temperature_c[-1, 0] < run.temperature_c[-1, -1]
