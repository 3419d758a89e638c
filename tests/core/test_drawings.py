"""Drawings are pure functions: signs, labels and contours without a database or a request."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.face.palette import BAND_RED, colours, is_red
from ember.files.base import KINDS
from kitchen.drawings.axis import TimeColumns
from kitchen.drawings.compare_chart import WIDE_PX, BackFromEnd, compare_chart
from kitchen.drawings.contours import apart, contour
from kitchen.drawings.cut_face import FRAMES, LEVELS, Section, bands_of, cut_face, moments
from kitchen.drawings.families import FAMILY, family_of, pattern
from kitchen.drawings.heat_strip import rule_temperature_c
from kitchen.drawings.meat import Flesh, flesh_of, words_by_heat
from kitchen.drawings.piece import piece_drawing
from kitchen.drawings.plan_chart import LEAST_PX, plan_chart

from .plans import plan


def test_every_kind_of_stage_has_a_look_and_a_least_width():
    assert set(FAMILY) == set(KINDS)
    assert set(FAMILY.values()) == set(LEAST_PX)
    assert family_of("plate") == "rest"


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("width", [20.0, 92.0, 400.0])
def test_a_sign_is_drawn_to_the_length_of_its_block(kind, width):
    path = pattern(kind, width)
    assert path.startswith("M")
    starts = [float(part.split()[0]) for part in path.split("M")[1:]]
    assert 0 <= min(starts) <= max(starts) <= width


def test_labels_do_not_lie_on_one_another():
    labels = [(100.0, 64.0, 20.0), (110.0, 64.0, 40.0), None, (200.0, 64.0, 60.0)]
    assert [level for _, _, level in apart(labels)] == [20.0, 60.0]


def test_a_contour_is_broken_where_another_place_takes_over():
    x = np.linspace(0, 1, 41)
    near, far = 60 - 100 * np.abs(x - 0.5), 60 - 400 * np.abs(x - 0.5)
    whole = contour(10.0 * np.arange(6.0), x, np.array([near] * 6), 50.0, 124.0)
    broken = contour(10.0 * np.arange(6.0), x, np.array([near] * 3 + [60 - 22 * np.abs(x - 0.5)] * 3), 50.0, 124.0)
    assert len(whole) == 2
    assert all(path.count("M") == 1 for path in whole + broken)
    assert len(broken) == 4
    assert contour(10.0 * np.arange(6.0), x, np.array([far] * 6), 70.0, 124.0) == []
    # A middle that touches the level, or a scrap of a line, draws nothing.
    assert contour(10.0 * np.arange(6.0), x, np.array([near] * 6), 59.95, 124.0) == []
    assert contour(np.arange(6.0), x, np.array([near] * 6), 50.0, 124.0) == []


def test_a_plan_of_every_family_is_drawn_to_its_width():
    stages = [
        {"kind": "bath", "water_c": 57, "minutes": 60}, {"kind": "ice_bath", "minutes": 30},
        {"kind": "oven", "air_c": 170, "minutes": 10}, {"kind": "pan", "pan_c": 220, "seconds_a_side": 40},
        {"kind": "rest", "minutes": 4},
    ]  # fmt: skip
    recipe = plan(stages, depth_map=True)
    chart = plan_chart(evaluate(recipe), recipe.stages, 600.0)
    assert chart.width >= sum(LEAST_PX[column.family] for column in chart.columns)
    assert chart.height > chart.plot_end_y > chart.plot_y > chart.strip.height
    assert chart.columns[-1].x + chart.columns[-1].width == pytest.approx(chart.width)


STRIP = [
    {"kind": "bath", "water_c": 56, "until": {"peak_c": 55}}, {"kind": "pan", "pan_c": 225, "seconds_a_side": 40},
    {"kind": "rest", "minutes": 6},
]  # fmt: skip


def drawn(stages, cut="beef/strip-loin", **piece):
    recipe = plan(stages, cut, depth_map=True, **piece)
    return recipe, evaluate(recipe)


def face_of(stages, section, cut="beef/strip-loin", **piece):
    _, result = drawn(stages, cut, **piece)
    time = TimeColumns.of([run.end_s - run.start_s for run in result.stages], [100.0] * len(result.stages), 600.0)
    words = words_by_heat(cut, result.doneness.word, result.doneness.high_c)
    return cut_face(section, flesh_of(cut, result, moments(time)), words), result


def test_the_strip_shows_turns_the_rule_and_what_is_too_hot():
    recipe, result = drawn(STRIP)
    chart = plan_chart(result, recipe.stages, 600.0)
    assert chart.strip.down.count("M") == 2  # two exposures, first the under side
    assert f"{chart.strip.height + 3:.0f}H" in chart.strip.down.split("M")[1]
    assert chart.strip.rule_c == pytest.approx(62.8, abs=0.1)
    assert chart.strip.rule_lines
    assert chart.strip.stipple
    bath = drawn(STRIP[:1])
    assert plan_chart(bath[1], bath[0].stages, 600.0).strip.stipple == ""


def test_the_ends_of_a_batch_are_drawn_and_stand_in_the_table():
    recipe, result = drawn(STRIP, spread_mm=6)
    chart = plan_chart(result, recipe.stages, 600.0)
    assert [name for name, _ in chart.ends] == ["thin", "thick"]
    assert all(row.thin_c is not None for row in chart.rows)
    assert chart.rows[0].seconds == 0.0


def test_oven_bastes_are_marked():
    recipe, result = drawn([{"kind": "oven", "air_c": 170, "minutes": 100, "baste_every_min": 30}])
    assert len(plan_chart(result, recipe.stages, 600.0).strip.bastes) == 3


def test_a_rule_that_asks_for_a_kill_is_drawn_from_its_lowest_temperature():
    _, result = drawn([{"kind": "oven", "air_c": 120, "until": {"core_c": 60}}], "beef/rib-roast")
    assert rule_temperature_c(result) == pytest.approx(54.4)


# The cut face --------------------------------------------------------------------------------------------------------


def test_the_face_is_grey_at_the_rim_and_rosy_in_the_middle():
    face, _ = face_of(STRIP, Section("steak", 30.0, 90.0))
    assert len(face.levels) == LEVELS
    assert len(face.frames) == FRAMES
    assert len(face.frames[0]) == 2 * LEVELS * 6
    assert face.bands[0].word == "rosy"
    assert {"grey", "crust"} <= {band.word for band in face.bands}

    def redness(colour):
        return int(colour[:2], 16) - int(colour[2:4], 16)

    assert redness(face.top[-1]) > redness(face.top[3]) + 30
    assert redness(face.frames[0][:6]) > 60  # raw at the start


def test_bands_fill_the_piece_and_agree_with_the_grey_edge():
    face, result = face_of(STRIP, Section("steak", 30.0, 90.0))
    middle, *rims = face.bands
    assert middle.mm + 2 * sum(band.mm for band in rims) == pytest.approx(30.0, abs=0.1)
    grey = sum(band.mm for band in rims if band.word in ("grey", "crust"))
    assert grey == pytest.approx(result.doneness.grey_band_mm, abs=1.0)


def test_bands_of_a_face_seared_on_one_side_tell_the_deeper():
    depth = np.linspace(0.0, 0.02, 41)
    hot = np.interp(depth, [0.0, 0.004, 0.01, 0.02], [140.0, 60.0, 50.0, 50.0])[None, :]
    bands = bands_of(True, Flesh(depth, hot, np.zeros((1, 41, 3), np.uint8)), (*BAND_RED, (-99.0, "raw")))[0]
    assert bands[0].word == "red"
    crust = next(band for band in bands if band.word == "crust")
    assert crust.mm == pytest.approx(2.0, abs=0.1)


def test_fat_bone_and_stuffing_are_drawn_where_they_are():
    capped, _ = face_of(STRIP, Section("steak", 30.0, 90.0, fat_mm=5.0, inside="rib"), fat_cap_mm=5.0)
    assert capped.fat
    assert capped.inside
    round_, _ = face_of(
        [{"kind": "oven", "air_c": 170, "minutes": 30}], Section("round", 60.0, 60.0, inside="bone", inside_share=0.2),
        "pork/loin", shape={"kind": "cylinder", "diameter_mm": 60},
    )  # fmt: skip
    assert not round_.flat
    assert len(round_.frames[0]) == LEVELS * 6
    assert face_of(STRIP, Section("steak", 30.0, 90.0))[0].fat == ""


def test_long_baths_cost_the_red_that_their_temperature_alone_would_keep():
    # Common practice: a day at 57 °C is paler than an hour at it.
    hour, day = (colours("beef/chuck", np.array([57.0]), np.array([left]), False)[0] for left in (0.95, 0.4))
    assert int(hour[0]) - int(hour[1]) > int(day[0]) - int(day[1]) + 20


def test_pale_flesh_and_fish_have_their_own_colours():
    assert is_red("beef/strip-loin")
    assert not is_red("chicken/breast")
    assert not is_red("tuna/steak") or is_red("lamb/rump")
    raw, cooked = (
        colours("chicken/breast", np.array([T]), np.array([p]), False)[0] for T, p in ((10.0, 1.0), (75.0, 0.2))
    )
    assert cooked.sum() > raw.sum() + 60  # it turns white
    browned = colours("chicken/breast", np.array([120.0]), np.array([0.0]), True)[0]
    assert browned.sum() < cooked.sum() - 150
    assert words_by_heat("chicken/breast", "tender", 65.0)[1] == (65.0, "past tender")


# The piece and the comparison ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["slab", "cylinder", "sphere", "bird"])
@pytest.mark.parametrize(("size", "wide", "long"), [(3, 120, 200), (34, 100, 130), (300, 300, 600), (600, 20, 20)])
def test_a_piece_of_any_size_stays_on_its_sheet(kind, size, wide, long):
    drawing = piece_drawing(kind, size, wide, long)
    assert drawing.mm_px > 0
    assert 0 <= drawing.tall[1] < drawing.tall[2] <= 120
    assert 0 <= drawing.across[0] < drawing.across[1] <= 160
    assert drawing.height < 150


def test_a_thicker_piece_is_drawn_thicker():
    thin, thick = piece_drawing("slab", 20, 100, 130), piece_drawing("slab", 50, 100, 130)
    share = [(d.tall[2] - d.tall[1]) / (d.across[1] - d.across[0]) for d in (thin, thick)]
    assert share[1] / share[0] == pytest.approx(2.5, rel=0.02)


def test_methods_side_by_side_end_together():
    short = drawn(
        [{"kind": "pan", "pan_c": 210, "turn_every_s": 45, "until": {"peak_c": 55}}, {"kind": "rest", "minutes": 4}]
    )
    chart = compare_chart([drawn(STRIP)[1], short[1]])
    assert chart.lanes[0].begins == pytest.approx(0.0)
    assert chart.lanes[1].begins > WIDE_PX / 3
    assert not chart.eased
    assert compare_chart([drawn([{"kind": "bath", "water_c": 60, "minutes": 2880}])[1], short[1]]).eased
    with pytest.raises(ValueError, match="nothing"):
        compare_chart([])


@pytest.mark.parametrize("power", [1.0, 0.45])
def test_time_before_the_end_goes_there_and_back(power):
    axis = BackFromEnd(86_400.0, power)
    before = np.array([0.0, 600.0, 7200.0, 86_400.0])
    assert axis.before(axis.px(before)) == pytest.approx(before, abs=1.0)
    places = [at for at, _ in axis.ticks]
    assert places == sorted(places, reverse=True)
