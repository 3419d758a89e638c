"""Forecasts in the kitchen: made, kept, shown; faults of a probe; what is told of a piece; late and the ways out."""

from __future__ import annotations

import datetime as dt
import uuid

import numpy as np
import pytest
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from ember.files.plan import parse_plan
from ember.files.track import Belief
from ember.heat.simulate import simulate
from ember.quantities import Units
from kitchen.kit.models import Equipment
from kitchen.line import actions, forecasting, queries, reading_actions, shared_board, starting, tasks
from kitchen.line.board_view import MOST_LANES, board
from kitchen.line.forecast_view import FRESH_S, WAIVED_MORE_S
from kitchen.line.models import Cook, CookEvent, Forecast, Reading
from kitchen.line.observations import open_ends
from kitchen.line.picture import cook_chart, forecasts_moved
from kitchen.line.templatetags.forecast_words import belief_words
from kitchen.line.track_events import track_events
from kitchen.plans.actions import create

from ..lanes import lanes_of
from .pages import body_of

BATH = {
    "name": "Strip for the watch", "target": {"doneness": "medium-rare"},
    "piece": {"cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": 32}, "start_c": 5},
    "stages": [{"kind": "bath", "water_c": 58, "until": {"core_c": 53}}, {"kind": "rest", "minutes": 4}],
}  # fmt: skip
ROAST = {
    "name": "Rump roast", "target": {"doneness": "medium-rare"},
    "piece": {"cut": "beef/rump-roast", "shape": {"kind": "cylinder", "diameter_mm": 85}, "start_c": 5},
    "stages": [{"kind": "oven", "air_c": 170, "until": {"core_c": 50}}, {"kind": "rest", "minutes": 15}],
}  # fmt: skip


class Following:
    """A running cook whose truth is a plan of its own, and its probe's readings up to now."""

    def __init__(self, kitchen, chef, device, document, shape=None, **stage):
        base = {"format": "open-ember/plan", "version": 1, **document}
        self.plan = create(kitchen, chef, parse_plan(base))
        self.cook = starting.start(self.plan, chef, device[0].probes.first())
        piece = {**base["piece"], **({"shape": shape} if shape else {})}
        self.run = simulate(
            parse_plan({**base, "piece": piece, "stages": [{**base["stages"][0], **stage}, *base["stages"][1:]]})
        )
        self.chef, self.probe = chef, device[0].probes.first()
        self.true_s, self.read_until = self.run.stages[0].end_s, 0.0

    def at(self, seconds, every_s=10.0, change=None, until=None):
        """Move the kitchen's clock so far on; the probe showed the truth since it was looked at last."""
        kitchen, began = self.cook.kitchen, self.cook.started_at
        kitchen.is_demo, kitchen.clock_set_at = True, timezone.now()
        kitchen.clock_showed = began + dt.timedelta(seconds=float(seconds))
        kitchen.save()
        s = np.arange(self.read_until, seconds if until is None else until, every_s)
        self.read_until = float(s[-1]) + every_s
        shown = self.run.node_c(np.maximum(s - 5, 0), self.run.grid.core)
        if change is not None:
            shown = np.array([change(a, c) for a, c in zip(s, shown, strict=True)])
        noise = 0.1 * np.random.default_rng(1).standard_normal(len(s))
        Reading.objects.bulk_create(
            Reading(kitchen=kitchen, probe=self.probe, at=at, claimed_at=at, celsius=float(c))
            for at, c in zip((began + dt.timedelta(seconds=float(a)) for a in s), shown + noise, strict=True)
        )
        return self

    def fresh(self):
        return Cook.objects.select_related("kitchen").get(pk=self.cook.pk)

    def forecast(self):
        return forecasting.refresh(self.fresh())

    def forecast_view(self):
        return queries.status_of(self.fresh()).forecast_view

    def page(self, client):
        return body_of(client.get(reverse("line:board")))

    def tell(self, client, **said):
        return client.post(reverse("line:tell", args=[self.cook.pk]), said)


@pytest.fixture
def bath(kitchen, chef, device):
    return Following(kitchen, chef, device, BATH)


def test_a_cook_has_a_forecast_that_ends_on_its_pull_with_its_spread(bath, signed_in):
    bath.at(0.6 * bath.true_s)
    forecast = bath.forecast()
    assert forecast.p50_s == pytest.approx(bath.true_s, rel=0.03)
    assert forecast.answer["by"] == "readings"
    assert forecast.took_ms > 0
    status = queries.running(bath.cook.kitchen)[0]
    assert status.progress.due_s == pytest.approx(forecast.p50_s, abs=1.0)
    lane = lanes_of(bath.cook.kitchen)[0]
    assert len(lane.chart.tints) == 3
    assert lane.chart.bar is not None
    assert lane.give_or_take_s >= 10
    assert "± " in bath.page(signed_in)


def test_without_a_worker_the_plan_still_says_when(bath, signed_in):
    bath.at(600.0)
    assert bath.forecast_view() is None
    assert queries.status_of(bath.fresh()).progress.due_s > 600
    assert 'id="board"' in bath.page(signed_in)


def looked_at_by_the_worker(watched):
    """The newest forecast after a sweep, whose clock shows a moment of the kitchen's."""
    forecasting.refresh_some([watched.fresh()])
    return watched.cook.forecasts.first()


def test_a_forecast_stands_while_the_readings_do_what_it_foretold(bath):
    began_s = 0.5 * bath.true_s
    bath.at(began_s)
    first = bath.forecast()
    for after_s in (25.0, 60.0, 100.0):
        bath.at(began_s + after_s)
        newest = looked_at_by_the_worker(bath)
        assert newest.pk == first.pk
        assert newest.confirmed_at > first.at + dt.timedelta(seconds=after_s - 2)
        assert newest.made_at > first.made_at
    assert newest.hottest_c > first.hottest_c
    bath.at(began_s + forecasting.STANDS_S + 5.0)
    assert looked_at_by_the_worker(bath).pk != first.pk


@pytest.mark.parametrize("off_k", [-1.0, 1.0])
def test_readings_that_were_not_foretold_make_a_new_forecast(bath, off_k):
    began_s = 0.5 * bath.true_s
    bath.at(began_s)
    first = bath.forecast()
    bath.at(began_s + 60.0, change=lambda _, c: c + off_k)
    assert looked_at_by_the_worker(bath).pk != first.pk


def test_a_probe_that_went_silent_and_an_event_make_a_new_forecast(bath, chef):
    began_s = 0.5 * bath.true_s
    bath.at(began_s)
    first = bath.forecast()
    bath.at(began_s + 30.0)
    assert looked_at_by_the_worker(bath).pk == first.pk
    silent = looked_at_by_the_worker(bath)
    assert silent.pk != first.pk
    bath.at(began_s + 60.0)
    actions.tell(bath.fresh(), chef, "interrupted", uuid.uuid4(), 0)
    assert looked_at_by_the_worker(bath).pk != silent.pk


def test_an_old_forecast_is_not_shown(bath):
    bath.at(600.0)
    forecast = bath.forecast()
    Forecast.objects.filter(pk=forecast.pk).update(at=forecast.at - dt.timedelta(seconds=FRESH_S + 5))
    assert bath.forecast_view() is None


def test_a_reading_that_is_there_comes_before_any_forecast(bath):
    bath.at(0.6 * bath.true_s)
    bath.forecast()
    reading_actions.type_reading(bath.fresh(), bath.chef, 70.0)
    assert queries.status_of(bath.fresh()).progress.reached


def test_what_is_believed_to_differ_stands_in_the_lane_and_on_the_page(kitchen, chef, device, signed_in):
    cool = Following(kitchen, chef, device, BATH, water_c=55.6).at(3000.0)
    cool.forecast()
    words = "The bath runs about"
    assert words in cool.page(signed_in)
    page = body_of(signed_in.get(reverse("line:check", args=[cool.cook.pk])))
    assert words in page
    assert "80 % likely" in page
    chef.temperature_unit = signed_in.session and "F"
    fahrenheit = type(signed_in)()
    chef.save()
    fahrenheit.force_login(chef)
    assert "°F" in body_of(fahrenheit.get(reverse("line:check", args=[cool.cook.pk])))


def slip(at_s, by_k):
    return lambda s, c: c + (by_k * (1 - np.exp(-(s - at_s) / 5)) if s >= at_s else 0.0)


def test_a_slipped_probe_is_told_not_believed_and_mended(bath, signed_in):
    bath.at(1300.0, every_s=5.0, change=slip(1200.0, 9.0)).forecast()
    page = bath.page(signed_in)
    assert "Probe slipped" in page
    assert "Probe re-centred" in page
    status = queries.status_of(bath.fresh())
    assert not status.is_measured
    truth = float(bath.run.node_c(np.array([1300.0]), bath.run.grid.core)[0])
    assert status.present_c == pytest.approx(truth, abs=1.0)
    assert len(lanes_of(bath.cook.kitchen)[0].chart.rings) > 3
    token = str(uuid.uuid4())
    for _ in range(2):  # two taps are one
        bath.tell(signed_in, what="probe-moved", token=token)
    assert bath.cook.events.filter(kind="told").count() == 1
    assert "Probe slipped" not in bath.page(signed_in)  # at once, before the next forecast


def test_a_probe_that_fell_silent_is_told_and_the_next_one_taken(bath, device, signed_in):
    bath.at(1000.0, every_s=5.0, until=900.0)
    bath.forecast()
    assert bath.forecast_view().fault == "Probe silent"
    assert "check the plug and the cable" in bath.page(signed_in)
    second = device[0].probes.last()
    starting.attach_probe(bath.fresh(), second, bath.fresh().started_at)
    rows = [
        Reading(kitchen=r.kitchen, probe=second, at=r.at + dt.timedelta(seconds=98), claimed_at=r.at, celsius=r.celsius)
        for r in Reading.objects.filter(probe=bath.probe)
    ]
    Reading.objects.bulk_create(rows)
    answer = bath.forecast().answer
    assert answer["by"] == "readings"
    assert answer["readings_used"] == len(rows)  # those of the second
    assert bath.forecast_view().fault == "Probe silent"  # the first one's fault is told all the same


def test_a_reading_typed_in_counts_while_the_probe_is_at_fault(bath):
    bath.at(1300.0, every_s=5.0, change=lambda s, c: 21.0)
    core = float(bath.run.node_c(np.array([1300.0]), bath.run.grid.core)[0])
    assert bath.forecast().answer["probe"]["state"] == "ok"  # a needle that never was in the piece shows no jump
    bath.at(1400.0, every_s=5.0, until=1305.0)
    silent = bath.forecast()
    assert silent.answer["probe"]["state"] == "unplugged"
    reading_actions.type_reading(bath.fresh(), bath.chef, core + 1.5)
    typed = bath.forecast()
    assert typed.answer["probe"]["state"] == "unplugged"
    assert typed.answer["readings_used"] == 1
    assert typed.answer["core_c_now"] == pytest.approx(core + 1.5, abs=1.5)


def own_probe_reads(kitchen, probe, celsius):
    """A probe that stays in the oven, and what it showed in the last minutes."""
    probe.fixed_in = Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 1")
    probe.save()

    def show():
        Reading.objects.bulk_create(
            Reading(
                kitchen=kitchen,
                probe=probe,
                at=kitchen.now() - dt.timedelta(seconds=20 * i),
                celsius=celsius + 0.1 * i,
                claimed_at=kitchen.now() - dt.timedelta(seconds=20 * i),
            )
            for i in range(8)
        )

    return show


def test_the_ovens_own_probe_tells_that_it_runs_cool(kitchen, chef, device):
    show = own_probe_reads(kitchen, device[0].probes.last(), 158.0)
    roast = Following(kitchen, chef, device, ROAST, air_c=158).at(2400.0)
    show()
    roast.forecast()
    assert any("The oven runs about 12 °C cool" in belief.text for belief in roast.forecast_view().beliefs)


def test_the_ovens_own_probe_is_held_against_what_it_was_set_to_last(kitchen, chef, device, signed_in):
    show = own_probe_reads(kitchen, device[0].probes.last(), 190.0)
    roast = Following(kitchen, chef, device, ROAST).at(1200.0)
    roast.tell(signed_in, what="setting", celsius="190")
    roast.at(1300.0)
    show()
    assert forecasting.medium_seen(queries.status_of(roast.fresh()))[0] == pytest.approx(0.35, abs=0.1)


def late_roast(kitchen, chef, device):
    Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 1")
    shape = {"kind": "cylinder", "diameter_mm": 96}
    return Following(kitchen, chef, device, ROAST, shape=shape).at(2700.0)


def test_a_late_cook_has_two_ways_out_with_their_price(kitchen, chef, device, signed_in):
    roast = late_roast(kitchen, chef, device)
    forecast = roast.forecast()
    assert forecast.late_s > 300
    kinds = [way["kind"] for way in forecast.ways]
    assert kinds == ["hotter", "wait"]
    hotter, wait = forecast.ways
    assert hotter["setting_c"] > 170
    assert hotter["late_s"] < wait["late_s"]
    assert hotter["peak_c"] > wait["peak_c"]  # more heat carries further: that is its price
    page = roast.page(signed_in)
    assert "A Set Oven 1 to" in page
    assert "B Serve" in page
    roast.tell(signed_in, what="setting", celsius=str(hotter["setting_c"]))
    event = roast.cook.events.get(kind="told")
    assert event.data["c"] == hotter["setting_c"]
    assert "A Set Oven 1 to" not in roast.page(signed_in)
    lane = lanes_of(kitchen)[0]
    assert lane.medium_c == hotter["setting_c"]
    again = roast.forecast()
    assert again.late_s < forecast.late_s - 120  # replanned with what was told


def test_late_is_all_right_until_it_gets_later(kitchen, chef, device, signed_in):
    roast = late_roast(kitchen, chef, device)
    forecast = roast.forecast()
    roast.tell(signed_in, what="wait", late_s=str(round(forecast.late_s)))
    assert "B Serve" not in roast.page(signed_in)
    Forecast.objects.filter(pk=forecast.pk).update(late_s=forecast.late_s + WAIVED_MORE_S + 10)
    assert "B Serve" in roast.page(signed_in)


def test_a_cook_in_time_is_left_alone(bath):
    assert bath.at(0.5 * bath.true_s).forecast().ways == []


@pytest.mark.parametrize(
    ("said", "answer"),
    [
        ({"what": "setting"}, "enter a number"), ({"what": "setting", "celsius": "9000"}, "must be from"),
        ({"what": "setting", "celsius": "hot"}, ""), ({"what": "dropped"}, ""), ({}, "Choose what happened"),
    ],
)  # fmt: skip
def test_what_cannot_be_told_is_answered_and_nothing_is_kept(bath, signed_in, said, answer):
    url = reverse("line:tell", args=[bath.cook.pk])
    reply = signed_in.post(url, said, headers={"HX-Request": "true"})
    assert reply.status_code == 200
    assert answer in body_of(reply)
    assert 'role="alert"' in body_of(reply)
    assert not bath.cook.events.filter(kind="told").exists()
    assert signed_in.post(url, {**said, "from": "check"}).url == reverse("line:check", args=[bath.cook.pk])


def test_off_the_heat_and_back_is_told_once_each_and_makes_it_later(bath, signed_in):
    bath.at(900.0)
    plain = bath.forecast().p50_s
    bath.tell(signed_in, what="resumed")  # it was not off
    bath.tell(signed_in, what="interrupted")
    bath.tell(signed_in, what="interrupted")
    assert open_ends(bath.fresh()) == {"interrupted"}
    page = body_of(signed_in.get(reverse("line:check", args=[bath.cook.pk])))
    assert "Back on the heat" in page
    assert "Off the heat" in page
    bath.at(1400.0, until=900.5)
    bath.tell(signed_in, what="resumed")
    kinds = [event.kind for event in track_events(queries.status_of(bath.fresh()))]
    assert kinds == ["started", "interrupted", "resumed"]
    assert bath.forecast().p50_s > plain + 200


def test_another_kitchen_cannot_tell_or_see(bath, client, stranger):
    client.force_login(stranger)
    assert bath.tell(client, what="interrupted").status_code == 404
    assert not bath.cook.events.filter(kind="told").exists()
    bath.at(600.0).forecast()
    assert "Strip for the watch" not in body_of(client.get(reverse("line:board"), headers={"HX-Request": "true"}))


def test_a_finished_cook_shows_how_the_prediction_moved(bath, client, chef):
    for share in (0.3, 0.5, 0.7):
        bath.at(share * bath.true_s)
        bath.forecast()
    status = queries.status_of(bath.fresh())
    moved = forecasts_moved(status)
    assert moved.middle.startswith("M")
    assert moved.actual_y is None
    assert cook_chart(status).tints  # the fan is on the cook's own picture
    actions.do_step(bath.fresh(), chef, status.pull_step.number, uuid.uuid4(), status.steps)
    actions.finish(bath.fresh(), chef)
    assert forecasts_moved(queries.status_of(bath.fresh())).actual_y is not None
    client.force_login(chef)
    assert "Forecast history" in body_of(client.get(reverse("logbook:record", args=[bath.cook.pk])))
    assert bath.forecast() is None  # nothing is predicted of what is over


def test_an_event_asks_for_a_forecast_at_once_and_only_once(bath, django_capture_on_commit_callbacks):
    with django_capture_on_commit_callbacks(execute=True):
        reading_actions.type_reading(bath.fresh(), bath.chef, 20.0)
        actions.tell(bath.fresh(), bath.chef, "interrupted", uuid.uuid4(), 0)
    jobs = ProcrastinateJob.objects.filter(task_name__endswith="refresh_cook", args__cook_id=str(bath.cook.pk))
    assert jobs.count() == 1
    tasks.refresh_cook(str(bath.cook.pk))
    assert bath.cook.forecasts.count() == 1
    tasks.refresh_cook(str(uuid.uuid4()))  # gone meanwhile


def test_the_sweep_takes_what_is_old_and_leaves_what_is_fresh(bath):
    bath.at(600.0)
    assert [cook.pk for cook in forecasting.due_cooks()] == [bath.cook.pk]
    tasks.sweep(0)
    assert bath.cook.forecasts.count() == 1
    tasks.sweep(0)
    assert bath.cook.forecasts.count() == 1
    Forecast.objects.update(made_at=timezone.now() - dt.timedelta(seconds=forecasting.EVERY_S + 1))
    tasks.sweep(0)
    assert bath.cook.forecasts.count() == 2


def test_long_logs_are_thinned_but_not_their_last_minutes():
    readings = [(float(s), 20.0) for s in range(20_000)]
    kept = forecasting.thinned(readings)
    assert len(kept) < 7000
    assert kept[-1200:] == readings[-1200:]
    assert kept[0] == readings[0]


def many(kitchen, chef, plan, count):
    cook = starting.start(plan, chef)
    rest = Cook.objects.bulk_create(
        Cook(
            kitchen=kitchen,
            name=f"Piece {i}",
            document=cook.document,
            result=cook.result,
            started_at=cook.started_at,
            started_by=chef,
        )
        for i in range(count - 1)
    )
    CookEvent.objects.bulk_create(
        CookEvent(cook=each, kind="started", step=0, at=each.started_at, by=chef) for each in rest
    )


def test_of_very_many_cooks_those_that_need_a_hand_get_a_lane(
    kitchen, chef, plan, signed_in, django_assert_max_num_queries
):
    many(kitchen, chef, plan, MOST_LANES + 6)
    with django_assert_max_num_queries(70):  # the first time reads each plan once
        found = board(kitchen)
    assert len(found["lanes"]) == MOST_LANES
    assert found["more_lanes"] == 6
    with django_assert_max_num_queries(20):
        board(kitchen)
    assert "6 more cooks" in body_of(signed_in.get(reverse("line:board")))
    assert body_of(signed_in.get(reverse("line:board") + "?all=1")).count('<article class="lane') == MOST_LANES + 6


def test_screens_share_a_rendering_but_not_a_form_token(bath, client, chef, cook_person):
    shared_board.forget(bath.cook.kitchen.pk)
    pages = []
    for person in (chef, cook_person):
        client.force_login(person)
        pages.append(client.get(reverse("line:board"), headers={"HX-Request": "true"}).content.decode())
    tokens = [page.split('name="csrfmiddlewaretoken" value="')[1].split('"')[0] for page in pages]
    assert tokens[0] != tokens[1]
    assert all(len(token) == 64 for token in tokens)
    assert pages[0].replace(tokens[0], "") == pages[1].replace(tokens[1], "")


BY_THE_DEGREE = [
    (Belief(what="cooler", amount=-1.5, text="The bath runs about 1.5 °C cool: 55.0 instead of 56.5", stated_c=56.5),
     "The bath runs about 2.7 °F cool: 131 instead of 134"),
    (Belief(what="hotter", amount=10.0, text="The oven runs about 10 °C hot: 190 instead of 180"),
     "The oven runs about 18 °F hot"),
    (Belief(what="thicker", amount=5.08, text="The piece is thicker than planned by about 5 mm"),
     "The piece is thicker than planned by about 0.2 in"),
    (Belief(what="colder-start", amount=-2.0, text="The piece started colder than planned, at about 3 °C",
             stated_c=5.0),
     "The piece started colder than planned, by about 3.6 °F"),
    (Belief(what="less-heat", amount=0.8, text="Less heat, about 80 %, as if the oven ran 20 °C cool",
            as_if_k=-20.0), "Less heat, about 80 %, as if the oven ran 36 °F cool"),
    (Belief(what="more-heat", amount=1.5, text="It takes heat faster than planned: the pan covers more"),
     "It takes heat faster than planned: the pan covers more"),
]  # fmt: skip


@pytest.mark.parametrize(("belief", "words"), BY_THE_DEGREE)
def test_a_difference_is_told_in_the_persons_units_as_a_difference(belief, words):
    assert belief_words(belief, Units("F", "in", "lb")) == words
    assert belief_words(belief, Units()) == belief.text


def test_a_slow_board_is_rendered_beside_the_requests(bath, signed_in, monkeypatch):
    beside = []

    class Later:
        def submit(self, *call):
            beside.append(call)

    def look():
        return body_of(signed_in.get(reverse("line:board"), headers={"HX-Request": "true"}))

    shared_board.forget(bath.cook.kitchen.pk)
    monkeypatch.setattr(shared_board, "_renderer", Later())
    monkeypatch.setattr(shared_board.connection, "close", lambda: None)
    look()
    key = next(key for key in shared_board._boards if key[0] == bath.cook.kitchen.pk)
    made = shared_board._boards[key]
    old = shared_board._Board(made.made - shared_board.FRESH_S - 1, 1.0, made.text.replace("Strip", "Slab"))
    shared_board._boards[key] = old
    assert "Slab for the watch" in look()  # the one before, while
    assert "Slab for the watch" in look()
    assert len(beside) == 1  # one makes the next
    render, *arguments = beside[0]
    render(*arguments)
    assert "Strip for the watch" in look()
    shared_board._boards[key] = shared_board._Board(old.made - shared_board.OLDEST_S, 1.0, old.text)
    assert "Strip for the watch" in look()  # too old to be shown: this one waits


def test_the_board_says_how_old_its_forecasts_are(client, chef, bath):
    forecasting.refresh(bath.cook)
    client.force_login(chef)
    assert "old</span>" not in body_of(client.get(reverse("line:board")))
    Forecast.objects.filter(cook=bath.cook).update(made_at=timezone.now() - dt.timedelta(seconds=170))
    assert "forecasts 3 min old" in body_of(client.get(reverse("line:board")))
