"""Chill, keep, bring back: the exact series, the standards' own rows, clocks, stacks, ice, carryover, refusals."""

from __future__ import annotations

import json
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ember.chill.answer import answer_chill
from ember.chill.cold import medium_of, sized, words
from ember.chill.keep import Stored, keep_of
from ember.cli import HANDLERS, schemas
from ember.errors import BadInput
from ember.files.chill import BarriersIn, parse_chill
from ember.judge.cooling import cooling_steps
from ember.judge.record import TemperatureRecord
from ember.judge.standards import standard, standards
from ember.judge.storage import heat_needed_min

from .series import cylinder, slab

US = "us-food-code-2022"
BELLY = {"cut": "pork/belly", "shape": {"kind": "slab", "thickness_mm": 45}, "start_c": 68, "mass_g": 900}
ICE_THEN_FRIDGE = [{"way": "ice-bath", "to_c": 5}, {"way": "fridge"}]


def request(**keys):
    """A request about a belly in an ice bath, but for what is said."""
    said = {"format": "open-ember/chill", "version": 1, "piece": BELLY, "cold": ICE_THEN_FRIDGE, **keys}
    return parse_chill(said)


def asked(**keys):
    """That request, answered."""
    return answer_chill(request(**keys))


# The cold itself ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("shape", "series", "half_mm"),
    [
        ({"kind": "slab", "thickness_mm": 60}, slab, 30),
        ({"kind": "cylinder", "diameter_mm": 60}, cylinder, 30),
    ],
)
def test_a_pouch_in_ice_water_follows_the_exact_series(shape, series, half_mm):
    """One stuff of constant properties, bagged, in moved ice water (film 200 W/m²K at 0.5 °C): to 0.4 K."""
    k, rho, cp, h = 0.48, 1060.0, 3500.0, 200.0
    piece = {**BELLY, "shape": shape, "properties": {"k_w_mk": k, "rho_kg_m3": rho, "cp_j_kgk": cp}}
    found = asked(piece=piece, cold=[{"way": "ice-bath"}])
    L = half_mm / 1000.0
    t = np.array(found.t_s)
    late = t > 300.0
    theta = series(h * L / k, k / (rho * cp) * t[late] / L**2, 0.0)
    exact = 0.5 + (68.0 - 0.5) * theta
    assert np.array(found.curve_c)[late] == pytest.approx(exact, abs=0.4)
    crossing = np.interp(-21.11, -np.array(found.curve_c), t / 60.0)
    first = next(way for way in found.ways if way.way == "ice-bath")
    assert first.minutes[0] == pytest.approx(crossing, rel=0.02)


# Handbook-like figures for lean meat 65 → 10 °C: within 20 % but for still air, where bag and evaporation decide.
@pytest.mark.parametrize(
    ("mm", "way", "low", "high"),
    [
        (30, "ice-bath", 27, 38), (60, "ice-bath", 92, 130), (30, "blast", 55, 78), (60, "blast", 150, 210),
        (100, "blast", 340, 470), (60, "walk-in", 215, 300), (60, "fridge", 290, 460),
    ],
)  # fmt: skip
def test_minutes_to_ten_degrees(mm, way, low, high):
    """Common practice: 3 cm half an hour in ice, an hour in a blast chiller, hours on a shelf."""
    piece = {"cut": "beef/strip-loin", "shape": {"kind": "general", "thickness_mm": mm, "exponent": 0}, "start_c": 65}
    found = asked(piece=piece, cold=[{"way": way}])
    minutes = np.interp(-10.0, -np.array(found.curve_c), np.array(found.t_s) / 60.0)
    assert low <= minutes <= high


def test_ways_are_in_order_of_their_cold():
    """Moved ice water beats blown air beats moving air beats still air, stage by stage."""
    found = asked()
    assert [way.way for way in found.ways] == ["ice-bath", "blast", "walk-in", "fridge"]
    for quick, slow in pairwise(found.ways):
        assert all(a < b for a, b in zip(quick.minutes, slow.minutes, strict=True))


def test_the_shelf_misses_what_the_ice_bath_keeps():
    """A 60 mm piece on a fridge shelf misses the first stage; in ice water it is met with time to spare."""
    piece = {**BELLY, "shape": {"kind": "slab", "thickness_mm": 60}, "mass_g": 2600}
    ice, shelf = asked(piece=piece), asked(piece=piece, cold=[{"way": "fridge"}])
    assert ice.rule.met
    assert not ice.put_right
    assert not shelf.rule.met
    assert shelf.rule.margin < 0
    assert not shelf.stages[0].met
    assert len(shelf.put_right) == 3


def test_a_stack_is_one_thick_piece():
    """Four pouches of 20 mm lying on one another are as slow as 80 mm, and it says so."""
    thin = {**BELLY, "shape": {"kind": "slab", "thickness_mm": 20}}
    thick = {**BELLY, "shape": {"kind": "slab", "thickness_mm": 80}, "mass_g": 4 * BELLY["mass_g"]}
    cold = [{"way": "walk-in"}]
    stack, one, apart = (
        asked(piece=thin, layers=4, cold=cold),
        asked(piece=thick, cold=cold),
        asked(piece=thin, cold=cold),
    )
    assert stack.curve_c == one.curve_c
    assert stack.minutes_to_end > 3 * apart.minutes_to_end
    assert any("80 mm" in said for said in stack.warnings)


# The clock ------------------------------------------------------------------------------------------------------------


def test_the_clock_runs_from_out_of_the_heat():
    """Under the rule's upper temperature at once: half an hour on the pass is half an hour of its two hours."""
    cold_start = {**BELLY, "start_c": 56}
    now, later = asked(piece=cold_start), asked(piece=cold_start, wait_min=30)
    assert later.stages[0].minutes > now.stages[0].minutes + 20
    assert any("30 min of the cooling time" in said for said in later.warnings)


def test_the_latest_wait_just_keeps_the_rule():
    """Two minutes less than the latest wait keeps the rule, two more misses it."""
    latest = asked().latest_wait_min
    assert latest is not None
    assert 30 < latest < 300
    assert asked(wait_min=latest - 2).rule.met
    assert not asked(wait_min=latest + 2).rule.met


def test_the_thickest_just_keeps_the_rule():
    """A millimetre under keeps it, two over miss it."""
    req = request(cold=[{"way": "walk-in"}])
    thickest = answer_chill(req).thickest_mm
    assert thickest is not None

    def met(mm):
        return answer_chill(req.model_copy(update={"piece": sized(req, mm)})).rule.met

    assert met(thickest - 1)
    assert not met(thickest + 2)


def test_nothing_is_thin_enough_for_a_fridge_that_is_too_warm():
    """At 10 °C of air 5 °C is never reached: no thickness, no wait, no minutes."""
    found = asked(cold=[{"way": "fridge", "air_c": 10}])
    assert found.thickest_mm is None
    assert found.latest_wait_min is None
    assert found.minutes_to_end is None
    assert not found.rule.met
    assert any("cannot get below 10" in said for said in found.warnings)


@pytest.mark.parametrize(
    ("name", "stages"),
    [
        ("us-food-code-2022", [(57.0, 21.1, 120), (57.0, 5.0, 360)]),
        ("usda-fsis-appendix-a-2021", [(54.4, 26.7, 90), (26.7, 4.4, 300)]),
        ("anz", [(60, 21, 120), (21, 5, 240)]),
        ("codex-generic", [(60, 10, 120), (10, 4, None)]),
        ("uk-fsa", [(63, 8, 90)]),
    ],
)
def test_each_standard_has_its_own_stages(name, stages):
    """3-501.14(A); FSIS Appendix B option 1; FSANZ 3.2.2 cl. 7; CXC 39; SFBB's 90 min: from memory."""
    found = [(s.from_c, s.to_c, s.allowed_min) for s in asked(standard=name).stages]
    assert found == stages


def test_the_steps_of_a_record_by_hand():
    """57.2 at 0, 21.1 after 100 min, 5 after 300: both stages and their margins."""
    rule = standard(US).phases["cool"]
    t = 60.0 * np.array([0, 100, 300.0])
    first, whole = cooling_steps(rule, TemperatureRecord(t, np.array([57.0, 21.1111, 5.0])))
    assert (first.minutes, whole.minutes) == (pytest.approx(100, abs=0.1), pytest.approx(300, abs=0.1))
    assert first.margin_min == pytest.approx(20, abs=0.1)
    assert whole.margin_min == pytest.approx(60, abs=0.1)


# Ice ------------------------------------------------------------------------------------------------------------------


def test_ice_by_hand():
    """4 × 900 g from 68 to 3 °C at 3 kJ/kgK, of which half a belly's fat leaves it, over 334 kJ/kg; none without an
    ice bath.
    """
    piece = {**BELLY, "count": 4}
    found = asked(piece=piece)
    fat_and_lean = 3.0  # kJ/kgK
    assert found.ice_kg == pytest.approx(3.6 * fat_and_lean * 65 / 334, rel=0.15)
    assert asked(cold=[{"way": "blast"}]).ice_kg is None


# Keeping --------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "packed", "kept_c", "days"),
    [
        (US, "open", 5, 7), (US, "cook-chill", 5, 7), (US, "cook-chill", 1, 30), (US, "reduced-oxygen", 5, None),
        (US, "open", 6, None), ("uk-fsa", "cook-chill", 3, 5), ("uk-fsa", "cook-chill", 4, None),
        ("uk-fsa", "reduced-oxygen", 8, 10), ("uk-fsa", "open", 8, 3), ("codex-generic", "cook-chill", 4, 5),
        ("codex-generic", "reduced-oxygen", 4, None),
    ],
)  # fmt: skip
def test_days_row_by_row(name, packed, kept_c, days):
    """3-501.17, 3-502.12; DH 1989; FSA VP/MAP; CXC 39: from memory, row by row."""
    assert keep_of(standard(name), Stored(packed, kept_c)).days == days


def test_no_days_are_made_up():
    """Where a standard is silent or the place too warm it says so, and gives none."""
    for rules in standards().values():
        for packed in ("open", "cook-chill", "reduced-oxygen"):
            shelf_life = keep_of(rules, Stored(packed, 9.5))
            assert shelf_life.days is None
            assert shelf_life.text


def test_a_colder_place_says_what_a_warmer_one_costs():
    """At 1 °C thirty days, and seven once it was above."""
    assert keep_of(standard(US), Stored("cook-chill", 1)).warmer == "Once above 1 °C: 7 days."


@pytest.mark.parametrize(
    ("name", "told", "days", "met"),
    [
        (US, {}, None, False), (US, {"ph": 4.6}, 30, True), (US, {"ph": 4.7}, None, False),
        (US, {"aw": 0.91}, 30, True),
        (US, {"cured": True}, 30, True), (US, {"salt_water_pct": 6}, None, False),
        (US, {"heat_c": 90, "heat_min": 20}, None, False), ("uk-fsa", {}, 10, False), ("uk-fsa", {"ph": 5}, 10, True),
        ("uk-fsa", {"aw": 0.975}, 10, False), ("uk-fsa", {"salt_water_pct": 3.5}, 10, True),
        ("uk-fsa", {"heat_c": 90, "heat_min": 10}, 10, True), ("uk-fsa", {"heat_c": 85, "heat_min": 35}, 10, False),
        ("uk-fsa", {"heat_c": 85, "heat_min": 36}, 10, True), ("uk-fsa", {"heat_c": 80, "heat_min": 129.2}, 10, True),
    ],
)  # fmt: skip
def test_a_barrier_beside_the_cold(name, told, days, met):
    """US 3-502.12(B)(2) wants one; in the UK one lifts the ten days (FSA VP/MAP 2020; ACMSF 1992): from memory."""
    found = keep_of(standard(name), Stored("reduced-oxygen", 4, barriers=BarriersIn(**told)))
    assert (found.days, found.barrier.met) == (days, met)


@pytest.mark.parametrize(("at_c", "minutes"), [(80, 129), (82, 77), (85, 36), (88, 17), (90, 10), (93, 5), (96, 2)])
def test_heat_worth_ten_minutes_at_ninety(at_c, minutes):
    """ACMSF 1992, report on vacuum packaging, table of equivalents; from memory."""
    rule = standard("uk-fsa").phases["store"].barriers
    assert heat_needed_min(rule, at_c) == pytest.approx(minutes, abs=0.5)


def test_thirty_days_want_a_recorder_and_seven_do_not():
    assert "recorder" in keep_of(standard(US), Stored("cook-chill", 1)).wants
    assert keep_of(standard(US), Stored("cook-chill", 5)).wants == ""


# Bringing back --------------------------------------------------------------------------------------------------------


def test_back_in_water_cooler_than_the_first_cook_cannot_pass_it():
    """At 64 °C a piece cooked at 68 stays under it whatever the clock does: there is no latest time."""
    back = asked(back={"in": "bath", "medium_c": 64}).back
    assert not back.passes_first
    assert back.latest_min is None
    assert back.peak_c < 64


def test_back_in_a_hot_oven_is_pulled_before_the_carryover():
    """In a 180 °C oven it leaves well under the first core, peaks as asked, and passing has its minute."""
    piece = {**BELLY, "start_c": 58}
    back = asked(piece=piece, bagged=False, back={"in": "oven", "medium_c": 180, "to_c": 55}).back
    assert back.peak_c == pytest.approx(55, abs=0.3)
    assert not back.passes_first
    assert back.pull_reading_c < 55
    assert back.latest_min > back.minutes


def test_asked_for_more_than_the_first_cook_it_says_so():
    """To 74 °C for hot holding what was cooked to 58: over the first, by how much, with the rule's verdict."""
    piece = {**BELLY, "start_c": 58}
    back = asked(piece=piece, back={"in": "sauce", "medium_c": 90, "to_c": 75, "then": "held"}).back
    assert back.passes_first
    assert "Passes the first 58" in back.words
    assert back.rule is not None
    assert back.rule.met


def test_for_hot_holding_too_cool_is_not_met():
    """A bath of 60 °C cannot fulfil 74 °C for 15 s: not met, by how much."""
    back = asked(back={"in": "bath", "medium_c": 60, "then": "held"}).back
    assert not back.rule.met
    assert back.rule.margin == pytest.approx(60 - 2 - 73.9, abs=1.0)


# Refusals -------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("keys", "at"),
    [
        ({"cold": []}, "cold"),
        ({"cold": [{"way": "ice-bath", "to_c": 0.2}, {"way": "fridge"}]}, "cold[0].to_c"),
        ({"cold": [{"way": "fridge", "to_c": 3}, {"way": "fridge"}]}, "cold[0].to_c"),
        ({"cold": [{"way": "fridge"}, {"way": "fridge"}]}, ""),
        ({"cold": [{"way": "ice-bath", "air_c": 2}]}, "cold[0]"),
        ({"piece": {**BELLY, "start_c": 8}}, ""),
        ({"piece": {**BELLY, "cut": "pork/bely"}}, "piece.cut"),
        ({"standard": "none"}, "standard"),
        ({"kept_c": 30}, "kept_c"),
        ({"back": {"in": "bath", "medium_c": 50, "to_c": 55}}, "back.to_c"),
        ({"back": {"in": "steam", "medium_c": 90}}, "back.medium_c"),
        ({"back": {"in": "bath", "medium_c": 180}}, "back.medium_c"),
        ({"wait_min": -1}, "wait_min"),
        ({"layers": 0}, "layers"),
    ],
)
def test_refused_with_its_place(keys, at):
    """Each wrong input names where it is."""
    with pytest.raises(BadInput) as refused:
        asked(**keys)
    assert refused.value.at == at


@settings(max_examples=25, deadline=None)
@given(
    mm=st.floats(5, 120), start=st.floats(30, 95), wait=st.floats(0, 300), layers=st.integers(1, 6),
    way=st.sampled_from(["ice-bath", "blast", "walk-in", "fridge"]), name=st.sampled_from(sorted(standards())),
    bagged=st.booleans(),
)  # fmt: skip
def test_any_chill_gets_an_answer(mm, start, wait, layers, way, name, bagged):
    """Never warmer than the start (or the room), never colder than its medium, always falling from where it peaked."""
    piece = {**BELLY, "shape": {"kind": "slab", "thickness_mm": mm}, "start_c": start}
    req = request(piece=piece, wait_min=wait, layers=layers, cold=[{"way": way}], standard=name, bagged=bagged)
    found = answer_chill(req)
    curve = np.array(found.curve_c)
    assert np.isfinite(curve).all()
    assert curve.max() <= max(start, req.room_c) + 0.2
    assert min(found.surface_c) >= min(medium_of(req.cold[0]), req.room_c) - 12.0
    assert found.rule.met == all(stage.met for stage in found.stages)


# The command line -----------------------------------------------------------------------------------------------------


def test_the_command_line_answers_as_the_core_does():
    """The handler's JSON is the answer's, and both formats have their schema."""
    told = request().model_dump(mode="json", exclude_none=True, by_alias=True)
    assert json.loads(HANDLERS["chill"](told)) == json.loads(asked().model_dump_json())
    assert {"chill", "chill-answer"} <= set(schemas())


def test_every_way_has_its_words():
    """Name and line for each; where it is air its usual temperature."""
    for way in ("ice-bath", "blast", "walk-in", "fridge"):
        row = words()["ways"][way]
        assert row["name"]
        assert row["line"]
        assert way == "ice-bath" or "air_c" in row


@pytest.mark.parametrize("then", ["served", "held"])
def test_bringing_back_has_its_hands(then):
    """Set, lay in, lift by the clock and the reading, then serve or hold."""
    back = asked(back={"in": "sauce", "medium_c": 90, "to_c": 76, "then": then}, piece={**BELLY, "start_c": 80}).back
    verbs = [step.verb for step in back.steps]
    assert verbs == ["Set", "Lay in", "Lift", "Serve" if then == "served" else "Hold"]
    assert back.steps[2].seconds == pytest.approx(60 * back.minutes, abs=1)
    assert f"{back.pull_reading_c:.1f}" in back.steps[2].what


def test_too_warm_is_warned_of_and_a_barrier_that_lacks_is_not_called_too_warm():
    """What is said fits what is wrong."""

    def told(**more):
        return [warning for warning in asked(**more).warnings if "no row" in warning]

    assert told(packed="cook-chill", kept_c=8)
    assert not told(packed="reduced-oxygen", kept_c=3)
    assert not told(packed="reduced-oxygen", kept_c=3, barriers={"ph": 4.4})
