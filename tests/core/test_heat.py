"""The solver beyond the exact series: energy, turning, water, ends, and what physics says must be monotone."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from ember.errors import BadInput, NeverReached
from ember.food.composition import ThermalProperties
from ember.heat.grid import make_grid
from ember.heat.media import hottest_c
from ember.heat.moisture import LATENT_BOIL, WATER_J_KGK
from ember.heat.numerics import bracketed_root
from ember.heat.problem import composition_of
from ember.heat.simulate import simulate

from .plans import CP, RHO, K, exact, plan


def heat_taken_up(run, recipe) -> float:
    """Heat taken up between start and end, J per unit face, with the water that boiled.

    Heat capacity follows temperature and the water still there; juice that leaves takes its own heat with it.
    """
    raw = ThermalProperties.of(composition_of(recipe), recipe.piece.start_c)
    T = 0.5 * (run.temperature_c[1:] + run.temperature_c[:-1])
    raw_c = sum(c * np.clip(T, -5, 150) ** i for i, c in enumerate(raw.c_j_m3k))
    gone = run.lost_kg_m3[:-1]
    sensible = (raw_c - WATER_J_KGK * gone) * np.diff(run.temperature_c, axis=0)
    return float((sensible * run.grid.volume).sum() + LATENT_BOIL * run.vapour_kg)


@pytest.mark.parametrize(
    "stages",
    [
        [{"kind": "bath", "water_c": 60, "minutes": 45}],
        [{"kind": "oven", "air_c": 160, "minutes": 40}, {"kind": "rest", "minutes": 15}],
        [{"kind": "pan", "pan_c": 230, "seconds_a_side": 90, "sides": 4}, {"kind": "rest", "minutes": 8}],
        [{"kind": "temper", "minutes": 30}],
    ],
    ids=["bath", "oven and rest", "pan that boils", "temper with dew"],
)
@pytest.mark.parametrize("shape", [{"kind": "slab", "thickness_mm": 30}, {"kind": "cylinder", "diameter_mm": 60}])
def test_heat_through_the_faces_is_heat_in_the_piece(stages, shape):
    recipe = plan(stages, shape=shape)
    run = simulate(recipe)
    entered = float((run.heat_j * run.grid.face_area).sum()) + run.across_j
    assert entered == pytest.approx(heat_taken_up(run, recipe), rel=0.005)


def test_a_turned_slab_with_two_different_faces_matches_an_independent_integration():
    # One face at h 400 under 200 °C, the other at h 15, changed about after 90 s: scipy's BDF on a fine even grid.
    L, n = 0.03, 601
    x = np.linspace(0, L, n)
    dx = x[1] - x[0]
    C = np.full(n, RHO * CP * dx)
    C[[0, -1]] /= 2

    def rates(h_under, h_top):
        def f(_t, T):
            flux = K * (T[1:] - T[:-1]) / dx
            out = np.zeros(n)
            out[:-1] += flux
            out[1:] -= flux
            out[0] += h_under * (200 - T[0])
            out[-1] += h_top * (200 - T[-1])
            return out / C

        return f

    band = {"method": "BDF", "rtol": 1e-7, "atol": 1e-7}
    with np.errstate(all="ignore"):  # SciPy's BDF subtracts from memory that nothing was written to yet
        first = solve_ivp(rates(400, 15), (0, 90), np.full(n, 10.0), **band).y[:, -1]
        second = solve_ivp(rates(15, 400), (0, 90), first, **band).y[:, -1]
    recipe = plan(
        [
            {"kind": "medium", "medium_c": 200, "h_w_m2k": [400, 15], "minutes": 1.5},
            {"kind": "medium", "medium_c": 200, "h_w_m2k": [15, 400], "minutes": 1.5},
        ],
        start_c=10,
        properties={"k_w_mk": K, "rho_kg_m3": RHO, "cp_j_kgk": CP},
    )
    run = simulate(recipe)
    assert np.interp(run.grid.x_m, x, second) == pytest.approx(run.temperature_c[-1], abs=0.12)


def test_grid_and_step_errors_are_small_against_a_much_finer_run():
    recipe = plan(
        [
            {"kind": "bath", "water_c": 56, "minutes": 60},
            {"kind": "pan", "pan_c": 220, "seconds_a_side": 45},
            {"kind": "rest", "minutes": 6},
        ]
    )
    coarse, fine = simulate(recipe), simulate(recipe, tolerance_k=0.001, refine=4)
    for a, b in zip(coarse.stages, fine.stages, strict=True):
        assert coarse.core_c[a.last] == pytest.approx(fine.core_c[b.last], abs=0.05)
    assert coarse.peak()[0] == pytest.approx(fine.peak()[0], abs=0.05)


def test_a_stage_ends_exactly_at_its_core_and_the_next_goes_on_from_there():
    run = simulate(plan([{"kind": "bath", "water_c": 58, "until": {"core_c": 52}}, {"kind": "rest", "minutes": 5}]))
    assert run.core_c[run.stages[0].last] == pytest.approx(52.0, abs=1e-3)
    assert run.temperature_c[run.stages[1].first] == pytest.approx(run.temperature_c[run.stages[0].last])


@pytest.mark.parametrize(
    "stages",
    [
        [{"kind": "oven", "air_c": 170, "until": {"peak_c": 56}}, {"kind": "rest", "minutes": 20}],
        [
            {"kind": "bath", "water_c": 57, "until": {"peak_c": 54.5}},
            {"kind": "pan", "pan_c": 230, "seconds_a_side": 50},
            {"kind": "rest", "minutes": 8},
        ],
    ],
)
def test_a_stage_pulled_for_a_peak_peaks_there(stages):
    run = simulate(plan(stages))
    assert run.peak()[0] == pytest.approx(stages[0]["until"]["peak_c"], abs=0.05)
    assert run.core_c[run.stages[0].last] < run.peak()[0] - 1.0  # the rest is carryover


def test_a_bath_cannot_bring_the_core_above_its_water_and_says_so():
    with pytest.raises(NeverReached) as caught:
        simulate(plan([{"kind": "bath", "water_c": 54, "until": {"core_c": 57}}]))
    assert "hotter than 57" in caught.value.message
    assert caught.value.at == "stages[0].until"
    assert caught.value.highest_c == pytest.approx(54.0, abs=0.1)


def test_too_short_a_limit_says_how_far_it_came():
    stage = {"kind": "bath", "water_c": 60, "until": {"core_c": 58, "max_minutes": 10}}
    with pytest.raises(NeverReached) as caught:
        simulate(plan([stage]))
    assert 5 < caught.value.highest_c < 58
    assert "10 min" in caught.value.message


def test_a_peak_that_cannot_be_carried_says_how_far_it_came():
    with pytest.raises(NeverReached) as caught:
        simulate(plan([{"kind": "bath", "water_c": 50, "until": {"peak_c": 60}}, {"kind": "rest", "minutes": 5}]))
    assert caught.value.highest_c < 50.5
    assert "hotter than 60" in caught.value.message


def test_a_plan_over_thirty_days_is_refused():
    with pytest.raises(BadInput, match="30 days"):
        simulate(plan([{"kind": "bath", "water_c": 60, "minutes": 14 * 1440}] * 3))


def test_a_wet_face_in_an_oven_stays_far_below_its_air():
    # Psychrometric cooling; stationary limits are about 85 to 90 °C in a still oven at 160 to 165 °C.
    run = simulate(plan([{"kind": "oven", "air_c": 163, "minutes": 45}], shape={"kind": "sphere", "diameter_mm": 80}))
    assert 75 < run.temperature_c[-1, -1] < 100


def test_a_seared_face_holds_at_boiling_before_it_dries():
    run = simulate(plan([{"kind": "pan", "pan_c": 180, "seconds_a_side": 12, "sides": 1}]))
    assert 95 < run.temperature_c[-1, 0] < 115  # common practice: it steams before it browns
    longer = simulate(plan([{"kind": "pan", "pan_c": 230, "seconds_a_side": 90, "sides": 1}]))
    assert longer.temperature_c[-1, 0] > 140  # dry by now: it browns


def test_cook_loss_is_what_kitchens_weigh():
    # Common practice: a pan-cooked or bath-cooked medium-rare steak loses about 8 to 15 %.
    steak = simulate(
        plan(
            [
                {"kind": "bath", "water_c": 55, "minutes": 80},
                {"kind": "pan", "pan_c": 230, "seconds_a_side": 45},
                {"kind": "rest", "minutes": 5},
            ]
        )
    )
    assert 0.06 < steak.water_lost_share < 0.16
    roast = simulate(
        plan(
            [{"kind": "oven", "air_c": 163, "until": {"core_c": 60}}, {"kind": "rest", "minutes": 20}],
            cut="beef/rump-roast",
            shape={"kind": "cylinder", "diameter_mm": 105},
        )
    )
    assert 0.12 < roast.water_lost_share < 0.30


@settings(max_examples=40, deadline=None)
@given(
    size=st.floats(2, 120),
    start=st.floats(0, 30),
    kind=st.sampled_from(["slab", "cylinder", "sphere"]),
    stages=st.lists(
        st.one_of(
            st.builds(lambda c, m: {"kind": "bath", "water_c": c, "minutes": m}, st.floats(0, 99), st.floats(0.1, 600)),
            st.builds(lambda c, m: {"kind": "oven", "air_c": c, "minutes": m}, st.floats(30, 320), st.floats(0.1, 200)),
            st.builds(
                lambda c, s, n: {"kind": "pan", "pan_c": c, "seconds_a_side": s, "sides": n},
                st.floats(40, 350), st.floats(1, 400), st.integers(1, 6),
            ),
            st.builds(lambda m, k: {"kind": "rest", "minutes": m, "cover": k}, st.floats(0.1, 90),
                      st.sampled_from(["open", "foil", "wrapped"])),
        ),
        min_size=1, max_size=4,
    ),
)  # fmt: skip
def test_any_plan_stays_finite_and_between_its_media(size, start, kind, stages):
    shape = {"kind": kind, ("thickness_mm" if kind == "slab" else "diameter_mm"): size}
    recipe = plan(stages, shape=shape, start_c=start)
    run = simulate(recipe)
    media = [hottest_c(stage) for stage in recipe.stages]
    assert np.isfinite(run.temperature_c).all()
    assert run.temperature_c.max() <= max(*media, start, 60.0) + 0.5  # the air over a pan is 60 °C
    # A drying face may cool below its air, not below its wet bulb, which is above 5 °C here.
    assert run.temperature_c.min() >= min(*media, start, 5.0) - 0.5
    assert 0.0 <= run.water_lost_share < 0.8


@settings(max_examples=15, deadline=None)
@given(thin=st.floats(10, 60), more=st.floats(1, 20), water=st.floats(55, 80))
def test_thicker_takes_longer_and_hotter_water_takes_less(thin, more, water):
    def minutes(size, c):
        stage = {"kind": "bath", "water_c": c, "until": {"core_c": 52}}
        return simulate(plan([stage], shape={"kind": "slab", "thickness_mm": size})).end_s

    assert minutes(thin + more, water) > minutes(thin, water)
    assert minutes(thin, water + 2) < minutes(thin, water)


def test_an_insulated_piece_keeps_its_heat():
    recipe = exact("slab", 1.0, 30)
    stage = recipe.stages[0].model_copy(update={"h_w_m2k": 0.0})
    run = simulate(recipe.model_copy(update={"stages": [stage]}))
    assert run.temperature_c[-1] == pytest.approx(np.full(len(run.grid.x_m), 10.0))


@pytest.mark.parametrize("exponent", [0.0, 0.7, 1.0, 1.25, 2.0])
def test_a_grid_holds_the_whole_body(exponent):
    grid = make_grid(0.04, exponent)
    expected = 0.04 if exponent == 0 else 0.02 / (exponent + 1)
    assert grid.volume.sum() == pytest.approx(expected)
    assert np.all(np.diff(grid.x_m) > 0)
    assert grid.x_m[grid.core] == pytest.approx(0.02 if exponent == 0 else 0.0)


def test_a_root_without_a_sign_change_is_refused():
    with pytest.raises(ValueError, match="sign"):
        bracketed_root(lambda x: x + 1, 0, 1, 1e-6, 1e-6)
