"""What heat does to flesh: kinetics against papers (from memory) and points of the trade; and the catalogue."""

from __future__ import annotations

import numpy as np
import pytest

from ember.evaluate import evaluate
from ember.food.catalogue import cuts
from ember.food.geometry import typical_mass_g
from ember.judge.doneness import scales
from ember.kinetics.browning import burnt
from ember.kinetics.colour import hex_of, lab, opacity, pigment_left, tint_of, tints
from ember.kinetics.lethality import log_reduction, organisms
from ember.kinetics.texture import dose, factor_of, firmness, hours_to_tender, word_of

from .plans import plan

HOUR = 3600.0


def test_e_coli_and_spores_by_their_papers():
    # Juneja, Snyder & Marmer 1997 (from memory): D 21.13, 4.95, 3.17, 0.93, 0.39 min at 55 to 65 °C in ground beef.
    coli = organisms()["e-coli-o157"]
    for celsius, minutes in ((55, 21.13), (57.5, 4.95), (60, 3.17), (62.5, 0.93), (65, 0.39)):
        assert 1 / 1.7 < coli.d_minutes(celsius) / minutes < 1.7  # one D and z through five uneven points
    fitted = np.polyfit([55, 57.5, 60, 62.5, 65], np.log10([21.13, 4.95, 3.17, 0.93, 0.39]), 1)
    assert -1 / fitted[0] == pytest.approx(coli.z_k, rel=0.01)
    # ACMSF 1992: 90 °C for 10 min is 6 log; FDA's fish guidance, table A-4: 85 °C 51.8 min (z 7).
    spores = organisms()["botulinum-np"]
    assert 6 * spores.d_minutes(90) == pytest.approx(10, rel=0.01)
    assert 6 * spores.d_minutes(85) == pytest.approx(51.8, rel=0.01)
    t = np.array([0.0, 600.0])
    assert float(log_reduction(spores, t, np.array([90.0, 90.0]))) == pytest.approx(6, rel=0.01)


HEATED = [(55, 0.98), (58, 0.94), (60, 0.90), (63, 0.78), (66, 0.58), (68, 0.42), (71, 0.22), (74, 0.10), (77, 0.04)]
LONG = [(54, 4, 0.86), (55, 24, 0.68), (57, 48, 0.46), (60, 2, 0.55), (60, 12, 0.37), (62, 40, 0.16), (65, 6, 0.14)]


@pytest.mark.parametrize(("celsius", "left"), HEATED)
def test_pigment_at_an_even_rate_of_heating(celsius, left):
    # Calibrated to Trout 1989, Hunt et al. 1999 (from memory): share of native pigment, heated at 1.5 K a minute.
    t = np.linspace(0, (celsius - 10) / 1.5 * 60, 400)
    assert float(pigment_left(t, 10 + t / 40, 67.0)) == pytest.approx(left, abs=0.03)


@pytest.mark.parametrize(("celsius", "hours", "left"), LONG)
def test_pigment_in_long_baths(celsius, hours, left):
    t = np.array([0.0, hours * HOUR])
    assert float(pigment_left(t, np.full(2, float(celsius)), 67.0)) == pytest.approx(left, abs=0.02)


CUT_FACES = [
    # Published end points fitted, from memory: L*a*b* and sRGB after heating at 1.5 K a minute.
    ("beef/strip-loin", 10, "#7d4d49"), ("beef/strip-loin", 55, "#905f5a"), ("beef/strip-loin", 70, "#907262"),
    ("lamb/loin", 60, "#9b7168"), ("pork/loin", 65, "#c0aa98"), ("duck/breast", 55, "#8d625e"),
    ("chicken/breast", 75, "#d8c7ac"), ("salmon/fillet", 50, "#c98f73"), ("cod/fillet", 55, "#c4c3b6"),
]  # fmt: skip


@pytest.mark.parametrize(("cut_id", "celsius", "wanted"), CUT_FACES)
def test_the_colour_of_the_cut_face(cut_id, celsius, wanted):
    tint = tint_of(cut_id)
    t = np.linspace(0, max(celsius - 10, 0.1) / 1.5 * 60, 300)
    left = pigment_left(t, 10 + t / 40, tint.t50_c)
    (found,) = hex_of(lab(tint, left, opacity(np.array(float(celsius)), tint.fish)))
    off = [abs(int(found[i : i + 2], 16) - int(wanted[i : i + 2], 16)) for i in (1, 3, 5)]
    assert max(off) <= 10, found


def test_srgb_of_known_colours():
    # CIE and IEC 61966-2-1: mid grey L* 50, and the sRGB primaries' L*a*b* (from memory).
    assert hex_of(np.array([[50.0, 0.0, 0.0]])) == ["#777777"]
    (red,) = hex_of(np.array([[53.24, 80.09, 67.20]]))
    assert red in ("#ff0000", "#fe0000", "#ff0101", "#fe0100")


def test_every_cut_has_a_colour_and_cured_meat_stays_pink():
    assert {tint_of(cut_id) for cut_id in cuts()} <= set(tints().values())
    bath = [{"kind": "bath", "water_c": 80, "minutes": 180}]
    size = {"shape": {"kind": "slab", "thickness_mm": 30}, "depth_map": True}
    gammon = evaluate(plan(bath, "ham/gammon-steak", **size)).cut_face
    pork = evaluate(plan(bath, "pork/chop", **size)).cut_face
    assert len(gammon.colour) == len(gammon.depth_m) == 41
    redness = [int(c[1:3], 16) - int(c[3:5], 16) for c in (gammon.colour[20], pork.colour[20])]
    assert redness[0] > redness[1]


def test_a_grey_band_around_a_red_middle():
    face = evaluate(plan([{"kind": "pan", "pan_c": 230, "turn_every_s": 60, "minutes": 8}], depth_map=True)).cut_face
    reds = np.array([int(c[1:3], 16) - int(c[3:5], 16) for c in face.colour])
    assert reds[20] > reds[2] + 15
    assert reds[20] > reds[-3] + 15


def test_collagen_takes_the_trades_hours():
    # Common practice for tough beef: 57 °C 60 h, 62 42, 70 24, 85 12, 95 5; right to a factor of 1.35.
    for celsius, hours in ((57, 60), (62, 42), (70, 24), (85, 12), (95, 5)):
        assert 1 / 1.35 < hours_to_tender(celsius) / hours < 1.35
    t = np.array([0.0, 25 * HOUR])
    assert float(dose(t, np.array([70.0, 70.0]))) == pytest.approx(1.0, abs=0.05)
    assert float(dose(t, np.array([50.0, 50.0]))) == 0.0
    # Pork shoulder 21 h at 68 °C, 13 h at 75 (common practice).
    assert hours_to_tender(68, factor_of("pork/shoulder")) == pytest.approx(21, rel=0.1)
    assert hours_to_tender(75, factor_of("pork/shoulder")) == pytest.approx(13, rel=0.1)
    assert [word_of(d) for d in (0.0, 0.4, 0.7, 1.1, 2.0)] == ["tough", "firm", "sliceable", "fork-tender", "shreds"]


def test_a_tough_cut_says_how_tender_and_how_sure():
    long = evaluate(plan([{"kind": "bath", "water_c": 70, "minutes": 24 * 60}], "beef/short-rib"))
    short = evaluate(plan([{"kind": "bath", "water_c": 57, "minutes": 120}], "beef/short-rib"))
    assert long.tenderness.word in ("sliceable", "fork-tender")
    assert long.tenderness.word_low != long.tenderness.word_high
    assert short.tenderness.word == "tough"
    assert evaluate(plan([{"kind": "bath", "water_c": 57, "minutes": 60}])).tenderness is None


def test_a_smoked_shoulder_is_tender_outside_before_its_middle():
    smoker = {"kind": "oven", "mode": "smoker", "air_c": 110, "until": {"core_c": 92}}
    shape = {"kind": "general", "thickness_mm": 140, "exponent": 1.3}
    found = evaluate(plan([smoker], "pork/shoulder", shape=shape, mass_g=3600, start_c=4)).tenderness
    assert 0.5 < found.dose < 2.0
    assert found.outside > found.dose


def test_fish_grows_firm_in_three_steps():
    # Published transitions, from memory: myosin 42 to 46, sarcoplasm and collagen 50 to 60, actin 72 to 76 °C.
    index = firmness(np.array([20.0, 44.0, 50.0, 60.0, 75.0, 90.0]))
    assert (np.diff(index) > 0).all()
    assert index[0] < 0.02
    assert 0.15 < index[1] < 0.3
    assert index[-1] > 0.98
    fish = evaluate(plan([{"kind": "bath", "water_c": 50, "minutes": 60}], "salmon/fillet")).firmness
    assert 0.25 < fish.core < 0.55
    assert evaluate(plan([{"kind": "bath", "water_c": 50, "minutes": 60}])).firmness is None


def test_what_burns_first():
    # Common practice: minced garlic is bitter within a minute at 155 to 160 °C; paprika burns at 170; butter solids are
    # black at 175; pepper before a sear above 220 scorches.
    def gone(celsius, seconds):
        return set(burnt(np.linspace(0, seconds, 50), np.full(50, float(celsius))))

    assert gone(130, 60) == set()
    assert "garlic" in gone(170, 120)
    assert {"paprika", "garlic", "butter"} <= gone(185, 60)
    assert "pepper" in gone(190, 120)


def test_a_rub_before_a_hot_sear_is_warned_of():
    sear = [{"kind": "pan", "pan_c": 240, "seconds_a_side": 120}]

    def codes(prep):
        document = plan(sear).model_dump(exclude_none=True) | {"prep": prep}
        return {w.code for w in evaluate(plan(sear).model_validate(document)).warnings}

    assert "rub-burns" in codes([{"kind": "rub", "before": 0}])
    assert "rub-burns" not in codes([{"kind": "season", "before": 0}])
    assert "rub-burns" not in codes([])


def test_rare_poultry_is_told_that_no_time_will_do():
    bath = [{"kind": "bath", "water_c": 54, "until": {"core_c": 53}}]
    rare = evaluate(plan(bath, "duck/breast", target={"doneness": "rosy"}))
    (said,) = [w.text for w in rare.warnings if w.code == "never-meets"]
    assert "longer at 74 °C" in said
    assert "advisory" not in said  # 3-401.11(D) names no poultry
    fsis = evaluate(plan(bath, "duck/breast", target={"doneness": "rare"}, standard="usda-fsis-appendix-a-2021"))
    assert "longer at 74 °C" in next(w.text for w in fsis.warnings if w.code == "never-meets")
    steak = evaluate(plan([{"kind": "bath", "water_c": 54, "minutes": 60}], target={"doneness": "rare"}))
    assert not any(w.code == "never-meets" for w in steak.warnings)


def test_cautions_stand_where_the_risk_is():
    stages = [
        {"kind": "brine", "salt_pct": 5, "minutes": 60}, {"kind": "pan", "pan_c": 200, "seconds_a_side": 60},
        {"kind": "oven", "air_c": 170, "in": "pan", "cover": "lid", "open_every_min": 10, "minutes": 12},
    ]  # fmt: skip
    stages[0] = {"kind": "brine", "minutes": 60}
    found = evaluate(plan(stages, "turkey/brined-breast")).cautions
    by_stage = {i: " ".join(c.text for c in found if c.stage == i) for i in (None, 1, 2)}
    assert "do not brine it again" in by_stage[None]
    assert "away from you" in by_stage[1]
    for word in ("handle", "lid", "door"):
        assert word in by_stage[2]


def test_the_catalogue_is_wide_and_says_where_it_is_from():
    rows = cuts().values()
    assert len(rows) >= 110
    species = {row.species for row in rows}
    assert {
        "beef", "veal", "pork", "ham", "lamb", "goat", "venison", "roe", "boar", "rabbit", "hare", "chicken", "turkey",
        "duck", "goose", "pheasant", "partridge", "quail", "pigeon", "guineafowl", "ostrich",
    } <= species  # fmt: skip
    assert len({row.id for row in rows if row.category == "fish"}) >= 20
    assert len({row.id for row in rows if row.category in ("shellfish", "molluscs")}) >= 10
    assert {"minced", "pressed", "brined", "tough", "fat-capped", "skin", "bone"} <= {
        t for row in rows for t in row.tissue
    }
    assert any(row.category == "offal" for row in rows)


@pytest.mark.parametrize("row", cuts().values(), ids=lambda row: row.id)
def test_every_row_is_whole(row):
    assert row.source
    assert row.under
    assert row.over
    assert row.methods
    assert row.doneness in scales()
    assert 0.97 <= sum(row.composition) / 100 <= 1.035
    assert 2 < typical_mass_g(row.form, float(row.mass_fractions.density(20.0))) < 9000
    row.name.encode("utf-8")
    assert row.name == row.name.strip()


# Every third cut: a sample of all families that a run has time for.
@pytest.mark.parametrize("row", list(cuts().values())[::3], ids=lambda row: row.id)
def test_a_cut_of_its_typical_mass_can_be_cooked(row):
    grams = typical_mass_g(row.form, float(row.mass_fractions.density(20.0)))
    oven = [{"kind": "oven", "air_c": 170, "until": {"core_c": 60}}, {"kind": "rest", "minutes": 5}]
    result = evaluate(plan(oven, row.id, shape={"kind": "from_mass"}, mass_g=max(grams, 1.5), start_c=4))
    assert 1 < result.stages[0].end_s / 60 < 600


def phases(stages, **keys):
    return {s.rule: s for s in evaluate(plan(stages, "beef/strip-loin", **keys)).safety[1:]}


COOK = {"kind": "bath", "water_c": 62, "minutes": 90}


def test_a_plan_that_chills_is_held_against_the_cooling_rule():
    ice, fridge = {"kind": "ice_bath", "minutes": 60}, {"kind": "chill", "air_c": 2, "minutes": 600}
    quick = phases([COOK, ice, fridge])["cool"]
    assert quick.met
    assert quick.needs_probe
    assert quick.margin_unit == "min"
    thick = {"shape": {"kind": "slab", "thickness_mm": 120}}
    slow = phases([{**COOK, "minutes": 600}, {**fridge, "air_c": 4, "minutes": 1200}], **thick)["cool"]
    assert not slow.met
    assert phases([{"kind": "chill", "air_c": 2, "minutes": 60}, COOK]) == {}  # raw food is not cooled, only kept


def test_a_plan_that_reheats_and_holds_is_told_of_each():
    found = phases(
        [
            COOK, {"kind": "ice_bath", "minutes": 60}, {"kind": "reheat", "in": "bath", "water_c": 60, "minutes": 60},
            {"kind": "hold", "air_c": 62, "minutes": 60},
        ]
    )  # fmt: skip
    assert set(found) == {"cool", "reheat", "hold-hot"}
    assert not found["reheat"].met  # 60 °C water never brings it to 74
    assert found["hold-hot"].met
    assert set(phases([COOK, {"kind": "hold", "air_c": 62, "minutes": 30}], standard="codex-generic")) == {"hold-hot"}
