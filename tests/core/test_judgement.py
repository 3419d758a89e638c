"""Lethality, doneness words and verdicts against the published tables."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from ember.errors import BadInput
from ember.files.judge import parse_judge
from ember.food.catalogue import cuts
from ember.judge.categories import category_of
from ember.judge.doneness import named, official_scales, scales, word_for
from ember.judge.readings import as_json, judge_readings
from ember.judge.record import TemperatureRecord, between_s, held_c
from ember.judge.standards import standard
from ember.judge.verdict import JudgedFood, against
from ember.judge.verdict import judge as judge_series
from ember.kinetics.browning import browning_index, browning_word
from ember.kinetics.lethality import log_reduction, organisms

# USDA FSIS Appendix A (2021), 6.5-log column for meat: °F, seconds (from memory; published values are rounded up).
FSIS_65 = [
    (130, 6720), (131, 5340), (132, 4260), (133, 3360), (134, 2700), (135, 2160), (136, 1680), (137, 1380), (138, 1080),
    (139, 900), (140, 720), (141, 540), (142, 480), (143, 360), (144, 300), (145, 240), (146, 169), (147, 134),
    (148, 107), (149, 85), (150, 67), (151, 54), (152, 43), (153, 34), (154, 27), (155, 22), (156, 17), (157, 14),
]  # fmt: skip
# UK FSA: 6-log of Listeria (from memory; published values are rounded up).
UK = [(60, 45 * 60), (65, 10 * 60), (70, 2 * 60), (75, 30), (80, 6)]


def celsius(f: float) -> float:
    return (f - 32) / 1.8


def held(temperature_c: float, seconds: float) -> tuple[np.ndarray, np.ndarray]:
    return np.array([0.0, seconds]), np.array([temperature_c, temperature_c])


@pytest.mark.parametrize(("f", "seconds"), FSIS_65)
def test_the_meat_column_is_one_d_and_z(f, seconds):
    t, T = held(celsius(f), seconds)
    # Minutes were rounded to whole minutes and a second is the last digit: a 15 % step at most, never short by 4 %.
    assert 6.5 * 0.96 <= float(log_reduction(organisms()["salmonella"], t, T)) <= 6.5 * 1.17


@pytest.mark.parametrize(("c", "seconds"), UK)
def test_the_uk_equivalents_are_six_logs_of_listeria(c, seconds):
    t, T = held(c, seconds)
    assert 6.0 * 0.999 <= float(log_reduction(organisms()["listeria"], t, T)) <= 6.0 * 1.17


def test_a_linear_ramp_has_its_closed_form():
    # L = z / (r ln 10) · [1/D(T2) - 1/D(T1)], textbook integral of the D-z model.
    salmonella = organisms()["salmonella"]
    rate = 0.5  # °C/min
    T1, T2 = 56.0, 64.0
    closed = salmonella.z_k / (rate * np.log(10)) * (1 / salmonella.d_minutes(T2) - 1 / salmonella.d_minutes(T1))
    t = np.array([0.0, (T2 - T1) / rate * 60])
    assert float(log_reduction(salmonella, t, np.array([T1, T2]))) == pytest.approx(closed, rel=1e-6)


def test_no_credit_below_the_tables():
    t, T = held(54.3, 86400)
    assert float(log_reduction(organisms()["salmonella"], t, T)) == 0.0


def test_only_the_part_above_the_floor_counts():
    salmonella = organisms()["salmonella"]
    floor = celsius(130)
    through = float(log_reduction(salmonella, np.array([0.0, 600.0]), np.array([floor - 10, floor + 10])))
    above = float(log_reduction(salmonella, np.array([300.0, 600.0]), np.array([floor, floor + 10])))
    assert through == pytest.approx(above, rel=1e-9)


@pytest.mark.parametrize(
    ("cut", "history", "temperature_f", "seconds", "met"),
    [
        ("pork/chop", [], 145, 16, True),
        ("pork/chop", [], 145, 13, False),
        ("pork/chop", [], 144, 3600, False),
        ("cod/fillet", [], 145, 16, True),
        ("beef/mince", [], 155, 17.5, True),
        ("beef/mince", [], 150, 55, False),
        ("beef/mince", [], 150, 61, True),
        ("beef/mince", [], 145, 181, True),
        ("pork/chop", ["tenderised"], 145, 60, False),
        ("pork/chop", ["injected"], 145, 181, True),
        ("pork/chop", [], 158, 1, True),
        ("chicken/breast", [], 165, 1, True),
        ("chicken/breast", [], 164, 3600, False),
        ("pork/loin", ["stuffed"], 160, 600, False),
        ("beef/rump-roast", [], 130, 112 * 60 + 5, True),
        ("beef/rump-roast", [], 130, 108 * 60, False),
        ("beef/rump-roast", [], 129.5, 86400, False),
        ("beef/rump-roast", [], 140, 12 * 60 + 2, True),
        ("beef/rump-roast", [], 158, 1, True),
        ("lamb/leg-boneless", [], 135, 36 * 60 + 3, True),
    ],
)
def test_food_code_rows(cut, history, temperature_f, seconds, met):
    request = parse_judge(
        {
            "format": "open-ember/judge", "version": 1, "phase": "cook",
            "piece": {"cut": cut, "history": history},
            "readings": [[0, celsius(temperature_f)], [seconds, celsius(temperature_f)]],
        }
    )  # fmt: skip
    assert as_json(judge_readings(request))["met"] is met


def test_a_roast_adds_up_over_a_real_rise():
    rule = standard("us-food-code-2022").rules["roast"]
    t = np.array([0.0, 1800.0, 3600.0])
    verdict = against(rule, TemperatureRecord(t, np.array([celsius(130), celsius(140), celsius(140)])))
    # 30 min at 140 °F is 2.5 tables; the rise before it adds z/ln10-like 12 min more: about 0.5.
    assert verdict.met
    assert verdict.reached["log10"] == pytest.approx(6.5 * (2.5 + 1800 / (720 * np.log(10)) * 0.9), rel=0.06)
    assert verdict.margin == pytest.approx(verdict.reached["log10"] - 6.5, abs=0.01)


def test_wild_game_is_judged_as_game():
    row = cuts()["venison/loin"]
    assert category_of(row, [], "farmed") == "meat"
    assert category_of(row, [], "wild") == "game-wild"


def test_a_steak_may_pass_on_its_outside_but_not_for_susceptible_guests():
    rules = standard("us-food-code-2022")
    t = np.array([0.0, 60.0, 300.0])
    middle, face = np.array([50.0, 52.0, 54.0]), np.array([50.0, 110.0, 60.0])
    general = judge_series(rules, JudgedFood("beef-steak"), TemperatureRecord(t, middle), face)
    assert general.met
    assert general.rule.id == "steak-surface"
    assert "rim" in " ".join(general.cautions)
    susceptible = judge_series(rules, JudgedFood("beef-steak", susceptible=True), TemperatureRecord(t, middle), face)
    assert not susceptible.met
    assert not susceptible.advisory_allowed
    assert susceptible.words == "Not met: core peaked at 54 °C, 8.8 °C short (needs 62.8 °C for 15 s)"


def test_a_verdict_on_readings_never_passes_a_steak_by_its_unmeasured_outside():
    request = parse_judge(
        {
            "format": "open-ember/judge",
            "version": 1,
            "piece": {"cut": "beef/strip-loin"},
            "readings": [[0, 40], [600, 54]],
        }
    )  # fmt: skip
    assert as_json(judge_readings(request))["met"] is False


def test_gaps_count_as_their_worst_case():
    t, T = np.array([0.0, 60.0, 4000.0, 4060.0]), np.array([63.0, 63.0, 64.0, 64.0])
    record = TemperatureRecord(t, T, 300.0)
    assert len(record.gaps) == 1
    assert record.longest_gap_s == 3940.0
    assert np.interp(2000, *record.colder) == 63.0
    assert np.interp(2000, *record.warmer) == 64.0
    assert len(TemperatureRecord(t, T).gaps) == 0


def test_time_between_two_temperatures():
    assert between_s((np.array([0.0, 3600.0]), np.array([0.0, 60.0])), 10.0, 40.0) == pytest.approx(1800.0)


def test_held_finds_the_unbroken_stretch():
    curve = np.array([0.0, 10, 20, 30, 40, 50]), np.array([60.0, 64, 62, 64, 64, 60])
    assert held_c(curve, 10) == pytest.approx(64.0, abs=0.01)
    assert held_c(curve, 0) == 64.0
    assert held_c(curve, 500) == float("-inf")


@pytest.mark.parametrize(
    ("body", "at"),
    [
        ({"readings": [[0, 50], [0, 51]]}, ""),
        ({"readings": [[10, 50], [0, 51]]}, ""),
        ({"readings": []}, ""),
        ({"readings": [[0, 5000], [10, 50]]}, "readings[0][1]"),
        ({"phase": "boil"}, "phase"),
        ({"extra": 1}, "extra"),
    ],
)
def test_bad_logs_name_their_place(body, at):
    base = {
        "format": "open-ember/judge", "version": 1, "piece": {"cut": "pork/chop"}, "readings": [[0, 50], [10, 51]],
    }  # fmt: skip
    with pytest.raises(BadInput) as caught:
        parse_judge(base | body)
    assert caught.value.at == at


def test_words_follow_the_peak():
    assert word_for(scales()["red-meat"], 54.6).word == "medium-rare"
    assert word_for(scales()["red-meat"], 10.0).word == "raw"
    assert word_for(scales()["red-meat"], 90.0).word == "well done"
    assert named(scales()["red-meat"], "Medium-Rare").aim_c == pytest.approx(54.5)
    with pytest.raises(BadInput, match="medium-rare"):
        named(scales()["red-meat"], "crunchy")


def test_scales_rise_without_gaps():
    for words in scales().values():
        for lower, upper in pairwise(words):
            assert lower.high_c == upper.low_c > lower.low_c


def test_browning_doubles_every_ten_degrees():
    t = np.array([0.0, 240.0])
    assert float(browning_index(t, np.array([150.0, 150.0]))) == pytest.approx(1.0)
    assert float(browning_index(t, np.array([160.0, 160.0]))) == pytest.approx(2.0)
    assert [browning_word(b) for b in (0.0, 0.3, 1.0, 9.0)] == ["none", "pale", "golden", "charred"]


def test_guides_say_the_same_words_hotter():
    for name, words in official_scales().items():
        ours = {word.word: word.low_c for word in scales()[name]}
        for word in words[1:]:
            if word.word in ours:
                assert word.low_c >= ours[word.word] + 4
