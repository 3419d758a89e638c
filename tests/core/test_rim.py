"""Pieces without an outline: the line across that brings in the heat of their rim."""

from __future__ import annotations

from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from scipy.optimize import brentq
from scipy.special import j0, j1

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import cut, cuts
from ember.food.geometry import with_size
from ember.heat.drying import clings
from ember.heat.faces import air, contact
from ember.heat.problem import density_of, rim_of
from ember.heat.rims import beside_pan
from ember.heat.simulate import simulate
from ember.heat.surface import face_flux

from .plans import CP, RHO, K, document, plan

ALPHA = K / (RHO * CP)
FLAT = {"k_w_mk": K, "rho_kg_m3": RHO, "cp_j_kgk": CP}


def slab(mm):
    return {"kind": "slab", "thickness_mm": mm}


# Exact series ---------------------------------------------------------------------------------------------------------


def flat_wall(half_m, h, t):
    """Centre of an infinite slab after a step of its medium, as a share of the step left (Carslaw & Jaeger 1959,
    section 3.11)."""
    Bi = h * half_m / K
    roots = [brentq(lambda z: z * np.tan(z) - Bi, n * np.pi, n * np.pi + np.pi / 2 - 1e-9) for n in range(30)]
    z = np.array(roots)[:, None]
    return (4 * np.sin(z) / (2 * z + np.sin(2 * z)) * np.exp(-(z**2) * ALPHA * t / half_m**2)).sum(axis=0)


def long_cylinder(radius_m, h, t):
    """The axis of a long cylinder (the same, section 7.6)."""
    Bi = h * radius_m / K
    grid = np.linspace(1e-6, 95.0, 20000)
    off = grid * j1(grid) - Bi * j0(grid)
    at = np.flatnonzero(np.diff(np.sign(off)))
    z = np.array([brentq(lambda z: z * j1(z) - Bi * j0(z), grid[i], grid[i + 1]) for i in at])[:, None]
    return (2 / z * j1(z) / (j0(z) ** 2 + j1(z) ** 2) * np.exp(-(z**2) * ALPHA * t / radius_m**2)).sum(axis=0)


def minutes_to(thick, wide, long, h, core_c):
    stages = [{"kind": "medium", "medium_c": 80.0, "h_w_m2k": h, "until": {"core_c": core_c}}]
    recipe = plan(stages, shape=slab(thick), start_c=10, properties=FLAT, width_mm=wide, length_mm=long)
    return simulate(recipe).end_s / 60.0


@pytest.mark.parametrize("h", [25.0, 100.0, 1000.0])
@pytest.mark.parametrize("core_c", [45.0, 73.0])
@pytest.mark.parametrize(("thick", "wide"), [(30.0, 30.0), (30.0, 60.0), (30.0, 120.0), (50.0, 70.0)])
@pytest.mark.parametrize("form", ["bar", "disc"])
def test_bars_and_discs_follow_their_exact_series(form, thick, wide, core_c, h):
    """The product of two series; a disc is as long as it is wide."""
    t = np.linspace(60.0, 12000.0, 4000)
    across = flat_wall if form == "bar" else long_cylinder
    left = flat_wall(0.5e-3 * thick, h, t) * across(0.5e-3 * wide, h, t)
    exact = np.interp(-(80.0 - core_c) / 70.0, -left, t) / 60.0
    found = minutes_to(thick, wide, 2000.0 if form == "bar" else wide, h, core_c)
    assert found == pytest.approx(exact, rel=0.01)


def test_where_nothing_was_measured_a_stated_medium_sees_an_endless_slab():
    stages = [{"kind": "medium", "medium_c": 80.0, "h_w_m2k": 100.0, "until": {"core_c": 60.0}}]
    endless = simulate(plan(stages, shape={"kind": "general", "thickness_mm": 30, "exponent": 0}, start_c=10)).end_s
    for more in ({}, {"mass_g": 90}):
        assert simulate(plan(stages, shape=slab(30), start_c=10, **more)).end_s == pytest.approx(endless, rel=1e-6)
    constant = {"properties": FLAT, "mass_g": 90}
    t = np.linspace(60.0, 6000.0, 4000)
    exact = np.interp(-20.0 / 70.0, -flat_wall(0.015, 100.0, t), t)
    assert simulate(plan(stages, shape=slab(30), start_c=10, **constant)).end_s == pytest.approx(exact, rel=0.005)
    assert simulate(plan(stages, shape=slab(30), start_c=10, width_mm=60)).end_s < 0.9 * endless


# Against sections -----------------------------------------------------------------------------------------------------


@cache
def pieces():
    """Random pieces, as wide as thick to five times as wide, through the usual ways."""
    random = np.random.default_rng(17)
    found = []
    for number in range(24):
        thick = float(np.exp(random.uniform(np.log(15), np.log(60))))
        until = float(random.uniform(48, 62))
        ways = {
            "bath": [{"kind": "bath", "water_c": until + 5, "until": {"core_c": until}}],
            "oven": [{"kind": "oven", "air_c": float(random.uniform(120, 230)), "until": {"core_c": until}}],
            "poach": [{"kind": "poach", "water_c": 80, "until": {"core_c": until}}],
            "pan": [{"kind": "pan", "pan_c": 220, "seconds_a_side": float(random.uniform(60, 180)), "sides": 2}],
        }
        way = list(ways)[number % 4]
        found.append((way, thick, float(np.exp(random.uniform(0.0, np.log(5)))), number % 2 == 0, ways[way]))
    return found


@pytest.mark.parametrize("number", range(24))
def test_random_pieces_follow_their_sections(number):
    """Core time within 4 %, peak within 1.5 K, 2.5 where less than twice as wide as thick."""
    way, thick, times, is_bar, stages = pieces()[number]
    wide = thick * times
    stages = [*stages, {"kind": "rest", "minutes": 8}]
    one = simulate(plan(stages, shape=slab(thick), width_mm=wide, length_mm=2000 if is_bar else wide))
    outline = {"family": "steak" if is_bar else "medallion", "row_mm": wide, "ends": ["cut", "square"]}
    rows = simulate(plan(stages, shape=slab(thick), outline=outline))
    assert one.stages[0].end_s == pytest.approx(rows.stages[0].end_s, rel=0.04), way
    assert one.peak()[0] == pytest.approx(rows.peak()[0], abs=1.5 if times >= 2 else 2.5), way


@pytest.mark.parametrize("to_c", [10.0, 5.0, 2.0])
@pytest.mark.parametrize(("thick", "wide"), [(30.0, 45.0), (50.0, 120.0)])
def test_a_piece_chills_no_faster_than_its_sections(thick, wide, to_c):
    """A cooling rule hangs on it: down to a little above the ice water."""
    stages = [{"kind": "bath", "water_c": 60, "until": {"core_c": 57}}, {"kind": "ice_bath", "until": {"core_c": to_c}}]
    one = simulate(plan(stages, shape=slab(thick), width_mm=wide, length_mm=wide)).stages[1]
    outline = {"family": "medallion", "row_mm": wide, "ends": ["cut", "square"]}
    rows = simulate(plan(stages, shape=slab(thick), outline=outline)).stages[1]
    assert 0.99 < (one.end_s - one.start_s) / (rows.end_s - rows.start_s) < 1.03


def test_a_roll_is_heated_by_its_ends_too():
    bath = [{"kind": "bath", "water_c": 58, "until": {"core_c": 54}}]
    roll = {"kind": "cylinder", "diameter_mm": 60}
    short = simulate(plan(bath, "beef/tenderloin", shape=roll, length_mm=70)).end_s
    long = simulate(plan(bath, "beef/tenderloin", shape=roll, length_mm=400)).end_s
    outline = {"family": "roll", "row_mm": 70.0, "ends": ["cut", "square"]}
    sections = simulate(plan(bath, "beef/tenderloin", shape=roll, outline=outline))
    assert short < 0.85 * long
    assert short == pytest.approx(sections.end_s, rel=0.03)


# The bound of conduction ----------------------------------------------------------------------------------------------


def bound_c(thick_mm, wide_mm, sides_s, start_c, rest_s):
    """The most a core can come to: the touching face at 100 °C at once, nothing lost above or at rest, its rim dry at
    h 40 in 120 °C; explicit finite volumes in a round piece of the best-conducting raw lean meat (k 0.52).
    """
    k, c, n = 0.52, 3.69e6, 32
    R, L = 0.5e-3 * wide_mm, 1e-3 * thick_mm
    dr, dz = R / n, L / n
    r = (np.arange(n) + 0.5) * dr
    edge = np.arange(n + 1) * dr
    T = np.full((n, n), float(start_c))  # [r, z]
    dt = 0.2 * min(dr, dz) ** 2 * c / k
    hottest = start_c

    def go(seconds, down, rim_h):
        nonlocal T, hottest
        steps = max(int(np.ceil(seconds / dt)), 1)
        h = seconds / steps
        for _ in range(steps):
            flow = np.zeros((n + 1, n))
            flow[1:-1] = k * (T[:-1] - T[1:]) / dr * edge[1:-1, None]
            flow[-1] = -rim_h / (1 + rim_h * 0.5 * dr / k) * (120.0 - T[-1]) * R
            up = np.zeros((n, n + 1))
            up[:, 1:-1] = k * (T[:, :-1] - T[:, 1:]) / dz
            if down is not None:
                face = 0 if down else n
                up[:, face] = (1 if down else -1) * k * (100.0 - T[:, 0 if down else -1]) / (0.5 * dz)
            T = T + h / c * ((flow[:-1] - flow[1:]) / (r[:, None] * dr) + (up[:, :-1] - up[:, 1:]) / dz)
            hottest = max(hottest, float(T[0, n // 2]))

    for number, seconds in enumerate(sides_s):
        go(seconds, number % 2 == 0, 40.0)
    go(rest_s, None, 0.0)
    return hottest


SEARED = {
    "steak 20, 2 × 120 s": ("beef/strip-loin", 20, 110, 2, 120, 20),
    "fillet 35 × 70, 2 × 135 s": ("beef/tenderloin", 35, 70, 2, 135, 20),
    "fillet 35 × 70, 2 × 270 s": ("beef/tenderloin", 35, 70, 2, 270, 20),
    "chop 25, 2 × 225 s": ("pork/chop", 25, 100, 2, 225, 8),
    "leg steak 22, 2 × 150 s": ("lamb/leg-steak", 22, 110, 2, 150, 10),
    "venison 40 × 45, 4 × 135 s": ("venison/loin", 40, 45, 4, 135, 10),
}


@pytest.mark.parametrize("name", SEARED)
def test_no_core_passes_the_bound_of_conduction(name):
    """docs/science.md states these bounds beside what is printed of such pieces."""
    cut_id, thick, wide, sides, seconds, start = SEARED[name]
    pan = {"kind": "pan", "pan_c": 230, "seconds_a_side": seconds, "sides": sides}
    recipe = plan([pan, {"kind": "rest", "minutes": 12}], cut_id, shape=slab(thick), start_c=start,
                  width_mm=wide, length_mm=wide)  # fmt: skip
    bound = bound_c(thick, wide, [seconds] * sides, start, 720.0)
    assert simulate(recipe).peak()[0] < bound


# What follows from it -------------------------------------------------------------------------------------------------


def test_mass_matters_at_the_same_thickness():
    """Heavier is wider, and slower; a wider one comes near to the endless slab."""
    bath = [{"kind": "bath", "water_c": 56, "until": {"core_c": 50}}]
    minutes = [simulate(plan(bath, "cod/fillet", shape=slab(30), mass_g=grams)).end_s for grams in (120, 160, 300, 900)]
    assert all(a < b for a, b in pairwise(minutes))
    assert minutes[0] < 0.9 * minutes[-1]


@pytest.mark.parametrize("key", ["thickness", "width_mm", "length_mm"])
def test_larger_is_slower_in_every_size(key):
    sizes = {"thickness": 30.0, "width_mm": 60.0, "length_mm": 90.0}
    oven = [{"kind": "oven", "air_c": 160, "until": {"core_c": 52}}]

    def minutes(times):
        one = {**sizes, key: sizes[key] * times}
        return simulate(plan(oven, shape=slab(one.pop("thickness")), **one)).end_s

    assert minutes(0.8) < minutes(1.0) < minutes(1.25)


def test_a_thicker_piece_of_a_batch_keeps_its_footprint():
    piece = plan([{"kind": "bath", "water_c": 56, "minutes": 30}], shape=slab(30), mass_g=300).piece
    thick = with_size(piece, cut(piece.cut), 1060.0, 36.0)
    assert thick.mass_g == pytest.approx(360.0)


@pytest.mark.parametrize("cut_id", sorted(cuts()))
def test_every_cut_of_some_thickness_can_be_followed(cut_id):
    """No size of a cut's form is beyond the line across."""
    form = cuts()[cut_id].form
    shape = slab(form.size_mm) if form.kind == "slab" else {"kind": form.kind, "diameter_mm": form.size_mm}
    recipe = plan([{"kind": "bath", "water_c": 60, "minutes": 20}], cut_id, shape=shape)
    rim, wide_m = rim_of(recipe)
    assert (rim.area > 0.0) == (form.kind != "sphere")
    if rim.area:
        assert 0.5 * form.size_mm * 1e-3 < wide_m < 1.0
        run = simulate(recipe)
        assert run.core_c.max() <= 60.0 + 0.05
        assert density_of(recipe) > 900


def test_a_chunk_turned_on_four_sides_is_seared_there_too():
    """Common practice: game of 40 × 45 mm, 135 s on each of four sides, comes to 52 to 56."""
    pan = {"kind": "pan", "pan_c": 230, "seconds_a_side": 135, "sides": 4}
    piece = {"shape": slab(40), "start_c": 10, "width_mm": 45, "length_mm": 45}
    result = evaluate(parse_plan(document([pan, {"kind": "rest", "minutes": 8}], "venison/loin", **piece)))
    assert 50 <= result.core.peak_c <= 57.5


def test_a_lump_out_of_a_hot_oven_rises_by_twelve():
    """475 g of rump, 53 mm thick, a quarter of an hour in a fan oven; common practice."""
    stages = [{"kind": "oven", "air_c": 200, "mode": "fan", "minutes": 15}, {"kind": "rest", "minutes": 20}]
    run = simulate(plan(stages, "lamb/rump", shape=slab(53), mass_g=475, start_c=15))
    assert run.peak()[0] - run.core_c[run.stages[0].last] >= 12.0


# What faces and rims meet ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("hc", "share"), [(7.0, 0.95 / 7.95), (20.0, 0.95 / 20.95)])
def test_a_skin_is_in_series_with_the_air_so_that_a_fan_dries_less_than_in_proportion(hc, share):
    """Two conductances in series: s/(s + hc) of what a wet face would lose at 75 °C, and e^(10 γ) more of the skin 10 K
    above."""
    medium = {"hc": hc, "emissivity": 0.0, "wetness": 1.0, "vapour_pa": 3000.0}
    wet, skinned = air(180.0, medium), air(180.0, {**medium, "skin": 0.95, "skin_slope": 0.07})
    off = {c: face_flux(skinned, c, 1.0, 0.0)[1] / face_flux(wet, c, 1.0, 0.0)[1] for c in (75.0, 85.0)}
    assert off[75.0] == pytest.approx(share, rel=1e-6)
    grown = 0.95 * np.exp(0.7)
    assert off[85.0] == pytest.approx(grown / (grown + hc), rel=1e-6)


def test_dew_falls_through_a_skin_as_on_any_cold_face():
    with_skin, without = (
        air(20.0, {"hc": 8.0, "emissivity": 0.9, "wetness": 1.0, "vapour_pa": 1500.0, "skin": skin, "skin_slope": 0.07})
        for skin in (0.95, 0.0)
    )
    assert face_flux(with_skin, 4.0, 1.0, 0.0)[1] == face_flux(without, 4.0, 1.0, 0.0)[1] < 0.0


@pytest.mark.parametrize(
    ("change", "wide_mm", "h", "at_c"),
    [
        ({}, 100, 25.0, 22 + 0.42 * 208), ({"cover": "lid"}, 100, 25.0, 95.0),
        ({"sides": 4}, 45, 60.0, 22 + 0.42 * 208), ({"sides": 4}, 100, 25.0, 22 + 0.42 * 208),
        ({"sides": 2}, 45, 25.0, 22 + 0.42 * 208),
    ],
)  # fmt: skip
def test_beside_a_pan_of_230_degrees(change, wide_mm, h, at_c):
    """A chunk that is turned more than once is turned onto its sides too; under a lid it is steam. Assumed values."""
    pan = plan([{"kind": "pan", "pan_c": 230, "seconds_a_side": 60, "sides": 2, **change}]).stages[0]
    film_h, air_c, share = beside_pan(pan, 0.040, wide_mm * 1e-3)
    assert film_h == h
    assert air_c + share * (230.0 - air_c) == pytest.approx(at_c)


def test_juice_runs_out_beside_a_seared_face_and_stays_on_any_other():
    """On a pan 0.45 of it stays for the crust; in the bath after it all of it."""
    seared = contact(230.0, 350.0, 300.0, juice=0.45)
    assert clings(seared) == 0.45
    assert clings(contact(60.0, 120.0, 120.0)) == 1.0
    assert clings(air(180.0, {"hc": 8.0, "emissivity": 0.9, "wetness": 1.0, "vapour_pa": 3000.0, "juice": 0.45})) == 1.0


def test_a_seared_steak_loses_what_cooks_weigh_a_third_to_half_of_it_as_vapour():
    """Common practice: 10 to 15 % of a steak of 20 to 25 mm, medium-rare."""
    pan = {"kind": "pan", "pan_c": 220, "seconds_a_side": 120, "sides": 2}
    run = simulate(plan([pan, {"kind": "rest", "minutes": 5}], shape=slab(22), start_c=18, mass_g=280))
    mass = float((run.rho_kg_m3 * run.grid.volume).sum())
    vapour = (run.vapour_kg + float(run.dried_kg.sum())) / mass
    assert 0.10 <= run.water_lost_share <= 0.15
    assert 1 / 3 <= vapour / run.water_lost_share <= 0.53


@pytest.mark.parametrize("stage", [
    {"kind": "chill", "air_c": 3, "minutes": 10080}, {"kind": "bath", "water_c": 60, "minutes": 4320},
    {"kind": "oven", "air_c": 60, "minutes": 2880},
], ids=["a week in the fridge", "three days in a bath", "two days of drying"])  # fmt: skip
def test_a_narrow_piece_at_rest_takes_long_steps(stage):
    """Its line across is quick; once it hardly changes it must not hold up days."""
    run = simulate(plan([stage], shape=slab(10), start_c=30, width_mm=10, length_mm=10))
    assert len(run.t_s) < 1500
