"""The forecast as a cook meets it: a needle that slides told and mended, a cool oven told, a late cook replanned."""

from __future__ import annotations

import time

import pytest

from ember.files.plan import parse_plan
from kitchen.accounts.models import Person
from kitchen.kit.models import Probe
from kitchen.line import forecasting, starting
from kitchen.line.models import Cook, CookEvent
from kitchen.plans.actions import create

from .looking import enter, press, serious

ROAST = {
    "format": "open-ember/plan", "version": 1, "name": "Rump for the pilot", "target": {"doneness": "medium-rare"},
    "piece": {"cut": "beef/rump-roast", "shape": {"kind": "cylinder", "diameter_mm": 82}, "start_c": 6},
    "stages": [{"kind": "oven", "air_c": 168, "until": {"core_c": 49}}, {"kind": "rest", "minutes": 15}],
}  # fmt: skip


@pytest.fixture
def roast(demo):
    """A roast in the oven with the needle box in it."""
    person = Person.objects.get(username="tobin")
    plan = create(demo, person, parse_plan(ROAST))
    return starting.start(plan, person, Probe.objects.get(name="Needle box"))


def forecast(cook):
    """What the worker does."""
    return forecasting.refresh(Cook.objects.select_related("kitchen").get(pk=cook.pk))


def shows(browser, cook, words, seconds=60.0):
    """Until the board says so, the worker at work meanwhile."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        forecast(cook)
        time.sleep(1.0)
        if words in browser.text("#board"):
            return
    raise AssertionError(f"“{words}” did not come; the board says:\n{browser.text('#board')}")


def test_a_needle_that_slides_is_told_and_mended(browser, live_server, roast, probe):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    back_in = time.monotonic() + 0.15 * 110 + 3
    probe("--speed", "33", "--every", "0.15", "--fault", "slipped@60-100", "--noise", "0.1")
    shows(browser, roast, "Probe slipped")
    assert "push it back" in browser.text(".trouble")
    assert "estimated" in browser.text(".lane-how")
    assert browser.all(".lane .ring")
    assert serious(browser) == []
    time.sleep(max(back_in - time.monotonic(), 0.0))  # somebody pushes it back, then says so
    forecast(roast)
    press(browser, ".trouble .act")
    browser.until(lambda: not browser.all(".trouble"))
    told = CookEvent.objects.get(cook=roast, kind=CookEvent.Kind.TOLD)
    assert told.data["what"] == "probe-moved"
    browser.until(lambda: not forecast(roast) or "estimated" not in browser.text(".lane-how"), 40)
    assert not browser.all(".trouble")


def test_a_cool_oven_is_told_and_the_pull_moves_with_it(browser, live_server, roast, probe):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    probe("--speed", "240", "--every", "0.25", "--medium", "-38", "--size", "1.0", "--noise", "0.1")
    shows(browser, roast, "cool")
    assert "as if the oven ran" in browser.text("#board") or "oven runs about" in browser.text("#board")
    assert "±" in browser.text(".lane")
    press(browser, ".lane-name a")
    browser.until(lambda: browser.all(".beliefs li") and browser.all(".record-chart .tint"))
    assert "cool" in browser.text(".beliefs")
    assert "80 % likely" in browser.text(".check")
    assert serious(browser) == []


def test_a_late_roast_is_replanned(browser, live_server, roast, probe):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    device = probe("--speed", "240", "--every", "0.25", "--medium", "0", "--size", "1.14", "--noise", "0.1")
    shows(browser, roast, "B Serve")
    device.terminate()
    before = forecast(roast)
    assert before.late_s > 0
    offer = browser.text(".trouble .act")
    assert offer.startswith("A Set ")
    setting = offer.split(" to ")[1].split("°")[0]
    press(browser, ".trouble .act")
    browser.until(lambda: browser.text(".lane-setting") == f"{setting}°")
    assert not browser.all(".trouble .act")
    after = forecast(roast)
    assert after.late_s < before.late_s
    told = CookEvent.objects.get(cook=roast, kind=CookEvent.Kind.TOLD)
    assert told.data["c"] == float(setting)
