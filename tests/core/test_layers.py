"""What a piece is made of from its middle outwards, how a face dries, and where it browns."""

from __future__ import annotations

import math

import numpy as np
import pytest

from ember.files.piece import Piece
from ember.food.catalogue import cut
from ember.food.composition import ThermalProperties
from ember.heat import terms
from ember.heat.brown import DRY_AIR_C
from ember.heat.drying import dry_off
from ember.heat.faces import air, media
from ember.heat.grid import make_grid
from ember.heat.layers import BONE, FAT_CAP, food_of, inside_share
from ember.heat.moisture import RESIDUAL_WATER, begin_now, refresh
from ember.heat.problem import make_problem
from ember.heat.simulate import simulate

from .plans import plan


def volume_share(problem, layer):
    food, grid = problem.food, problem.grid
    return float((food.share[layer] * grid.volume).sum() / grid.volume.sum())


@pytest.mark.parametrize("exponent", [0.0, 0.5, 1.0, 2.0])
def test_a_cap_fills_what_its_thickness_says(exponent):
    kind = (
        {"kind": "general", "thickness_mm": 60, "exponent": exponent}
        if exponent
        else {"kind": "slab", "thickness_mm": 60}
    )
    problem = make_problem(plan([{"kind": "temper", "minutes": 1}], shape=kind, fat_cap_mm=6), 0.03)
    exact = 0.1 if exponent == 0 else 1 - (1 - 6 / 30) ** (exponent + 1)
    assert volume_share(problem, 1) == pytest.approx(exact, rel=0.02)


@pytest.mark.parametrize("share", [0.1, 0.17, 0.3, 0.5, 0.8])
@pytest.mark.parametrize("exponent", [0.7, 1.0, 1.4, 2.0])
def test_a_node_stands_on_the_edge_of_what_is_inside(share, exponent):
    grid = make_grid(0.1, exponent, 56, 0.05e-3, share * 0.05)
    assert grid.x_m[grid.flesh] == pytest.approx(share * 0.05, rel=1e-12)
    assert (np.diff(grid.x_m) > 0).all()
    assert grid.volume.sum() == pytest.approx(0.05 / (exponent + 1))


def test_bone_and_stuffing_take_their_share_of_the_radius():
    leg = make_problem(
        plan([{"kind": "temper", "minutes": 1}], "lamb/leg", shape={"kind": "cylinder", "diameter_mm": 120}), 0.03
    )
    assert volume_share(leg, 1) == pytest.approx(cut("lamb/leg").bone_share ** 2, rel=0.05)
    assert leg.food.water[0] == 0.0
    assert leg.grid.core == leg.grid.flesh > 0
    stuffed = plan(
        [{"kind": "temper", "minutes": 1}], "chicken/whole", shape={"kind": "from_mass"}, mass_g=1600, stuffed=True
    )
    found = make_problem(stuffed, 0.03)
    assert volume_share(found, 1) == pytest.approx(0.5**2.4, rel=0.1)
    assert (found.grid.core, found.grid.flesh > 0) == (0, True)
    assert make_problem(stuffed, 0.03, part="thigh").grid.flesh == 0
    piece = Piece(cut="lamb/leg", shape={"kind": "cylinder", "diameter_mm": 120}, start_c=4, bone=False)
    assert inside_share(piece, cut("lamb/leg")) == 0.0


def test_layers_never_fill_a_cell_twice():
    piece = Piece(cut="lamb/leg", shape={"kind": "cylinder", "diameter_mm": 4}, start_c=4, fat_cap_mm=3)
    food = food_of(piece, cut("lamb/leg"), cut("lamb/leg").mass_fractions, make_grid(0.004, 1.0, 56, 0.05e-3, 0.34e-3))
    assert (food.share.sum(axis=0) <= 1.0 + 1e-12).all()
    assert (food.water >= 0).all()


def test_a_wall_of_flesh_and_fat_conducts_in_series():
    # Steady heat through two layers one behind the other (any textbook): T between = T1 - q L1/k1, q = ΔT / Σ(L/k).
    stage = {"kind": "medium", "medium_c": 45, "h_w_m2k": [1e5, 0.0], "minutes": 1}
    recipe = plan([stage], shape={"kind": "slab", "thickness_mm": 30}, fat_cap_mm=7.3, start_c=20)
    problem = make_problem(recipe, 0.001)
    warm = np.zeros((2, terms.FACE_COLUMNS))
    warm[:, terms.H] = 1e5
    warm[0, terms.MEDIUM_C], warm[1, terms.MEDIUM_C] = 45.0, 25.0
    from ember.heat.kernel import run

    start = np.zeros((4, len(problem.grid.x_m)))
    start[:2] = 35.0
    _, history, _, _ = run(
        start, 20.0, problem.body, problem.food, warm, terms.NOTHING_AROUND, 100.0,
        terms.Stop(40 * 3600.0, terms.STOP_TIME, 0.0, True), 0.001, 7200.0, 60_000,
    )  # fmt: skip
    T = history[-1, : len(problem.grid.x_m)]
    flesh = ThermalProperties.of(cut("beef/strip-loin").mass_fractions, 20.0).k_w_mk
    fat = ThermalProperties.of(FAT_CAP, 20.0).k_w_mk
    at = np.array([1.0, 37.0, 37.0**2, 37.0**3])
    flesh_r, fat_r = 0.0227 / float(flesh @ at), 0.0073 / float(fat @ at)
    between = 45.0 - 20.0 * flesh_r / (flesh_r + fat_r)
    found = float(np.interp(0.0227, problem.grid.x_m, T))
    assert found == pytest.approx(between, abs=0.25)


def test_a_face_without_juice_dries_as_diffusion_lets_it():
    # Half-space whose face is held dry (Carslaw & Jaeger 1959): given off by t is 2 C √(D t / π). The last tenth of the
    # water moves ever more slowly here, so a little less.
    grid = make_grid(0.12, 0.0, 30, 0.05e-3)
    n, D, rho, water = len(grid.x_m), 3e-9, 1050.0, 760.0
    body = terms.Body(grid.volume, grid.area / np.diff(grid.x_m), grid.face_area, grid.core)
    whole = np.ones(n)
    food = terms.Food(
        k=np.zeros((1, 4)), c=np.zeros((1, 4)), share=np.zeros((1, n)), rho=rho * whole, water=water * whole,
        press=0 * whole, loss_a=0.0, loss_tm_c=60.0, loss_w_k=7.0, loss_tau_s=900.0, water_d=D,
    )  # fmt: skip
    face = air(80.0, media()["rest-open"])
    faces = np.stack([np.zeros_like(face), face])
    now = begin_now(n, 100.0, terms.NOTHING_AROUND)
    pressed, boiled, T = np.zeros(n), np.zeros(n), np.full(n, 80.0)
    supply, off, drifts, wet, work = np.zeros(2), np.zeros(2), np.zeros(2), np.ones(2), np.zeros((7, n))
    total, h, t = 0.0, 5.0, 0.0
    while t < 4 * 3600:
        refresh(pressed, boiled, food, now)
        wet[:] = now.wet
        dry_off(T, h, 20.0, supply, pressed, boiled, work, body, food, faces, now, wet, off, drifts)
        total += float(off[1]) * h
        t += h
    assert total == pytest.approx(float((boiled * grid.volume).sum()), rel=0.02)  # it came from the cells
    exact = 2 * (water - RESIDUAL_WATER * rho) * math.sqrt(D * t / math.pi)
    assert 0.75 * exact < total < 1.02 * exact
    assert now.wet[1] < 0.2
    assert boiled[0] < 1.0  # the other face was left alone


def test_juice_that_keeps_up_keeps_a_face_as_wet_as_it_was():
    grid = make_grid(0.06, 0.0, 30, 0.05e-3)
    problem = make_problem(plan([{"kind": "temper", "minutes": 1}], shape={"kind": "slab", "thickness_mm": 60}), 0.03)
    n = len(grid.x_m)
    face = air(150.0, media()["oven-still"])
    faces = np.stack([face, face])
    now = begin_now(n, 100.0, terms.NOTHING_AROUND)
    boiled, off, drifts, wet, work = np.zeros(n), np.zeros(2), np.zeros(2), np.ones(2), np.zeros((7, n))
    for _ in range(50):
        refresh(np.zeros(n), boiled, problem.food, now)
        supply = np.full(2, 0.12)
        dry_off(
            np.full(n, 80.0), 60.0, 20.0, supply, np.zeros(n), boiled, work, problem.body, problem.food, faces, now,
            wet, off, drifts,
        )  # fmt: skip
    assert boiled.max() < 1e-6
    assert (off > 0).all()
    assert now.wet.min() == 1.0


def test_browning_is_followed_only_where_a_face_can_brown():
    oven = {"kind": "oven", "air_c": 190, "minutes": 70}
    roast = {"shape": {"kind": "cylinder", "diameter_mm": 90}, "mass_g": 1000}
    run = simulate(plan([{"kind": "bath", "water_c": 80, "minutes": 60}, oven], "beef/rump-roast", **roast))
    bath, hot = run.stages
    assert run.browning_c.shape == (len(run.t_s), 2)
    assert (run.browning_c[: bath.last, 1] < 30).all()
    assert run.browning_c[hot.last, 1] > run.temperature_c[hot.last, -1]
    assert run.browning_c[:, 1].max() < 190
    cool = simulate(plan([{"kind": "oven", "air_c": DRY_AIR_C - 10, "minutes": 70}], "beef/rump-roast", **roast))
    assert cool.browning_c[-1, 1] == pytest.approx(cool.temperature_c[-1, -1])


def test_bone_is_no_better_a_conductor_than_flesh():
    # Compact bone 0.3 to 0.6 W/mK in published tables, flesh about 0.5; by volume it stores a third less (memory).
    assert 0.3 <= float(BONE.k_w_mk[0]) <= 0.6
    flesh = ThermalProperties.of(cut("beef/strip-loin").mass_fractions, 20.0)
    assert float(BONE.c_j_m3k[0]) < 0.8 * float(flesh.c_j_m3k[0])
