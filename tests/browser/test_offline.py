"""A tablet without the server goes on, keeps its taps, and everything counts once when the way is there again."""

from __future__ import annotations

import datetime as dt
import uuid

import pytest

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person
from kitchen.line import actions
from kitchen.line.models import Cook, CookEvent
from kitchen.line.queries import status_of
from kitchen.line.starting import start
from kitchen.line.step_actions import start_steps
from kitchen.plans.actions import create

from .looking import enter, press, type_into
from .proxy import Wifi

PLAN = {
    "format": "open-ember/plan", "version": 1, "name": "Cod cheeks", "standard": "us-food-code-2022",
    "piece": {"cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": 26.0}, "start_c": 5.0},
    "target": {"doneness": "medium-rare"},
    "stages": [
        {"kind": "pan", "pan_c": 200.0, "seconds_a_side": 40.0, "sides": 3},
        {"kind": "rest", "air_c": 22.0, "minutes": 5.0},
    ],
}  # fmt: skip


# The first action's tap, written down on the device as one whose answer never came.
SAVE_FIRST = """
const done = arguments[0], form = document.querySelector(".action-first form");
const body = new URLSearchParams(new FormData(form)).toString();
const { person } = document.body.dataset;
const tap = { url: form.getAttribute("hx-post"), body, at: Date.now(), person, words: "Turn" };
indexedDB.open("ember-taps", 1).onsuccess = (event) => {
  const transaction = event.target.result.transaction("taps", "readwrite");
  transaction.objectStore("taps").add(tap);
  transaction.oncomplete = () => done(body);
};
"""


@pytest.fixture
def wifi(live_server):
    with Wifi(live_server.url) as found:
        yield found


@pytest.fixture
def cook(demo):
    """Nothing but one cook on the line: its first turn is due in forty seconds of the kitchen's."""
    kitchen = Kitchen.objects.get(is_demo=True)
    runa, now = Person.objects.get(username="runa"), kitchen.now()
    for other in Cook.objects.filter(finished_at=None):
        actions.finish(other, runa, "for the test")
    kitchen.clock_showed, kitchen.clock_set_at, kitchen.clock_rate = now, dt.datetime.now(dt.UTC), 1.0
    kitchen.save()
    return start(create(kitchen, runa, parse_plan(PLAN), []), runa)


def is_kept(browser):
    """Whether the page would survive a reload without the server."""
    return browser.driver.execute_async_script(
        "const done = arguments[0];"
        "if (!navigator.serviceWorker.controller) done(false);"
        "else caches.open('ember-pages').then((c) => c.match(location.href)).then((found) => done(Boolean(found)));"
    )


def at_the_line(browser, wifi, cook, name="runa"):
    browser.size(820, 1180)
    enter(browser, wifi.url, name)
    browser.open(f"{wifi.url}/line/")
    browser.settle()
    browser.until(lambda: cook.name in browser.text(".action-first h3"))
    browser.until(lambda: is_kept(browser))


def done_of(cook):
    return list(CookEvent.objects.filter(cook=cook, kind="done").order_by("step"))


def test_taps_without_the_server_wait_outlive_a_reload_and_count_once(browser, wifi, cook):
    at_the_line(browser, wifi, cook)
    wifi.cut()
    tapped = cook.kitchen.now()
    press(browser, "#first-done")
    browser.until(lambda: "waiting to send" in browser.text("#taps"))
    assert "Turn Cod cheeks" in browser.text(".action-first h3")  # the second turn: it goes on
    browser.driver.refresh()
    browser.until(lambda: "waiting to send" in browser.text("#taps"))
    assert "Turn Cod cheeks" in browser.text(".action-first h3")
    press(browser, "#first-done")
    browser.until(lambda: browser.text("#taps").count("waiting to send") == 2)
    assert "Pull Cod cheeks" in browser.text(".action-first h3")
    assert done_of(cook) == []
    wifi.mend()
    browser.until(lambda: browser.text("#taps").count(": done") == 2)
    first, second = done_of(cook)
    assert (first.step, second.step) == (1, 2)
    assert abs((first.at - tapped).total_seconds()) < 3.0
    assert first.at < second.at
    browser.until(lambda: "Pull Cod cheeks" in browser.text(".action-first h3"))
    browser.console()


def test_what_somebody_else_did_meanwhile_is_said(browser, wifi, cook):
    at_the_line(browser, wifi, cook)
    wifi.cut()
    press(browser, "#first-done")
    browser.until(lambda: "waiting to send" in browser.text("#taps"))
    tobin = Person.objects.get(username="tobin")
    actions.do_step(cook, tobin, 1, uuid.uuid4(), status_of(cook).steps)
    wifi.mend()
    browser.until(lambda: f"already done by {tobin}" in browser.text("#taps"))
    assert len(done_of(cook)) == 1
    browser.console()


def test_what_cannot_be_done_any_more_is_refused_with_its_reason(browser, wifi, cook):
    at_the_line(browser, wifi, cook)
    wifi.cut()
    press(browser, "#first-done")
    browser.until(lambda: "waiting to send" in browser.text("#taps"))
    actions.finish(cook, Person.objects.get(username="tobin"), "burnt")
    wifi.mend()
    browser.until(lambda: "refused: This cook is finished." in browser.text("#taps"))
    assert done_of(cook) == []
    browser.console()


def test_the_answer_that_was_lost_does_not_count_twice(browser, wifi, cook):
    """The server did it, the answer never came: the tap is sent again and counts once."""
    at_the_line(browser, wifi, cook)
    saved = browser.driver.execute_async_script(SAVE_FIRST)
    assert "token" in saved
    press(browser, "#first-done")
    browser.until(lambda: len(done_of(cook)) == 1)
    browser.driver.refresh()
    browser.until(lambda: ": done" in browser.text("#taps"))
    assert len(done_of(cook)) == 1
    browser.console()


def test_the_bench_keeps_what_is_typed_until_it_can_save(browser, wifi, cook):
    browser.size(1280, 800)
    enter(browser, wifi.url, "runa")
    browser.open(f"{wifi.url}/plans/{cook.plan_id}/")
    browser.settle()
    wifi.cut()
    field = next(each for each in browser.all("#bench input[name$='-pan_c']"))
    name = field.get_attribute("id")
    type_into(browser, f"#{name}", "213")
    browser.driver.execute_script("document.activeElement.blur()")
    browser.until(lambda: "saved on this device" in browser.text("#bench-kept"))
    wifi.mend()
    browser.open(f"{wifi.url}/plans/{cook.plan_id}/")
    browser.settle()
    browser.until(lambda: "Saved on this device" in browser.text("#bench-kept"))
    press(browser, "#bench-kept .act")
    browser.settle()
    assert browser.find(f"#{name}").get_attribute("value") == "213"
    browser.console()


EGGS = {"format": "open-ember/egg", "version": 1, "method": "boil", "count": 2, "minutes": 6.0}


def test_the_steps_of_eggs_go_on_without_the_server(browser, wifi, cook):
    kitchen = Kitchen.objects.get(is_demo=True)
    eggs = start_steps(kitchen, Person.objects.get(username="runa"), "Mess eggs", EGGS, uuid.uuid4())
    browser.size(820, 1180)
    enter(browser, wifi.url, "runa")
    browser.open(f"{wifi.url}/line/{eggs.pk}/steps/")
    browser.settle()
    browser.until(lambda: is_kept(browser))
    steps = [f"{step['verb']} {step['what']}" for step in eggs.result["steps"]]
    assert browser.text(".steps-verb") == steps[0]
    wifi.cut()
    press(browser, "#steps-next")
    browser.until(lambda: browser.text(".steps-verb") == steps[1])
    browser.driver.refresh()
    browser.until(lambda: browser.text(".steps-verb") == steps[1])
    assert browser.text("#taps").count("waiting to send") == 1
    wifi.mend()
    browser.until(lambda: ": done" in browser.text("#taps"))
    browser.until(lambda: browser.text(".steps-verb") == steps[1])
    assert [event.step for event in done_of(eggs)] == [0]
    browser.console()


def test_the_pan_goes_round_without_the_server(browser, wifi, cook):
    browser.size(1280, 800)
    enter(browser, wifi.url, "runa")
    plan = {**PLAN, "piece": {**PLAN["piece"], "count": 2}, "name": "Two in a pan"}
    runa = Person.objects.get(username="runa")
    two = start(create(cook.kitchen, runa, parse_plan(plan), []), runa)
    browser.open(f"{wifi.url}/line/{two.pk}/pan/0/")
    browser.settle()
    browser.until(lambda: is_kept(browser))
    wifi.cut()
    said = []
    for _ in range(3):
        said.append(browser.text("#pan-tap"))
        before = browser.find(".pan-act input[name=token]").get_attribute("value")
        press(browser, "#pan-tap")
        browser.until(lambda was=before: browser.find(".pan-act input[name=token]").get_attribute("value") != was)
    assert said == ["Laid 1", "Laid 2", "Turned 1"]
    wifi.mend()
    browser.until(lambda: browser.text("#taps").count(": done") == 3)
    kept = [(e.data["piece"], e.data["did"]) for e in CookEvent.objects.filter(cook=two, kind="piece").order_by("id")]
    assert kept == [(1, "lay"), (2, "lay"), (1, "turn")]
    browser.console()
