"""Sections against exact series, finite elements, the one-dimensional solver and the balance of energy."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import brentq
from scipy.special import j0, j1

from ember.files.plan import parse_plan
from ember.food.composition import ThermalProperties
from ember.heat.chain import State, run_from
from ember.heat.faces import both, film
from ember.heat.moisture import LATENT_BOIL, WATER_J_KGK
from ember.heat.problem import composition_of, make_problem, make_row_problem
from ember.heat.row_run import row_of, run
from ember.heat.simulate import simulate
from ember.heat.terms import STOP_CORE, STOP_TIME, Foods, Stop
from ember.shape.outline import Outline, domed, flat, roll, taper
from ember.shape.sections import make_sections

K, RHO, CP = 0.5, 1050.0, 3500.0
A = K / (RHO * CP)
START_C, MEDIUM_C = 10.0, 80.0
HALF_M = 0.015


def dry(sections):
    none = np.zeros(sections.volume.shape)
    return Foods(
        np.array([[K, 0.0, 0.0, 0.0]]), np.array([[RHO * CP, 0.0, 0.0, 0.0]]), none[:, None], none + RHO, none, none,
        0.0, 60.0, 7.0, np.full(sections.count, 900.0), 0.0,
    )  # fmt: skip


def heated(outline, h, stop, fine=False, section=0):
    """A dry piece with one film all around."""
    count, half, finest, tolerance = (24, 30, 0.2e-3, 0.03) if fine else (12, 15, 0.2e-3, 0.1)
    sections = make_sections(outline, count, 2 * half if outline.is_round else half, finest)
    start = np.zeros((4, *sections.volume.shape))
    start[:2] = START_C
    face = both(film(MEDIUM_C, h))
    faces = np.tile(face, (sections.count, 1, 1))
    return sections, run(row_of(sections, section), dry(sections), start, faces, face, stop, tolerance)


# Exact solutions as products of infinite series: Carslaw & Jaeger, Conduction of Heat in Solids, 2nd ed., sections
# 3.11 (plane wall) and 7.7 (cylinder), 1.15 (products).
def wall(fourier, biot):
    """Middle of a plane wall, as a share of the first difference."""
    roots = [brentq(lambda z: z * np.tan(z) - biot, n * np.pi + 1e-9, (n + 0.5) * np.pi - 1e-9) for n in range(30)]
    return sum(4 * np.sin(z) / (2 * z + np.sin(2 * z)) * np.exp(-z * z * fourier) for z in roots)


def cylinder(fourier, biot):
    """Axis of an infinite cylinder."""
    grid = np.linspace(1e-6, 100.0, 40_000)
    value = grid * j1(grid) - biot * j0(grid)
    turns = np.flatnonzero(np.sign(value[1:]) != np.sign(value[:-1]))
    roots = [brentq(lambda z: z * j1(z) - biot * j0(z), grid[i], grid[i + 1]) for i in turns[:30]]
    return sum(2 / z * j1(z) / (j0(z) ** 2 + j1(z) ** 2) * np.exp(-z * z * fourier) for z in roots)


def exact_s(across, along, slender, biot):
    """When a tenth of the difference is left in the middle, s; `slender`: half the row over half the thickness."""

    def left(t):
        fourier = A * t / HALF_M**2
        return across(fourier, biot) * along(fourier / slender**2, biot * slender) - 0.1

    return brentq(left, 100.0, 20_000.0)


BODIES = {
    "bar 4": (flat(0.03, 0.12, "square"), wall, wall, 4.0),
    "bar 1": (flat(0.03, 0.03, "square"), wall, wall, 1.0),
    "disc 1.5": (flat(0.03, 0.045, "square", is_disc=True), wall, cylinder, 1.5),
    "roll 3": (
        Outline(np.linspace(0.0, 0.045, 2401), np.full(2401, HALF_M), ("cut", "square"), is_round=True),
        cylinder, wall, 3.0,
    ),
}  # fmt: skip


@pytest.mark.parametrize("biot", [0.5, 3.0, 15.0, 100.0])
@pytest.mark.parametrize("body", BODIES)
def test_core_times_are_those_of_the_exact_series(body, biot):
    outline, across, along, slender = BODIES[body]
    wanted = exact_s(across, along, slender, biot)
    stop = Stop(1e6, STOP_CORE, MEDIUM_C - 0.1 * (MEDIUM_C - START_C), True)
    for fine, within in ((False, 0.008), (True, 0.0035)):
        _, course = heated(outline, biot * K / HALF_M, stop, fine)
        assert course.reached
        assert course.t_s[-1] == pytest.approx(wanted, rel=within)


# Seconds until the coldest of the middle line is at 73 °C, by finite elements (scikit-fem, quadratic, fine) with films
# of 25, 100 and 1000 W/m²K; computed for this project.
FINITE_ELEMENTS = {
    "ellipse 80 × 40": (domed(0.04, 0.08), (6655.7, 3368.9, 2402.9)),
    "ellipse 100 × 25": (domed(0.025, 0.1), (4486.8, 1961.9, 1179.6)),
    "ellipse 60 × 54": (domed(0.054, 0.06), (7374.2, 3905.6, 2941.1)),
    "stadium 100 × 25": (flat(0.025, 0.1), (4916.6, 2129.6, 1270.3)),
    "stadium 100 × 50": (flat(0.05, 0.1), (9818.1, 5437.6, 4144.8)),
    "superellipse 100 × 25": (domed(0.025, 0.1, power=3.0), (4760.5, 2071.9)),
    "wedge 25 to 8 over 80": (taper(0.025, 0.008, 0.08), (3326.1, 1389.9, 791.4)),
    "wedge 40 to 12 over 70": (taper(0.04, 0.012, 0.07), (4777.3, 2263.4, 1485.3)),
    "roll of 220 from 60 to 24": (taper(0.06, 0.024, 0.22, 0.45, is_round=True), (7533.5, 4177.1, 3217.2)),
}


@pytest.mark.parametrize("name", FINITE_ELEMENTS)
def test_times_are_those_of_finite_elements(name):
    outline, seconds = FINITE_ELEMENTS[name]
    for h, wanted in zip((25.0, 100.0, 1000.0), seconds, strict=False):
        sections, course = heated(outline, h, Stop(1.2 * wanted, STOP_TIME, 0.0, True))
        coldest = course.temperature_c[:, :, sections.core].min(axis=1)
        assert np.interp(73.0, coldest, course.t_s) == pytest.approx(wanted, rel=0.015)


def test_a_half_circle_round_about_its_row_is_a_ball():
    sections, course = heated(roll(0.06, 0.06, "round"), 200.0, Stop(3000.0, STOP_TIME, 0.0, True))
    coldest = course.temperature_c[:, :, sections.core].min(axis=1)
    biot, left = 200.0 * 0.03 / K, (MEDIUM_C - 73.0) / (MEDIUM_C - START_C)
    roots = [brentq(lambda z: 1 - z / np.tan(z) - biot, n * np.pi + 1e-6, (n + 1) * np.pi - 1e-6) for n in range(30)]

    def middle(t):  # Carslaw & Jaeger, section 9.4
        f = A * t / 0.03**2
        return sum(
            4 * (np.sin(z) - z * np.cos(z)) / (2 * z - np.sin(2 * z)) * np.exp(-z * z * f) for z in roots
        ) - left  # fmt: skip

    assert np.interp(73.0, coldest, course.t_s) == pytest.approx(brentq(middle, 100.0, 20_000.0), rel=0.003)


@pytest.mark.parametrize("outline", [domed(0.04, 0.08), taper(0.04, 0.012, 0.07), flat(0.03, 0.06, is_disc=True)])
def test_what_comes_in_is_what_is_there(outline):
    sections, course = heated(outline, 100.0, Stop(1500.0, STOP_TIME, 0.0, True))
    there = RHO * CP * float((sections.volume * (course.temperature_c[-1] - START_C)).sum())
    by_faces = float((course.sums[-1, :-1, :2].sum(axis=1) * sections.face).sum())
    assert by_faces + float(course.sums[-1, -1, :2].sum()) == pytest.approx(there, rel=0.005)


def plan(stages, shape, outline=None, cut="beef/strip-loin", start_c=5.0, **piece):
    data = {"cut": cut, "shape": shape, "start_c": start_c, **piece} | ({"outline": outline} if outline else {})
    return parse_plan({"format": "open-ember/plan", "version": 1, "piece": data, "stages": stages})


def slab(mm):
    return {"kind": "slab", "thickness_mm": mm}


BATH = [{"kind": "bath", "water_c": 57.0, "until": {"core_c": 54.5}}]
OVEN = [{"kind": "oven", "air_c": 200.0, "until": {"core_c": 50.0}}, {"kind": "rest", "minutes": 6}]


@pytest.mark.parametrize("stages", [BATH, OVEN], ids=["bath", "oven"])
def test_a_row_of_mirrors_is_one_dimension(stages):
    """Between two planes of symmetry the piece has no edge: it is a slab, water and crust included."""
    wide = plan(stages, slab(30.0), {"family": "chop", "row_mm": 60.0})
    problem = make_row_problem(wide)
    row = problem.row
    body = row.body._replace(has_end=np.array([False, False]))
    shape = row.sections.volume.shape
    state = np.zeros((4, *shape))
    state[:2] = 5.0
    closed = replace(problem, row=replace(row, body=body), tolerance_k=0.03)
    of_row = run_from(closed, 0, State(state))
    alone = np.zeros((4, shape[1]))
    alone[:2] = 5.0
    of_one = run_from(replace(problem, row=None, tolerance_k=0.03), 0, State(alone))
    assert make_problem(wide, 0.03).row is None
    assert of_row[0].end_s == pytest.approx(of_one[0].end_s, rel=2e-3)
    for mine, its in zip(of_row, of_one, strict=True):
        assert np.ptp(mine.rows[:, :, : shape[1]], axis=1).max() < 1e-3  # every section is like its neighbour
        assert mine.history[-1, : shape[1]] == pytest.approx(its.history[-1, : shape[1]], abs=0.25)


WET = {
    "bath": [{"kind": "bath", "water_c": 60, "minutes": 45}],
    "oven and rest": [{"kind": "oven", "air_c": 180, "minutes": 25}, {"kind": "rest", "minutes": 10}],
    "pan that boils": [{"kind": "pan", "pan_c": 230, "seconds_a_side": 90, "sides": 4}],
}


@pytest.mark.parametrize("name", WET)
@pytest.mark.parametrize(
    "outline", [{"family": "fillet", "row_mm": 80, "thin_mm": 10}, {"family": "steak", "row_mm": 90}]
)
def test_heat_through_faces_and_ends_is_heat_in_the_piece(name, outline):
    recipe = plan(WET[name], slab(25.0), outline)
    problem = make_row_problem(recipe)
    sections, n = problem.row.sections, problem.shape[1]
    start = np.zeros((4, *problem.shape))
    start[:2] = recipe.piece.start_c
    raw = ThermalProperties.of(composition_of(recipe), recipe.piece.start_c)
    entered = taken_up = 0.0
    for block in run_from(problem, 0, State(start)):
        T, gone = block.rows[:, :, :n], block.rows[:, :, 3 * n : 4 * n] + block.rows[:, :, 4 * n :]
        middle = np.clip(0.5 * (T[1:] + T[:-1]), -5, 150)
        capacity = sum(c * middle**i for i, c in enumerate(raw.c_j_m3k)) - WATER_J_KGK * gone[:-1]
        taken_up += float((capacity * np.diff(T, axis=0) * sections.volume).sum())
        sums = block.row_sums[-1]
        taken_up += LATENT_BOIL * float((sums[:-1, 4] * sections.face).sum())
        entered += float((sums[:-1, :2].sum(axis=1) * sections.face).sum() + sums[-1, :2].sum())
    assert entered == pytest.approx(taken_up, rel=0.005)


def test_a_step_that_is_no_number_is_not_taken():
    """A thin tip that crusts in a long stretch: once a step there overflowed, and the rest of the row was lost."""
    outline = {"family": "breast", "row_mm": 140, "thin_mm": 10.4516, "other_mm": 60}
    stages = [
        {"kind": "pan", "pan_c": 185, "seconds_a_side": 110, "sides": 2},
        {"kind": "oven", "air_c": 175, "mode": "fan", "minutes": 90},
    ]
    recipe = plan(stages, slab(36.0), outline, cut="chicken/breast")
    for refine in (1.0, 0.75):
        problem = make_row_problem(recipe, refine)
        start = np.zeros((4, *problem.shape))
        start[:2] = recipe.piece.start_c
        for block in run_from(problem, 0, State(start)):
            assert np.isfinite(block.rows).all()


# Core times by exact product solutions against the infinite slab: 18, 35 and 51 % shorter.
COMPACT = {
    "steak 50 × 100": (50.0, {"family": "steak", "row_mm": 100.0}, 0.80),
    "fillet steak 35 × 70 across": (35.0, {"family": "medallion", "row_mm": 70.0, "ends": ("cut", "square")}, 0.65),
    "medallion 50 × 70": (50.0, {"family": "medallion", "row_mm": 70.0, "ends": ("cut", "square")}, 0.49),
}


@pytest.mark.parametrize("name", COMPACT)
def test_compact_pieces_take_as_much_less_time_as_their_edges_make_it(name):
    thick, outline, share = COMPACT[name]
    endless = {"kind": "general", "thickness_mm": thick, "exponent": 0}
    flat_s = simulate(plan(BATH, endless)).stages[0].end_s
    assert simulate(plan(BATH, slab(thick), outline)).stages[0].end_s / flat_s == pytest.approx(share, abs=0.04)


@pytest.mark.parametrize("key", ["thickness", "row_mm", "thin_mm"])
def test_bigger_is_slower_in_every_size(key):
    def takes(more):
        thick = 25.0 * (more if key == "thickness" else 1.0)
        sizes = {"row_mm": 60.0, "thin_mm": 10.0}
        sizes = {name: size * (more if name == key else 1.0) for name, size in sizes.items()}
        return simulate(plan(BATH, slab(thick), {"family": "fillet", **sizes})).stages[0].end_s

    assert takes(1.0) < takes(1.1) < takes(1.25)


def test_in_a_pan_the_core_is_that_of_the_slab_and_the_edge_has_its_own_surroundings():
    stages = [{"kind": "pan", "pan_c": 220.0, "seconds_a_side": 60.0, "sides": 4}, {"kind": "rest", "minutes": 8.0}]
    one, sections = (simulate(plan(stages, slab(25.0), o)) for o in (None, {"family": "steak", "row_mm": 100.0}))
    assert sections.peak()[0] == pytest.approx(one.peak()[0], abs=1.0)
    middle = sections.row.middle_c.max(axis=0)
    assert middle[0] - 8.0 < middle[-1] < 60.0  # vapour and spatter, not the pan


def test_the_thin_end_of_a_fillet_is_done_long_before_its_thick_one():
    course = simulate(plan(OVEN, slab(25.0), {"family": "fillet", "thin_mm": 8.0, "row_mm": 80.0}, cut="cod/fillet"))
    endless = {"kind": "general", "thickness_mm": 25.0, "exponent": 0}
    slab_s = simulate(plan(OVEN, endless, cut="cod/fillet")).stages[0].end_s
    assert course.stages[0].end_s / slab_s == pytest.approx(0.7, abs=0.05)  # 21 to 30 % by exact products
    middle = course.row.middle_c.max(axis=0)
    assert middle[-1] > course.peak()[0] + 25.0
    assert course.row.over_share(course.peak()[0]) > 0.6
