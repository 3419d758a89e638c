"""Eggs as a cook meets them: the bench by tap and by typing, and one poaching with wet hands to the log."""

from __future__ import annotations

import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from kitchen.line.models import Cook, CookEvent

from .looking import enter, press, serious, type_into, whole_and_accessible

METHODS = (
    "boil", "steam", "circulator", "poach", "scramble", "omelette", "emulsion", "pasta", "custard", "stirred",
)  # fmt: skip


@pytest.fixture
def bench(browser, live_server, demo):
    """The egg bench with boiled eggs."""
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/eggs/boil/")
    browser.settle()
    return browser


def done_count():
    """How many steps of eggs were done: the demonstration's past cooks have some of their own."""
    return CookEvent.objects.filter(kind="done", cook__kind="eggs").count()


def number(browser):
    """The number to act on."""
    return browser.find(".desk-number").get_attribute("value")


def test_a_word_an_egg_and_a_mass_move_the_lift(bench):
    jammy = number(bench)
    press(bench, ".egg-word-fudgy")
    bench.until(lambda: bench.text(".desk-word") == "Fudgy")
    assert number(bench) > jammy
    bench.until(lambda: f"What moves {number(bench)}" in bench.text("#egg-moves"))
    assert "target=fudgy" in bench.driver.current_url
    press(bench, '.egg-cut[value="6"]')
    bench.until(lambda: number(bench) == "6:00")
    type_into(bench, "#egg-mass", "75")
    press(bench, ".egg-word-jammy")
    bench.until(lambda: bench.text(".desk-word") == "Jammy" and number(bench) > jammy)
    bench.driver.refresh()
    bench.settle()
    assert bench.find("#egg-mass").get_attribute("value") == "75", "the address keeps it all"
    assert bench.console() == []


def over(browser, text, key):
    """Type over the number as a hand does: all of it marked, typed over, and left by a key."""
    field = browser.find("#egg-minutes")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text, key)


def test_the_number_itself_is_typed_over(bench):
    over(bench, "5:30", Keys.TAB)
    bench.until(lambda: bench.text(".egg-mark b") == "Lift 5:30")
    assert bench.text(".desk-word") == "Runny"
    over(bench, "9:10", Keys.ENTER)
    bench.until(lambda: bench.text(".egg-mark b") == "Lift 9:10")
    over(bench, "soon", Keys.TAB)
    bench.until(lambda: bench.all(".desk-work .problem"))
    assert bench.find("#egg-minutes").get_attribute("value") == "soon", "nothing is lost"
    over(bench, "6", Keys.TAB)
    bench.until(lambda: bench.text(".egg-mark b") == "Lift 6:00")


def test_every_way_with_eggs_is_whole_and_accessible(bench, live_server):
    whole_and_accessible(bench, live_server.url, [f"/eggs/{method}/" for method in METHODS])


def test_one_poaching_from_the_bench_to_the_log_with_wet_hands(bench, live_server):
    bench.open(f"{live_server.url}/eggs/poach/?school=dragged&water=92&kind=hen&mass=60&count=2&start=5&after=ice_bath"
               "&target=clock&minutes=0:40&name=Pilot%27s+eggs")  # fmt: skip
    bench.settle()
    press(bench, ".desk-send .act")
    bench.until(lambda: "tick the consumer advisory" in bench.text("body"))
    press(bench, '.desk-advisory input[type="checkbox"]')
    bench.settle()
    press(bench, ".desk-send .act")
    bench.until(lambda: "/line/" in bench.driver.current_url)
    bench.size(820, 1180)
    try:
        bench.settle()
        assert "Drop egg 1" in bench.text(".steps-verb")
        assert serious(bench) == []
        assert bench.driver.execute_script("return document.documentElement.scrollHeight") <= 1180
        ActionChains(bench.driver).send_keys(Keys.SPACE).perform()  # a key, an elbow on the keyboard
        bench.until(lambda: "Drop egg 2" in bench.text(".steps-verb") or "Lift egg 1" in bench.text(".steps-verb"))
        press(bench, "#steps-next")
        bench.until(lambda: done_count() == 2)
        bench.until(lambda: "Lift egg" in bench.text(".steps-verb"))
        due = int(bench.find(".steps-count").get_attribute("data-due"))
        press(bench, ".steps-more")
        bench.until(lambda: int(bench.find(".steps-count").get_attribute("data-due")) == due + 15_000)
        press(bench, ".steps-checks button")
        bench.until(lambda: CookEvent.objects.filter(kind="checked", cook__kind="eggs").exists())
        # The rail lets nobody go by a slip of a wet finger.
        bench.find(".rail-words a").click()
        time.sleep(0.4)
        assert "/line/" in bench.driver.current_url
        while bench.all("#steps-next") and "Finish" not in bench.text("#steps-next"):
            before = done_count()
            press(bench, "#steps-next")
            if bench.all(".action-ask[open]"):  # far too early for a real egg: said once more
                press(bench, '.action-asks button[value="done"]')
            bench.until(lambda n=before: done_count() > n)
            bench.settle()
        press(bench, "#steps-next")
        bench.until(lambda: "/log/" in bench.driver.current_url)
    finally:
        bench.size(1280, 800)
    bench.settle()
    cook = Cook.objects.get(name="Pilot's eggs")
    assert cook.finished_at is not None
    page = bench.text(".log-record")
    assert "Lift egg 1" in page
    assert "Served on advisory" in page
    assert bench.console() == []
