"""Every standard as data: its tables row by row, its phases, and that every cut comes to a verdict in each of them."""

from __future__ import annotations

import math
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path

import numpy as np
import pytest

from ember.errors import BadInput
from ember.files.judge import parse_judge
from ember.food.catalogue import cuts
from ember.judge.categories import CATEGORIES, category_of
from ember.judge.phases import PHASES, judge_phase
from ember.judge.readings import as_json, judge_readings
from ember.judge.record import TemperatureRecord
from ember.judge.standards import standard, standards
from ember.judge.verdict import against
from ember.kinetics.lethality import organisms

ALL = sorted(standards())
ROOT = Path(__file__).resolve().parents[2]
HOUR = 3600.0


def flat(celsius, seconds):
    """A piece that is at once at a temperature, stays, and is at once cold again."""
    t = np.array([0.0, 0.001, 0.001 + max(seconds, 0.001), 0.002 + max(seconds, 0.001)])
    return TemperatureRecord(t, np.array([5.0, celsius, celsius, 5.0]))


TABLES = [
    (name, rule.id, c, s) for name in ALL for rule in standard(name).rules.values() if rule.kind == "table"
    for c, s in rule.points_c
]  # fmt: skip


@pytest.mark.parametrize(("name", "rule", "celsius", "seconds"), TABLES)
def test_a_tables_row_is_met_by_its_own_time_and_missed_by_less(name, rule, celsius, seconds):
    row = standard(name).rules[rule]
    assert against(row, flat(celsius, seconds)).met
    if seconds > 0:
        assert not against(row, flat(celsius, 0.97 * seconds)).met
    assert not against(row, flat(row.points_c[0][0] - 0.3, 100 * HOUR)).met  # never below its first row


def test_the_meat_table_follows_from_one_d_and_z():
    # USDA FSIS Appendix A, 6.5-log column: 112 min at 130 °F, tenfold for 10 °F, rounded up to what is printed (a few
    # to the nearest). From memory.
    rows = standard("usda-fsis-appendix-a-2021").rules["meat"].points
    for fahrenheit, seconds in rows[:-1]:
        exact = 112 * 60 * 10 ** (-(fahrenheit - 130) / 10)
        step = 60 if seconds >= 240 else 1
        assert seconds in (step * math.ceil(exact / step - 1e-9), step * round(exact / step))
    salmonella = organisms()["salmonella"]
    assert 6.5 * salmonella.d_minutes((130 - 32) / 1.8) == pytest.approx(112, rel=0.002)
    assert 6.5 * salmonella.d_minutes(60.0) == pytest.approx(11.2, rel=0.002)


def test_the_food_codes_roasts_are_rows_of_the_same_table():
    printed = dict(standard("usda-fsis-appendix-a-2021").rules["meat"].points)
    for fahrenheit, seconds in standard("us-food-code-2022").rules["roast"].points:
        assert printed[fahrenheit] == seconds


def test_the_uk_equivalents_are_two_minutes_at_seventy_by_one_z():
    # ACMSF 2007, from memory: z = 7.5 °C gives 43.1 min, 9.3 min, 2 min, 25.9 s and 5.6 s; printed rounded up.
    for celsius, seconds in standard("uk-fsa").rules["thorough"].points:
        exact = 120 * 10 ** ((70 - celsius) / 7.5)
        assert 0.99 < seconds / exact < 1.17
    assert 6 * organisms()["listeria"].d_minutes(70.0) == pytest.approx(2.0, rel=0.01)


def test_poultry_goes_by_bird_and_fat():
    rules = standard("usda-fsis-appendix-a-2021")

    def first(species, fat):
        return [rule.id for rule in rules.rules_for("poultry", False, species, fat)]

    assert first("turkey", 0.8) == ["turkey-1", "poultry"]
    assert first("turkey", 5) == ["turkey-12", "poultry"]
    assert first("chicken", 1.0) == ["chicken-1", "poultry"]
    assert first("chicken", 2.6) == ["chicken-5", "poultry"]
    # Neither another bird nor a fatter one than the tables go to is judged by them.
    assert first("duck", 10) == ["poultry"]
    assert first("chicken", 15) == ["poultry"]
    assert first("turkey", 12.5) == ["poultry"]
    # 60 °C: 25.2, 27.5 and 35 min by fat; 28.1 and 33.7 for turkey (from memory).
    held = flat(60.0, 26 * 60)
    assert against(rules.rules["chicken-1"], held).met
    assert not against(rules.rules["chicken-5"], held).met


@pytest.mark.parametrize("name", ALL)
@pytest.mark.parametrize("cut_id", sorted(cuts()))
def test_every_cut_reaches_a_verdict_in_every_standard(name, cut_id):
    row, rules = cuts()[cut_id], standard(name)
    t = np.array([0.0, 600.0, 3600.0])
    for history in ([], ["injected"], ["minced"], ["stuffed"]):
        for origin in ("farmed", "wild"):
            category = category_of(row, history, origin)
            assert category in CATEGORIES
            for fat in (0.5, 30.0):
                found = rules.rules_for(category, True, row.species, fat)
                assert found, (category, fat)
                for rule in found:
                    assert rule.section
                    hot, cold = (TemperatureRecord(t, np.array(T)) for T in ([5.0, 85.0, 99.0], [5.0, 30.0, 40.0]))
                    assert against(rule, hot, np.array([5.0, 99.0, 99.0])).met
                    assert not against(rule, cold, np.array([5.0, 40.0, 40.0])).met


@pytest.mark.parametrize("name", ALL)
def test_every_standard_says_where_it_is_from(name):
    rules = standard(name)
    assert rules.source
    assert rules.cautions["always"]
    for rule in (*rules.rules.values(), *rules.phases.values()):
        assert rule.text
        assert rule.section
        assert "safe" not in rule.text.lower().replace("safe food", "")


def test_what_was_done_to_a_piece_changes_its_category():
    row = cuts()["beef/strip-loin"]
    assert category_of(row, [], "farmed") == "beef-steak"
    assert category_of(row, ["brined"], "farmed") == "beef-steak"
    assert category_of(row, ["injected"], "farmed") == "non-intact"
    assert category_of(row, ["minced"], "farmed") == "minced"
    assert category_of(row, ["stuffed"], "farmed") == "stuffed"
    assert category_of(cuts()["beef/rump-roast"], ["pierced"], "farmed") == "non-intact-roast"
    assert category_of(cuts()["venison/loin"], [], "wild") == "game-wild"
    assert category_of(cuts()["chicken/breast"], ["injected"], "farmed") == "poultry"


def judged(phase, points, name="us-food-code-2022", kept="open"):
    """The answer to a record [(hours, °C), ...]."""
    document = {
        "format": "open-ember/judge", "version": 1, "phase": phase, "piece": {"cut": "beef/rump-roast"},
        "standard": name, "readings": [[3600 * h, c] for h, c in points], "kept": kept,
    }  # fmt: skip
    return as_json(judge_readings(parse_judge(document)))


COOLED = [
    # US Food Code 3-501.14: 57 to 21 °C in 2 h, to 5 °C in 6 h in all.
    ("us-food-code-2022", [(0, 65), (1, 57), (2.9, 21.1), (6.9, 5)], True),
    ("us-food-code-2022", [(0, 57.2), (2.2, 21.1), (5, 5)], False),
    ("us-food-code-2022", [(0, 57.2), (1, 21.1), (6.5, 5)], False),
    ("us-food-code-2022", [(0, 57.2), (1, 21.1), (3, 9)], False),
    # FSIS Appendix B, option 1: 54.4 to 26.7 °C in 1.5 h, to 4.4 °C in 5 h more.
    ("usda-fsis-appendix-a-2021", [(0, 60), (0.2, 54.4), (1.6, 26.7), (6.5, 4.4)], True),
    ("usda-fsis-appendix-a-2021", [(0, 54.4), (1.7, 26.7), (5, 4.4)], False),
    ("uk-fsa", [(0, 70), (0.3, 63), (1.5, 8), (2, 4)], True),
    # "Within 90 min of cooking": it counts from the end of the cooking, not from 63 °C.
    ("uk-fsa", [(0, 70), (0.3, 63), (1.7, 8), (2, 4)], False),
    ("uk-fsa", [(0, 63), (2, 8)], False),
    ("codex-generic", [(0, 60), (1.9, 10), (4, 4)], True),
    ("codex-generic", [(0, 60), (2.2, 10)], False),
    ("codex-generic", [(0, 60), (1.9, 9.9), (30, 9.9)], False),
    ("anz", [(0, 60), (2, 21), (6, 5)], True),
    ("anz", [(0, 60), (1, 21), (5.5, 5)], False),
]


@pytest.mark.parametrize(("name", "points", "met"), COOLED)
def test_cooling(name, points, met):
    answer = judged("cool", points, name)
    assert answer["met"] is met, answer
    assert "margin_min" in answer
    assert (answer["margin_min"] >= 0) is met


HELD = [
    ("reheat", "us-food-code-2022", [(0, 4), (1.5, 74), (1.6, 75)], True),
    ("reheat", "us-food-code-2022", [(0, 4), (2.5, 74), (2.6, 75)], False),
    ("reheat", "us-food-code-2022", [(0, 4), (1, 70)], False),
    ("reheat", "uk-fsa", [(0, 4), (1, 70.5), (1.1, 70.5)], True),
    ("reheat", "uk-fsa", [(0, 4), (1, 70.5), (1.01, 60)], False),
    ("reheat", "codex-generic", [(0, 4), (0.8, 75.5)], True),
    ("reheat", "codex-generic", [(0, 4), (1.6, 75.5)], False),
    ("reheat", "anz", [(0, 4), (1, 61)], True),
    ("hold-hot", "us-food-code-2022", [(0, 62), (3, 57.3)], True),
    # A whole roast: 130 °F (54 °C).
    ("hold-hot", "us-food-code-2022", [(0, 62), (3, 54.4)], True),
    ("hold-hot", "us-food-code-2022", [(0, 62), (3, 53.9)], False),
    ("hold-hot", "uk-fsa", [(0, 66), (1, 58), (2, 66)], True),
    ("hold-hot", "uk-fsa", [(0, 64), (1, 50), (4, 50)], False),
    ("hold-hot", "uk-fsa", [(0, 64), (0.3, 60), (0.6, 64), (0.9, 60), (1.2, 64)], False),
    ("hold-cold", "us-food-code-2022", [(0, 3), (10, 5)], True),
    ("hold-cold", "us-food-code-2022", [(0, 3), (10, 5.4)], False),
    ("hold-cold", "uk-fsa", [(0, 5), (1, 12), (3, 12), (4, 6)], True),
    ("hold-cold", "uk-fsa", [(0, 5), (1, 12), (7, 12)], False),
    ("time-control", "us-food-code-2022", [(0, 4), (3.9, 24)], True),
    ("time-control", "us-food-code-2022", [(0, 4), (4.1, 24)], False),
    ("time-control", "us-food-code-2022", [(0, 4), (5.9, 20)], True),
    ("time-control", "us-food-code-2022", [(0, 58), (3.9, 30)], True),
    ("time-control", "us-food-code-2022", [(0, 12), (1, 15)], False),
    ("time-control", "anz", [(0, 4), (0.5, 15), (3.0, 15), (4.0, 4)], True),
    ("time-control", "anz", [(0, 20), (4.5, 20)], False),
    ("freeze", "us-food-code-2022", [(0, 2), (10, -20.5), (180, -20.5)], True),
    ("freeze", "us-food-code-2022", [(0, 2), (10, -20.5), (100, -20.5)], False),
    ("freeze", "us-food-code-2022", [(0, 2), (3, -36), (19, -36)], True),
    ("freeze", "us-food-code-2022", [(0, 2), (3, -36), (4, -21), (28.1, -21)], True),
    ("freeze", "us-food-code-2022", [(0, 2), (3, -30), (4, -21), (28.1, -21)], False),
    ("thaw", "us-food-code-2022", [(0, -18), (20, 4)], True),
    ("thaw", "us-food-code-2022", [(0, -18), (1, 5), (5.1, 15)], False),
    ("freeze", "uk-fsa", [(0, 2), (5, -21), (30, -21)], True),
    ("store", "us-food-code-2022", [(0, 3), (160, 4)], True),
    ("store", "us-food-code-2022", [(0, 3), (170, 4)], False),
    ("store", "us-food-code-2022", [(0, 3), (100, 6)], False),
    ("store", "uk-fsa", [(0, 2), (60, 3)], True),
]


@pytest.mark.parametrize(("phase", "name", "points", "met"), HELD)
def test_the_other_phases(phase, name, points, met):
    answer = judged(phase, points, name)
    assert answer["met"] is met, answer
    assert answer["rule"]["section"]


def test_how_it_is_packed_decides_how_long_it_keeps():
    # US Food Code 3-502.12(D), from memory: cook-chill 7 days at 5 °C, 30 at 1 °C.
    warm, cold = [(0, 2), (20 * 24, 4.5)], [(0, 0), (20 * 24, 1)]
    assert not judged("store", warm, kept="cook-chill")["met"]
    assert judged("store", cold, kept="cook-chill")["met"]
    with pytest.raises(BadInput, match="reduced oxygen"):
        judged("store", cold, "codex-generic", kept="reduced-oxygen")


def test_a_phase_without_a_rule_says_so():
    with pytest.raises(BadInput, match="no rule here for time control"):
        judged("time-control", [(0, 4), (1, 20)], "codex-generic")
    assert set(PHASES) >= set(standard("us-food-code-2022").phases)
    verdict = judge_phase(standard("anz"), "cool", TemperatureRecord(np.array([0.0, 60.0]), np.array([70.0, 69.0])))
    assert not verdict.met
    assert "never falls" in verdict.words


def test_a_come_up_over_its_time_is_a_failed_condition():
    # FSIS Appendix A: 6 h between 50 and 130 °F.
    slow = judged("cook", [(0, 5), (8, 55), (14, 60)], "usda-fsis-appendix-a-2021")
    quick = judged("cook", [(0, 5), (3, 55), (9, 60)], "usda-fsis-appendix-a-2021")
    assert slow["state"] == "not-met"
    assert slow["rule"]["id"] == "come-up"
    assert slow["words"].startswith("Not met: come-up took 7 h")
    assert slow["margin_min"] == pytest.approx(360 - 8 * 60 * 44.4 / 50, abs=1)
    assert quick["met"]


def test_a_log_of_the_middle_does_not_show_that_a_rare_steak_was_seared():
    # UK and ANZ: whole intact beef may be rare if its outside is seared.
    for name in ("uk-fsa", "anz"):
        assert not judged("cook", [(0, 5), (0.5, 52), (0.6, 52)], name)["met"]


def test_a_house_may_ask_for_more_and_never_for_less():
    def verdict(limit_c, hottest_c):
        document = {
            "format": "open-ember/judge", "version": 1, "piece": {"cut": "chicken/breast"},
            "house": {"core_c": {"poultry": limit_c}}, "readings": [[0, 5], [1800, hottest_c], [2000, hottest_c]],
        }  # fmt: skip
        return as_json(judge_readings(parse_judge(document)))

    assert verdict(78, 79)["met"]
    strict = verdict(78, 75)
    assert not strict["met"]
    assert strict["rule"]["section"] == "House rule"
    assert strict["margin_c"] == pytest.approx(-3, abs=0.01)
    lax = verdict(60, 70)
    assert not lax["met"]
    assert lax["rule"]["section"] != "House rule"


def test_a_house_holds_colder_and_hotter():
    def verdict(phase, house, celsius):
        document = {
            "format": "open-ember/judge", "version": 1, "phase": phase, "piece": {"cut": "chicken/breast"},
            "house": house, "readings": [[0, celsius], [3600, celsius]],
        }  # fmt: skip
        return as_json(judge_readings(parse_judge(document)))

    assert verdict("hold-cold", {}, 4)["met"]
    assert not verdict("hold-cold", {"hold_cold_c": 3}, 4)["met"]
    assert verdict("hold-cold", {"hold_cold_c": 9}, 4)["met"]
    assert not verdict("hold-cold", {"hold_cold_c": 9}, 7)["met"]
    assert not verdict("hold-hot", {"hold_hot_c": 65}, 60)["met"]
    assert verdict("hold-hot", {"hold_hot_c": 50}, 58)["met"]


def test_the_page_of_standards_lists_every_row():
    spec = spec_from_file_location("standards_tool", ROOT / "tools" / "standards.py")
    tool = module_from_spec(spec)
    spec.loader.exec_module(tool)
    text = tool.PAGE.read_text("utf-8")
    assert tool.page(text) == text, "run: python tools/standards.py"
    for rules in standards().values():
        for key in (*rules.rules, *rules.phases):
            assert f"| `{key}` " in text
