"""Practice on the screen: calls before the probe speaks, what is shared, drills to their end."""

from __future__ import annotations

import datetime as dt
import json
import uuid

import pytest
from django.urls import reverse

from kitchen.book.export import our_models
from kitchen.drawings.calls_chart import calls_chart
from kitchen.drawings.drill_chart import drill_chart
from kitchen.line.actions import finish
from kitchen.line.models import Reading
from kitchen.practice import call_actions, drill_actions
from kitchen.practice.models import Call, Drill

from .pages import body_of


def post_call(client, cook, **more):
    data = {"sense": "press", "word": "medium", "token": str(uuid.uuid4())} | more
    return client.post(reverse("practice:call", args=[cook.pk]), data)


def reads(cook, celsius):
    """The probe shows something now."""
    at = cook.kitchen.now() - dt.timedelta(seconds=2)
    probe = cook.probe_uses.first().probe
    cook.probe_uses.update(during=(at - dt.timedelta(minutes=5), None))
    type(cook).objects.filter(pk=cook.pk).update(started_at=at - dt.timedelta(minutes=5))
    return Reading.objects.create(kitchen=cook.kitchen, probe=probe, at=at, claimed_at=at, celsius=celsius)


# Calls --------------------------------------------------------------------------------------------------------------


def test_two_taps_make_a_call_and_the_probe_speaks(signed_in, running):
    reads(running, 52.3)
    page = body_of(signed_in.get(reverse("practice:calls"), {"cook": running.pk}))
    assert "The probe reading is hidden until you call" in page
    assert "52.3" not in page
    shown = signed_in.get(post_call(signed_in, running).url)
    call = Call.objects.get()
    assert (call.word, call.read_c) == ("medium", 52.3)
    assert "52.3" in body_of(shown)
    assert "too high" in body_of(shown)


def test_an_odd_sense_in_the_address_leaves_one_chosen(signed_in, running):
    page = body_of(signed_in.get(reverse("practice:calls"), {"sense": "nose"}))
    assert page.count(" checked>") == 1


def test_without_a_probe_the_reading_is_typed_once(signed_in, running):
    page = post_call(signed_in, running, word="", celsius="54.5")
    call = Call.objects.get()
    assert (call.called_c, call.read_c) == (54.5, None)
    url = reverse("practice:read", args=[call.pk])
    assert signed_in.post(url, {"celsius": "hot"}).status_code == 422
    assert signed_in.post(url, {"celsius": "540"}).status_code == 422
    signed_in.post(url, {"celsius": "53.0"})
    signed_in.post(url, {"celsius": "60"})
    assert Call.objects.get().off_k == pytest.approx(1.5)
    assert "a good call" in body_of(signed_in.get(page.url))


def test_a_call_is_made_once_and_a_slip_is_dropped(signed_in, running):
    token = str(uuid.uuid4())
    post_call(signed_in, running, token=token)
    post_call(signed_in, running, token=token)
    call = Call.objects.get()
    signed_in.post(reverse("practice:read", args=[call.pk]), {"then": "drop"})
    assert not Call.objects.exists()


@pytest.mark.parametrize(
    ("more", "words"),
    [({"sense": "nose"}, "the sense you judged by"), ({"word": "crisp"}, "Choose a word"),
     ({"word": ""}, "Choose a word"),
     ({"word": "", "celsius": "900"}, "enter −20 to 150"), ({"word": "", "celsius": "warm"}, "")],
)  # fmt: skip
def test_a_call_that_is_none_comes_back(signed_in, running, more, words):
    response = post_call(signed_in, running, **more)
    assert response.status_code == 422
    assert words in body_of(response)
    assert not Call.objects.exists()


def test_a_finished_cook_is_not_called(signed_in, running, chef):
    finish(running, chef, "over")
    assert post_call(signed_in, running).status_code == 422
    assert "Nothing is cooking" in body_of(signed_in.get(reverse("practice:calls")))


def some_calls(kitchen, person, number, off=2.0):
    at = kitchen.now()
    Call.objects.bulk_create(
        Call(kitchen=kitchen, person=person, name="Strip", cut="beef/strip-loin", wanted="medium", sense="press",
             called_c=55 + off, read_c=55 + (i % 3 - 1) * 0.5, read_at=at, at=at - dt.timedelta(minutes=i))
        for i in range(number)
    )  # fmt: skip


def test_how_far_off_is_shown_with_its_interval(signed_in, kitchen, cook_person):
    some_calls(kitchen, cook_person, 12)
    page = body_of(signed_in.get(reverse("practice:calls")))
    for words in ("+2.0", "12 calls", "The press: call 2.0° lower", "Trust the press", "Beef strip loin"):
        assert words in page
    assert page.count('class="calls-dot"') == 12


def test_few_calls_are_said(signed_in, kitchen, cook_person):
    some_calls(kitchen, cook_person, 3)
    page = body_of(signed_in.get(reverse("practice:calls")))
    assert "Make more calls." in page
    assert "few" in page


def test_only_what_is_shared_is_seen_by_the_chef(client, kitchen, chef, cook_person, stranger):
    some_calls(kitchen, cook_person, 9)
    url = reverse("practice:of-person", args=[cook_person.pk])
    client.force_login(chef)
    assert client.get(url).status_code == 404
    client.force_login(cook_person)
    client.post(reverse("practice:share"), {"share": "yes"})
    assert client.get(url).status_code == 404  # a cook sees nobody else's
    client.force_login(chef)
    assert "9 calls" in body_of(client.get(url))
    assert str(cook_person) in body_of(client.get(reverse("practice:calls")))
    client.force_login(stranger)
    assert client.get(url).status_code == 404
    call_actions.share(kitchen, cook_person, False)
    client.force_login(chef)
    assert client.get(url).status_code == 404


def test_practice_is_not_in_the_kitchens_export():
    assert not [model for model in our_models() if model._meta.app_label == "practice"]


def test_nobody_reads_or_drops_anothers_call(client, running, chef, cook_person):
    call = call_actions.call(running, cook_person, "pin", "medium", None, uuid.uuid4())
    client.force_login(chef)
    assert client.get(reverse("practice:called", args=[call.pk])).status_code == 404
    assert client.post(reverse("practice:read", args=[call.pk]), {"then": "drop"}).status_code == 404


def test_dots_stack_and_far_ones_stand_at_the_end():
    chart = calls_chart([("press", "Press", [0.1, 0.0, -0.1, 20.0])])
    row = chart.rows[0]
    assert len({(dot.x, dot.y) for dot in row.dots}) == 4
    assert max(dot.x for dot in row.dots) == pytest.approx(chart.ticks[-1][0])
    assert row.first_x is None


# Drills -------------------------------------------------------------------------------------------------------------


def drill_of(client, kind="pan", level=1, seed="7"):
    response = client.post(reverse("practice:begin"), {"kind": kind, "level": level, "seed": seed})
    return Drill.objects.latest("begun_at"), response.url


def act(client, drill, what, **headers):
    return client.post(reverse("practice:act", args=[drill.pk]), {"what": what}, headers=headers)


def test_a_pan_drill_from_the_first_look_to_the_cut(signed_in):
    drill, url = drill_of(signed_in)
    assert "Wait, then look" in body_of(signed_in.get(url))
    for what in ("wait:60", "wait:60", "turn", "baste", "pin"):
        page = body_of(act(signed_in, drill, what, **{"hx-request": "true"}))
    assert "2:36" in page
    for words in ("You hear", "The top face is", "Cake tester on the lip"):
        assert words in page
    assert act(signed_in, drill, "cut").status_code == 422
    for what in ("wait:300", "rest"):
        act(signed_in, drill, what)
    assert act(signed_in, drill, "turn").status_code == 422
    for what in ("wait:300", "cut"):
        act(signed_in, drill, what)
    drill.refresh_from_db()
    assert drill.score is not None
    page = body_of(signed_in.get(url))
    for words in ("of 100", "The real piece was", "earlier:", "drill-core", "cut-face"):
        assert words in page
    assert act(signed_in, drill, "wait:5").status_code == 422


def test_the_same_number_is_the_same_drill(signed_in):
    scores = []
    for _ in range(2):
        drill, _ = drill_of(signed_in, seed="41")
        for what in ("wait:300", "turn", "wait:60", "rest", "wait:60", "cut"):
            act(signed_in, drill, what)
        drill.refresh_from_db()
        scores.append((drill.score, drill.outcome["peak_c"]))
    assert scores[0] == scores[1]


@pytest.mark.parametrize(("kind", "waits"), [("scramble", 2), ("poach", 4), ("custard", 5)])
def test_an_egg_drill_is_taken_off(signed_in, kind, waits):
    drill, url = drill_of(signed_in, kind)
    assert act(signed_in, drill, "off").status_code == 422  # at once
    for _ in range(waits):
        act(signed_in, drill, "wait:300" if kind == "custard" else "wait:60")
    assert act(signed_in, drill, "turn").status_code == 422
    act(signed_in, drill, "off")
    page = body_of(signed_in.get(url))
    assert "The real setup" in page
    assert "earlier:" in page


def test_nobody_waits_for_ever(signed_in):
    drill, _ = drill_of(signed_in, "scramble")
    answers = [act(signed_in, drill, "wait:300").status_code for _ in range(3)]
    assert answers[-1] == 422


def test_an_order_drill_is_scored(signed_in):
    drill, url = drill_of(signed_in, "lay", 1)
    side = drill_actions.side_s(drill)
    assert 'data-pieces="4"' in body_of(signed_in.get(url))
    taps = [[i, i + side, i + 2 * side] for i in range(4)]
    for wrong in ("", "[]", "{}", json.dumps(taps[:3]), json.dumps([[3, 2, 1]] * 4), "[[1e999,2,3]]"):
        assert signed_in.post(reverse("practice:lay", args=[drill.pk]), {"taps": wrong}).status_code == 422
    signed_in.post(reverse("practice:lay", args=[drill.pk]), {"taps": json.dumps(taps)})
    drill.refresh_from_db()
    assert drill.score == 100
    assert "In order" in body_of(signed_in.get(url))


@pytest.mark.parametrize(
    "asked", [{"kind": "soup", "level": "1"}, {"kind": "pan", "level": "9"}, {"kind": "pan", "seed": "99999"}]
)
def test_a_drill_there_is_not(signed_in, asked):
    signed_in.post(reverse("practice:begin"), asked)
    assert not Drill.objects.exists()


def test_drills_are_ones_own(client, signed_in, chef, cook_person):
    drill, url = drill_of(signed_in)
    assert "Continue: in the pan" in body_of(signed_in.get(reverse("practice:drills")))
    client.force_login(chef)
    assert client.get(url).status_code == 404
    assert act(client, drill, "wait:60").status_code == 404


def test_the_chart_of_a_drill_has_its_marks_in_place():
    chart = drill_chart([0.0, 300.0, 600.0], [5.0, 40.0, 55.0], (53.0, 56.0), [("turn", 300.0), ("rest", 600.0)])
    assert chart.marks[0][0] == pytest.approx((chart.minutes[0][0] + chart.marks[1][0]) / 2)
    assert chart.band[1] > 0
