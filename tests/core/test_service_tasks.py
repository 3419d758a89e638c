"""What a service is made of: plans as tasks, companions with minutes and amounts, one setting for several plans."""

from __future__ import annotations

import pytest

from ember.evaluate import evaluate
from ember.files.service import parse_service
from ember.service.companions import companion_kinds, reduction_min, roast_min
from ember.service.of_plan import kinds_of, tasks_of_plan
from ember.service.settings import at_setting, shared_settings
from ember.service.task_ref import TaskKind, TaskRef

from .plans import plan

BATH = {"kind": "bath", "water_c": 58, "until": {"peak_c": 55}}
SEAR = {"kind": "pan", "pan_c": 225, "seconds_a_side": 45, "sides": 2}
REST = {"kind": "rest", "minutes": 6}


def tasks(chain, portions=8):
    return {row["id"]: row for row in tasks_of_plan(chain, evaluate(chain), portions)}


def test_a_chain_follows_at_once_and_ends_on_the_plate():
    rows = tasks(plan([BATH, SEAR, REST], count=6))
    assert list(rows) == ["s0", "s1", "s2", "plate"]
    assert rows["s1"]["after"] == ["s0"]
    assert rows["s1"]["max_wait_min"] == 0, "a seared piece rests at once"
    assert 0 < rows["s0"]["max_wait_min"] <= 30, "in its bath it may stay while it is what it is"
    assert rows["s0"]["uses"][0] == {"equipment": "bath", "amount": 6, "setting_c": 58.0}
    assert kinds_of(rows.values()) == {"bath", "hob", "shelf", "hands"}


def test_a_sear_takes_hands_all_along_and_a_bath_only_to_go_in():
    rows = tasks(plan([BATH, SEAR, REST]))
    assert "first_min" not in rows["s1"]["uses"][1]
    assert rows["s0"]["uses"][1]["first_min"] == 2


def test_an_oven_is_basted_again_and_again():
    chain = plan([{"kind": "oven", "air_c": 170, "minutes": 150, "baste_every_min": 40}, REST], shape={
        "kind": "cylinder", "diameter_mm": 110})  # fmt: skip
    row = tasks(chain)["s0-baste"]
    assert row["during"]["task"] == "s0"
    assert row["during"]["every_min"] == 40
    assert tasks(chain)["s1"]["after"] == ["s0"], "what follows follows the oven, not the basting"


def test_what_is_chilled_waits_for_days_by_the_standard():
    chain = plan([{"kind": "bath", "water_c": 68, "minutes": 600}, {"kind": "chill", "air_c": 2, "minutes": 600},
                  {"kind": "reheat", "in": "bath", "water_c": 60, "minutes": 40}])  # fmt: skip
    rows = tasks(chain)
    assert rows["s1"]["chilled_wait_max_min"] == 6 * 1440, "seven days, the first of them today"
    uk = tasks(plan([{"kind": "bath", "water_c": 68, "minutes": 600}, {"kind": "chill", "air_c": 2, "minutes": 600},
                     {"kind": "reheat", "in": "bath", "water_c": 60, "minutes": 40}], standard="uk-fsa"))  # fmt: skip
    assert uk["s1"]["chilled_wait_max_min"] == 4 * 1440
    assert rows["s2"]["uses"][0]["equipment"] == "bath"


def test_tasks_of_a_plan_are_a_service():
    rows = tasks_of_plan(chain := plan([BATH, SEAR, REST]), evaluate(chain), 8)
    shared = [{"id": kind, "kind": kind, "capacity": 8} for kind in kinds_of(rows)]
    dish = {"id": "strip", "plate_up": "2031-05-07T19:00:00+02:00", "tasks": rows}
    request = {"format": "open-ember/service", "version": 1, "now": "2031-05-07T12:00:00+02:00", "dishes": [dish]}
    assert len(parse_service(request | {"equipment": shared}).dishes[0].tasks) == 4


# Companions ---------------------------------------------------------------------------------------------------------


def test_a_litre_boils_away_as_steam_tables_say():
    """All of 1 kg from 20 °C: 334 kJ to the boil and 2257 kJ to steam; 1.5 kW of it reaches the pot: 28.8 min."""
    assert reduction_min(1000, 1e-9, 400, 3.0) == pytest.approx((334.4 + 2257) / 1.5 / 60, rel=1e-3)


def test_a_narrow_pan_boils_less_than_its_burner_could():
    assert reduction_min(2000, 0.5, 120, 3.0) > 1.5 * reduction_min(2000, 0.5, 260, 3.0)
    assert reduction_min(2000, 0.5, 290, 3.0) == reduction_min(2000, 0.5, 320, 3.0), "past it the burner limits"


def test_roots_take_longer_thicker_and_cooler():
    """30 mm at 200 °C some three quarters of an hour; common practice."""
    assert 40 <= roast_min(30, 200) <= 50
    assert roast_min(45, 200) > roast_min(30, 200) > roast_min(30, 220)


def test_amounts_go_by_covers_or_by_the_piece():
    kinds = companion_kinds()
    assert kinds["pan-sauce"].amount_g(28, 5000) == pytest.approx(28 * 35)
    assert kinds["stuffing"].amount_g(28, 5000) == pytest.approx(800)
    assert kinds["blanch"].minutes_for(2700) == 12 + 3 * 3


@pytest.mark.parametrize("kind", sorted(companion_kinds()))
def test_every_companion_takes_whole_minutes_and_some_amount(kind):
    row = companion_kinds()[kind]
    amount = row.amount_g(20, 4000)
    assert amount > 0
    assert row.minutes_for(amount) == int(row.minutes_for(amount)) >= 1
    assert row.minutes_for(2 * amount) >= row.minutes_for(amount)


# Settings -----------------------------------------------------------------------------------------------------------


def test_hotter_water_takes_less_time_to_the_same_peak():
    chain = plan([BATH, SEAR, REST])
    hotter, cooler = at_setting(chain, 0, 61.0), at_setting(chain, 0, 56.5)
    assert hotter.minutes < cooler.minutes
    assert hotter.peak_c == pytest.approx(evaluate(chain).core.peak_c, abs=0.15)
    assert hotter.same


def test_water_that_cannot_give_it_is_no_setting():
    assert at_setting(plan([{"kind": "bath", "water_c": 58, "until": {"core_c": 55}}]), 0, 50.0) is None
    assert at_setting(plan([SEAR]), 0, 50.0) is None


def test_one_bath_for_two_dishes_each_as_it_was_to_be():
    """54.5 and 57 °C: what is found lies between, and each piece keeps its word."""
    one = plan([{"kind": "bath", "water_c": 57, "until": {"peak_c": 54.6}}, REST])
    other = plan([{"kind": "bath", "water_c": 59, "until": {"peak_c": 56.8}}, REST], shape={
        "kind": "slab", "thickness_mm": 45})  # fmt: skip
    found = shared_settings([(one, 0), (other, 0)])
    assert found
    for celsius, rows in found:
        assert 57 <= celsius <= 59
        assert [row.same for row in rows] == [True, True]


@pytest.mark.parametrize(
    "task_id",
    ["s0", "s12", "s3-baste", "p0", "p4", "c1", "eggs", "plate", "set-e5-s0", "sauce", "peel", "s01", "s", "s1x"],
)
def test_a_tasks_id_is_read_and_written_the_same(task_id):
    assert str(TaskRef.of(task_id)) == task_id


def test_tasks_with_names_of_their_own_are_no_stages_and_differ():
    assert TaskRef.of("plate").kind is TaskKind.PLATE
    assert {TaskRef.of(name).stage for name in ("sauce", "s01", "peel", "set-e5-s0")} == {None}
    assert TaskRef.of("sauce") != TaskRef.of("peel")
    assert TaskRef.of("s0").starts_a_cook
    assert TaskRef.of("s0-baste").is_done_by_a_cook
    assert not TaskRef.of("p0").is_done_by_a_cook
