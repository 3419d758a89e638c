"""What small choices cost, what makes a plan fit, and what preparation does."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.heat.simulate import simulate
from ember.kinetics.colour import as_if_heated_c, pigment_history, pigment_left
from ember.methods.library import methods
from ember.solve.fit import fit
from ember.solve.prices import Price, prices

from .plans import document, plan

BATH = [
    {"kind": "bath", "water_c": 57, "until": {"peak_c": 55}},
    {"kind": "pan", "pan_c": 220, "seconds_a_side": 40},
    {"kind": "rest", "minutes": 6},
]
WANTED = {"target": {"doneness": "medium-rare"}}


def price(choice: str, found: list[Price]) -> Price:
    return next(row for row in found if row.choice == choice)


def test_twenty_minutes_out_change_the_core_a_little_and_the_time_less():
    # Common practice: tempering 10 to 30 min changes little.
    found = price("temper", prices(plan(BATH)))
    assert 0.5 < found.start_k < 5.0
    assert -4.0 < found.minutes < 0.0
    assert found.kelvin == pytest.approx(0.0, abs=0.3)  # it waits for the same peak


def test_a_plan_that_tempers_is_told_what_that_gave():
    out = [{"kind": "temper", "air_c": 21, "minutes": 20}, *BATH]
    had, added = price("temper", prices(plan(out))), price("temper", prices(plan(BATH)))
    assert had.amount == pytest.approx(20.0)
    assert had.start_k == pytest.approx(added.start_k, abs=0.05)
    assert had.minutes == pytest.approx(added.minutes, abs=0.3)


def test_thicker_takes_longer_than_in_proportion_and_less_than_its_square():
    # Fourier: time goes with the square of the thickness where the face is held, in proportion where the film decides.
    found = price("thicker", prices(plan(BATH[:1] + BATH[2:])))
    bath_min = simulate(plan(BATH[:1] + BATH[2:])).stages[0].end_s / 60
    assert found.amount == 5.0
    assert bath_min * (35 / 30 - 1) < found.minutes < bath_min * ((35 / 30) ** 2 - 1)
    assert found.kelvin < -0.5


def test_a_degree_of_bath_is_at_most_a_degree_of_core():
    found = price("medium", prices(plan(BATH)))
    assert (found.stage, found.amount) == (0, 1.0)
    assert 0.3 < found.kelvin < 1.1


def test_a_wrapped_rest_carries_further_than_an_open_one():
    pan = [{"kind": "pan", "pan_c": 210, "seconds_a_side": 150}, {"kind": "rest", "minutes": 8}]
    rests = {row.after: row for row in prices(plan(pan)) if row.choice == "rest"}
    assert set(rests) == {"foil", "wrapped"}
    assert all(row.before == "open" and row.kelvin > 0.2 for row in rests.values())
    wrapped = [{**pan[0]}, {**pan[1], "cover": "wrapped"}]
    assert price("rest", prices(plan(wrapped))).kelvin < 0.0


def test_what_practice_lives_on_is_told_for_a_seared_chop():
    """Tempered, basted, on a warm plate: common practice; each makes a pan piece hotter, at the same times."""
    chop = [{"kind": "pan", "pan_c": 230, "seconds_a_side": 200}, {"kind": "rest", "minutes": 8}]
    found = {row.choice: row for row in prices(plan(chop, "pork/chop", start_c=8))}
    assert 2.0 < found["start"].kelvin < 10.0
    assert 1.0 < found["baste"].kelvin < 15.0
    assert found["baste"].amount == pytest.approx(400 / 2 / 60)
    assert 0.3 < found["plate"].kelvin < 8.0
    basted = [{**chop[0], "baste": {"from_s": 200, "every_s": 5}}, chop[1]]
    bare = price("baste", prices(plan(basted, "pork/chop", start_c=8)))
    assert bare.after == "bare"
    assert bare.kelvin < -1.0


def test_what_a_thin_end_gains_by_being_folded_under_or_cut_off():
    oven = [{"kind": "oven", "air_c": 190, "until": {"core_c": 52}}, {"kind": "rest", "minutes": 4}]
    outline = {"family": "fillet", "thin_mm": 8, "row_mm": 80, "other_mm": 140}
    found = {row.choice: row for row in prices(plan(oven, "cod/fillet", outline=outline))}
    assert found["fold"].amount == found["trim"].amount == pytest.approx(16.0)
    assert found["fold"].kelvin < found["trim"].kelvin < -1.0
    assert not {"fold", "trim"} & {row.choice for row in prices(plan(BATH))}


def test_an_oven_after_a_pan_is_told_what_its_hot_pan_gives():
    stages = [
        {"kind": "pan", "pan_c": 220, "seconds_a_side": 90}, {"kind": "oven", "air_c": 190, "minutes": 6},
        {"kind": "rest", "minutes": 8},
    ]  # fmt: skip
    found = price("hot-pan", prices(plan(stages, "lamb/rump")))
    assert (found.before, found.after) == ("rack", "pan")
    assert found.kelvin > 0.5
    assert "hot-pan" not in {row.choice for row in prices(plan(BATH))}


def test_a_plan_without_rest_or_pull_has_fewer_prices():
    assert {row.choice for row in prices(plan([{"kind": "rest", "minutes": 5}]))} >= {"thicker"}
    assert "rest" not in {row.choice for row in prices(plan(BATH[:1]))}


def test_a_hotter_bath_makes_it_fit():
    ways = fit(plan(BATH, **WANTED), 40 * 60.0)
    assert ways[0].what == "as-it-is"
    hotter = next(way for way in ways if way.what == "medium")
    assert hotter.after > 57.0
    assert hotter.total_s == pytest.approx(40 * 60.0, rel=0.02)
    assert hotter.result.core.peak_c == pytest.approx(55.0, abs=0.2)
    thinner = next(way for way in ways if way.what == "thickness")
    assert 8.0 < thinner.after < 30.0
    assert thinner.total_s <= 40 * 60.0 * 1.05


def test_methods_that_fit_are_done_in_time():
    ways = [way for way in fit(plan(BATH, **WANTED), 30 * 60.0) if way.what == "method"]
    assert ways
    assert all(way.total_s <= 30 * 60.0 and way.method in methods() for way in ways)
    assert all(way.result.doneness.word == "medium-rare" for way in ways)


def test_with_time_to_spare_only_the_bath_is_turned_down():
    takes_s = evaluate(plan(BATH)).stages[-1].end_s
    ways = fit(plan(BATH, **WANTED), takes_s + 900.0)
    assert [way.what for way in ways] == ["as-it-is", "medium"]
    assert ways[1].after < 57.0


# Preparation ---------------------------------------------------------------------------------------------------------


def with_prep(stages, prep, **piece):
    return evaluate(parse_plan(document(stages, **piece) | {"prep": prep}))


def test_both_schools_of_a_rub_are_told():
    sear = [{"kind": "pan", "pan_c": 225, "seconds_a_side": 90}, {"kind": "rest", "minutes": 5}]
    rub = {"kind": "rub", "before": 0, "with": ["garlic", "pepper"]}
    found = with_prep(sear, [rub]).rubs[0]
    assert "garlic" in found.burns
    assert (found.other_before, found.other_burns, found.other_blooms) == (1, [], [])
    after = with_prep(sear, [rub | {"before": 1}]).rubs[0]
    assert (after.burns, after.other_before) == ([], 0)
    assert "garlic" in after.other_burns


def test_salt_alone_costs_nothing():
    assert with_prep(BATH, [{"kind": "season", "before": 0}]).rubs == []


def test_a_chop_curls_unless_it_is_snipped():
    pan = [{"kind": "pan", "pan_c": 200, "seconds_a_side": 180}]

    def warned(prep, **piece):
        return "curls" in {w.code for w in with_prep(pan, prep, **{"cut": "pork/chop", **piece}).warnings}

    assert warned([])
    assert not warned([{"kind": "snip", "before": 0}])
    assert not warned([], shape={"kind": "slab", "thickness_mm": 50})
    assert not warned([], cut="beef/tenderloin")


def test_portions_bone_and_trim():
    bath = [{"kind": "bath", "water_c": 60, "minutes": 60}]
    found = with_prep(bath, [], cut="pork/rack", mass_g=1000, count=2, portions=4, trim_pct=10, bone_pct=25)
    assert found.serves.portions == 8
    assert found.serves.bought_g == pytest.approx(2000 / 0.9, abs=0.1)
    assert found.serves.portion_g == pytest.approx(found.mass_after_g * 0.75 / 4, abs=0.2)
    assert with_prep(bath, [], cut="pork/rack", mass_g=1000).serves.bone_pct > 0
    assert with_prep(bath, [], mass_g=300).serves.bone_pct == 0


# The cut face --------------------------------------------------------------------------------------------------------


def test_red_goes_as_if_it_had_been_heated_further_the_longer_it_is_held():
    t = np.linspace(0, 24 * 3600, 500)
    held = pigment_history(t, np.full(500, 57.0), 67.0)
    assert np.all(np.diff(held) <= 0)
    assert held[-1] == pytest.approx(float(pigment_left(t, np.full(500, 57.0), 67.0)))
    # A day at 57 °C looks as pale as minutes some degrees hotter.
    assert 60.0 < float(as_if_heated_c(held[-1], 67.0)) < 70.0


def test_the_face_has_its_red_at_every_time_of_the_map():
    found = evaluate(plan(BATH, depth_map=True))
    red = np.array(found.cut_face.pigment)
    assert red.shape == (len(found.depth_map.t_s), len(found.cut_face.depth_m))
    assert red[0].min() > 0.98
    assert red[-1][0] < red[-1][20]  # the seared outside has lost more than the middle
    assert np.all(np.diff(red, axis=0) <= 1e-9)


def test_the_ends_of_a_batch_have_their_own_curves():
    found = evaluate(plan(BATH, spread_mm=6))
    assert len(found.thin.curve_c) == len(found.curves.t_s)
    assert max(found.thin.curve_c) == pytest.approx(found.thin.peak_c, abs=0.1)
    assert max(found.thin.curve_c) > max(found.thick.curve_c)
