"""The queue of hands: washing beside the chain, groups, late and skip, places by name, hot handles, words of a lane."""

from __future__ import annotations

import datetime as dt
import uuid
from unittest.mock import patch

import pytest
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.kit.models import Equipment
from kitchen.line import actions, queries, reading_actions, starting
from kitchen.line.board_view import board
from kitchen.line.models import Cook, CookEvent
from kitchen.line.next_actions import hot_handles, next_actions_of
from kitchen.line.places import assign, kit_of
from kitchen.plans.actions import create

from ..lanes import lanes_of
from .pages import body_of


@pytest.fixture
def equipment(kitchen):
    """Two baths, two pans, an oven."""
    pan = {"kind": "pan", "mass_kg": 2.0}
    rows = [
        {"kind": "bath", "name": "Bath A"}, {"kind": "bath", "name": "Bath B"}, {"kind": "oven", "name": "Oven 1"},
        {**pan, "name": "Pan 1", "diameter_mm": 300.0, "material": "carbon-steel", "station": "Port hob"},
        {**pan, "name": "Pan 2", "diameter_mm": 240.0, "material": "cast-iron"},
    ]  # fmt: skip
    return {row["name"]: Equipment.objects.create(kitchen=kitchen, **row) for row in rows}


def put_on(kitchen, chef, document, **changed):
    return starting.start(create(kitchen, chef, parse_plan({**document, **changed})), chef)


def next_hands(kitchen):
    return next_actions_of(queries.running(kitchen), kitchen.now())


def tap(client, hand, **more):
    said = [f"{each.status.cook.pk}:{each.step.number}:{each.token}" for each in hand.together]
    return client.post(reverse("line:do", args=[hand.status.cook.pk]), {"tap": said} | more)


CHICKEN = {
    "name": "Chicken", "target": {"doneness": "firm"},
    "piece": {"cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 28}, "start_c": 4, "count": 4},
}  # fmt: skip


# Washing ------------------------------------------------------------------------------------------------------------


def test_washing_waits_beside_the_chain_and_holds_nothing_up(signed_in, kitchen, chef, document):
    cook = put_on(kitchen, chef, document, **CHICKEN)
    wash, pull = next_hands(kitchen)
    assert (wash.verb, pull.verb) == ("Wash", "Pull")
    assert "Wash hands" in body_of(signed_in.get("/line/"))
    tap(signed_in, pull)
    assert [hand.verb for hand in next_hands(kitchen)] == ["Wash", "Turn"]
    tap(signed_in, next_hands(kitchen)[0])
    assert [hand.verb for hand in next_hands(kitchen)] == ["Turn"]
    signed_in.post(reverse("line:undo", args=[cook.pk]))  # the last thing done was the washing
    assert [hand.verb for hand in next_hands(kitchen)] == ["Wash", "Turn"]


def test_washing_is_put_off_and_puts_off_nothing_else(signed_in, kitchen, chef, document):
    put_on(kitchen, chef, document, **CHICKEN)
    wash, pull = next_hands(kitchen)
    tap(signed_in, wash, how="late")
    later, _ = next_hands(kitchen)
    assert (later.due_at - wash.due_at).total_seconds() == pytest.approx(120, abs=2)
    tap(signed_in, pull, how="late")
    tap(signed_in, later)  # done after the pull was put off: that stays
    (put_off,) = next_hands(kitchen)
    assert (put_off.due_at - pull.due_at).total_seconds() == pytest.approx(120, abs=2)


def test_hands_are_washed_once_for_all_that_is_raw(signed_in, kitchen, chef, document):
    for _ in range(2):
        put_on(kitchen, chef, document, **CHICKEN)
    first = next_hands(kitchen)[0]
    assert len(first.together) == 2
    tap(signed_in, first)
    assert CookEvent.objects.filter(kind="done").count() == 2


# Several at once -----------------------------------------------------------------------------------------------------


def test_turns_in_one_pan_at_one_time_are_one_hand(signed_in, kitchen, chef, document):
    pan = [{"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 2}, {"kind": "rest", "minutes": 4}]
    for name in ("Rump", "Strip"):
        put_on(kitchen, chef, document, name=name, stages=pan)
    (turn,) = next_hands(kitchen)
    assert turn.verb == "Turn"
    assert turn.what == "Rump and Strip"
    tap(signed_in, turn)
    tap(signed_in, turn)  # two people, one action
    assert CookEvent.objects.filter(kind="done").count() == 2
    assert [hand.verb for hand in next_hands(kitchen)] == ["Pull", "Pull"]  # these go each their way


def test_full_steps_of_another_kitchen_are_not_done(client, stranger, running):
    client.force_login(stranger)
    said = f"{running.pk}:1:{uuid.uuid4()}"
    assert client.post(reverse("line:do", args=[running.pk]), {"tap": said}).status_code == 404
    assert CookEvent.objects.filter(kind="done").count() == 0


@pytest.mark.parametrize("said", ["", "x", "a:b:c", str(uuid.UUID(int=7)), ":::", f"{uuid.UUID(int=7)}:one:two"])
def test_hands_that_make_no_sense_do_nothing(signed_in, running, said):
    assert signed_in.post(reverse("line:do", args=[running.pk]), {"tap": said}).status_code in (302, 404)
    assert CookEvent.objects.filter(kind="done").count() == 0


# Late and skip -------------------------------------------------------------------------------------------------------


def test_a_hand_is_put_off_and_stays_put_off_until_it_is_done(signed_in, kitchen, running):
    (pull,) = next_hands(kitchen)
    tap(signed_in, pull, how="late")
    (later,) = next_hands(kitchen)
    assert (later.due_at - pull.due_at).total_seconds() == pytest.approx(120, abs=2)
    tap(signed_in, pull, how="late")  # the same request again
    assert (next_hands(kitchen)[0].due_at - pull.due_at).total_seconds() == pytest.approx(120, abs=2)
    tap(signed_in, later, how="late")
    assert (next_hands(kitchen)[0].due_at - pull.due_at).total_seconds() == pytest.approx(240, abs=2)
    tap(signed_in, next_hands(kitchen)[0])
    assert queries.status_of(Cook.objects.get()).put_off_min(next_hands(kitchen)[0].step) == 0


@pytest.mark.parametrize("step", ["0", "3", "99", "9" * 12])
def test_only_a_step_that_waits_is_put_off(signed_in, running, step):
    said = f"{running.pk}:{step}:{uuid.uuid4()}"
    response = signed_in.post(reverse("line:do", args=[running.pk]), {"tap": said, "how": "late"})
    assert response.status_code == 302
    assert not CookEvent.objects.filter(kind="late").exists()


def test_a_skipped_step_is_told_as_left_out(signed_in, kitchen, running):
    tap(signed_in, next_hands(kitchen)[0])
    tap(signed_in, next_hands(kitchen)[0], how="skip")
    assert CookEvent.objects.filter(data__skipped=True).get().step == 2
    body = body_of(signed_in.get(reverse("line:check", args=[running.pk])))
    assert "Turn skipped" in body


# Places --------------------------------------------------------------------------------------------------------------


def test_a_cook_has_its_places_by_name(signed_in, kitchen, chef, document, equipment):
    cook = put_on(kitchen, chef, document)
    assert {i: row["name"] for i, row in kit_of(cook).items()} == {0: "Bath A", 1: "Pan 1"}
    body = body_of(signed_in.get("/line/"))
    assert "Bath A to Pan 1" in body
    assert '<p class="action-station">Port hob</p>' in body


def test_a_bath_is_shared_at_its_setting_and_not_at_another(kitchen, chef, document, equipment):
    put_on(kitchen, chef, document)
    same = assign(kitchen, parse_plan(document))
    assert same["0"]["name"] == "Bath A"
    hotter = {**document, "stages": [{**document["stages"][0], "water_c": 62.0}, *document["stages"][1:]]}
    assert assign(kitchen, parse_plan(hotter))["0"]["name"] == "Bath B"
    assert same["1"]["name"] == "Pan 2"  # the other is taken


def test_the_pan_a_plan_describes_is_that_pan(kitchen, document, equipment):
    document["stages"][1]["pan"] = equipment["Pan 2"].vessel
    assert assign(kitchen, parse_plan(document))["1"]["name"] == "Pan 2"


def test_a_stage_is_moved_to_another_place_of_its_kind(signed_in, kitchen, chef, document, equipment):
    cook = put_on(kitchen, chef, document)
    url = reverse("line:place", args=[cook.pk])
    signed_in.post(url, {"stage": "0", "equipment": str(equipment["Bath B"].pk)})
    assert queries.status_of(Cook.objects.get()).place == "Bath B"
    body = body_of(signed_in.post(url, {"stage": "0", "equipment": str(equipment["Oven 1"].pk)}, follow=True))
    assert "cannot be done on that equipment" in body
    for stage, key in (("9", "1"), ("x", "y"), ("0", "9" * 30)):
        assert signed_in.post(url, {"stage": stage, "equipment": key}).status_code == 302
    assert CookEvent.objects.filter(kind="placed").count() == 1


def test_without_equipment_the_kind_of_place_is_said(signed_in, running):
    assert "bath to pan" in body_of(signed_in.get("/line/"))


# Lanes ---------------------------------------------------------------------------------------------------------------


def test_a_lane_says_what_it_is_now_and_what_it_comes_to(kitchen, running):
    (lane,) = lanes_of(kitchen)
    assert lane.word_now != "medium-rare"
    assert lane.word_left == "medium-rare"
    reading_actions.type_reading(running, running.started_by, 54.4)
    (lane,) = lanes_of(kitchen)
    assert lane.word_now == "medium-rare"


@pytest.mark.parametrize("minute", [0, 4, 9, 54, 55, 59])
def test_the_time_axis_has_its_ticks_at_every_minute_of_the_hour(kitchen, running, monkeypatch, minute):
    at = kitchen.now().replace(minute=minute, second=30)
    monkeypatch.setattr(type(kitchen), "now", lambda self: at)
    ticks = board(kitchen)["ticks"]
    assert len(ticks) == 3
    assert all(tick["at"].minute % 10 == 0 and 0 < (tick["at"] - at).total_seconds() < 2000 for tick in ticks)


def test_a_lane_shows_the_setting_before_on_and_after_the_board(kitchen, chef, document):
    cook = put_on(kitchen, chef, document, prep=[{"kind": "dry", "before": 1}])
    steps = queries.status_of(cook).steps

    def setting():
        return lanes_of(kitchen)[0].medium_c

    seen = [setting()]
    for step in steps[1:4]:  # pulled onto the board, dried, laid
        actions.do_step(cook, chef, step.number, uuid.uuid4(), steps)
        seen.append(setting())
    assert seen == [57.0, None, None, 220.0]


def test_only_what_goes_into_a_pan_asks_for_a_ready_pan(kitchen, chef, document):
    chain = [
        {"kind": "pan", "pan_c": 220, "minutes": 2}, {"kind": "oven", "air_c": 160, "minutes": 20},
        {"kind": "pan", "pan_c": 200, "minutes": 1},
    ]  # fmt: skip
    cook = put_on(kitchen, chef, document, stages=chain, prep=[{"kind": "rub", "before": 1}])
    steps = queries.status_of(cook).steps
    asked = {}
    for step in steps[1:]:
        (hand,) = next_hands(kitchen)
        asked[hand.step.to_place] = bool(hand.ready)
        actions.do_step(cook, chef, step.number, uuid.uuid4(), steps)
    assert asked == {"board": False, "oven": False, "pan": True, "plate": False}


def test_resting_time_runs_from_the_step_that_began_it(kitchen, running, cook_person):
    steps = queries.status_of(running).steps
    for step in steps[1:4]:
        actions.do_step(running, cook_person, step.number, uuid.uuid4(), steps)
    (lane,) = lanes_of(kitchen)
    assert lane.rests_s == pytest.approx(0, abs=5)


def test_a_pan_out_of_the_oven_has_a_hot_handle_until_it_is_cool(signed_in, kitchen, chef, document, equipment):
    chain = [
        {"kind": "pan", "pan_c": 220, "seconds_a_side": 60, "sides": 2},
        {"kind": "oven", "air_c": 180, "in": "pan", "minutes": 10}, {"kind": "rest", "minutes": 5},
    ]  # fmt: skip
    cook = put_on(kitchen, chef, document, stages=chain)
    assert board(kitchen)["hot"] == []
    steps = queries.status_of(cook).steps
    for step in steps[1:4]:
        actions.do_step(cook, chef, step.number, uuid.uuid4(), steps)
    (hot,) = board(kitchen)["hot"]
    assert hot.pan == "Pan 1"
    assert "Pan 1: hot handle" in body_of(signed_in.get("/line/"))
    actions.finish(cook, chef)
    assert board(kitchen)["hot"] == [hot]  # the cook is over, the handle is hot
    assert hot_handles(kitchen, kitchen.now() + dt.timedelta(minutes=40), []) == []


# A cook's own page --------------------------------------------------------------------------------------------------


def test_a_cooks_page_shows_its_inside_now(signed_in, kitchen, running, cook_person):
    url = reverse("line:check", args=[running.pk])
    first = signed_in.get(url).context["inside"]
    assert first.now_x == pytest.approx(0, abs=2)
    assert first.face.bands[0].word == "raw"
    steps = queries.status_of(running).steps
    for step in steps[1:-1]:
        at = running.started_at + dt.timedelta(seconds=step.at_s)
        CookEvent.objects.create(cook=running, kind="done", step=step.number, at=at, by=cook_person)
    after = running.started_at + dt.timedelta(seconds=steps[-1].at_s - 1)
    with patch.object(type(kitchen), "now", lambda self: after):
        late = signed_in.get(url).context["inside"]
    assert not late.as_done
    assert late.now_x > first.now_x + 100
    assert late.face.bands[0].word != "raw"
    assert late.face.top != first.face.top


def test_basting_and_washing_do_not_move_a_piece(kitchen, chef, document):
    from kitchen.line.picture import done_stages

    oven = [{"kind": "oven", "air_c": 180, "minutes": 40, "baste_every_min": 10}, {"kind": "rest", "minutes": 5}]
    cook = put_on(kitchen, chef, document, **CHICKEN, stages=oven)
    steps = queries.status_of(cook).steps
    for step in steps[1:3]:
        actions.do_step(cook, chef, step.number, uuid.uuid4(), steps)
    ((kind, begun, _),) = done_stages(queries.status_of(Cook.objects.get()))
    assert (kind, begun) == ("oven", 0.0)


def test_a_piece_that_tempers_has_begun_its_first_stage(kitchen, chef, document):
    from kitchen.line.picture import done_stages

    temper = [{"kind": "temper", "air_c": 21, "minutes": 20}, *document["stages"]]
    cook = put_on(kitchen, chef, document, stages=temper)
    ((kind, begun, _),) = done_stages(queries.status_of(Cook.objects.get()))
    assert (kind, begun) == ("temper", 0.0)
    assert queries.status_of(cook).place == "worktop"
