"""A board that draws itself anew while a finger is down: the tap is never swallowed, and nothing stale covers it."""

from __future__ import annotations

import time

import pytest
from selenium.webdriver import ActionChains

from kitchen.accounts.models import Person
from kitchen.demo.kitchen import PASSWORD
from kitchen.line.models import CookEvent
from kitchen.line.starting import start
from kitchen.plans.models import Plan

from .looking import enter, press, type_into

COUNT_SWAPS = "window.swaps = 0; document.addEventListener('htmx:afterSwap', () => { window.swaps += 1; });"


# Held for long a button opens its menu; a board that was just drawn anew would say so again.
NO_MENU = """
addEventListener("pointerdown", (event) => { delete event.target.closest("[data-hold]")?.dataset.hold; }, true);
"""


@pytest.fixture
def two_cooks(demo):
    """Two pieces on the line, each with a hand in the queue."""
    tobin = Person.objects.get(username="tobin")
    return [
        start(Plan.objects.get(kitchen=demo, name=name), tobin)
        for name in ("Turkey for the long crossing", "Ham, simmered then glazed")
    ]


def swaps(browser):
    return browser.driver.execute_script("return window.swaps")


def tapped():
    return CookEvent.objects.filter(kind=CookEvent.Kind.DONE).count()


def test_a_board_waits_while_a_finger_is_down_and_takes_the_tap(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    browser.driver.execute_script(COUNT_SWAPS)
    browser.until(lambda: swaps(browser) >= 2)

    browser.driver.execute_script(NO_MENU)
    button = browser.find("#first-done")
    browser.driver.execute_script("arguments[0].scrollIntoView({block: 'center', behavior: 'instant'})", button)
    already = tapped()
    ActionChains(browser.driver).click_and_hold(button).perform()
    before = swaps(browser)
    time.sleep(5.0)  # two looks and a half
    assert swaps(browser) == before
    ActionChains(browser.driver).release().perform()
    browser.until(lambda: tapped() == already + 1)
    browser.until(lambda: swaps(browser) > before)


def test_a_key_that_never_comes_up_does_not_stop_the_board(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    browser.driver.execute_script(COUNT_SWAPS)
    browser.driver.execute_script("document.dispatchEvent(new KeyboardEvent('keydown', {key: 'Shift'}))")
    time.sleep(4.0)
    assert swaps(browser) == 0
    browser.until(lambda: swaps(browser) > 0)


def test_a_button_keeps_the_focus_while_the_page_draws_itself(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/{two_cooks[0].pk}/steps/")
    browser.settle()
    focus = "const e = document.querySelector(\"button[value='skip']\"); e.focus({focusVisible: true}); return e.id"
    assert browser.driver.execute_script(focus) == ""  # one without an id
    has_it = "return document.activeElement.value"
    browser.driver.execute_script(COUNT_SWAPS)
    browser.until(lambda: swaps(browser) >= 2)
    assert browser.driver.execute_script(has_it) == "skip"
    browser.driver.execute_script("document.dispatchEvent(new KeyboardEvent('keydown', {key: 'Shift'}))")
    time.sleep(4.0)  # a look or two is held back
    assert browser.driver.execute_script(has_it) == "skip"


def test_a_look_asked_for_before_a_tap_never_covers_it(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    # A look whose answer is held back until the tap is through.
    browser.driver.execute_script(
        """
        window.stale = null;
        document.addEventListener('htmx:beforeSwap', (event) => {
          if (window.stale === null && event.detail.requestConfig.verb === 'get') {
            window.stale = event.detail; event.detail.shouldSwap = false;
          }
        }, true);
        """
    )
    browser.until(lambda: browser.driver.execute_script("return window.stale !== null"))
    first = browser.text(".action-first h3")
    already = tapped()
    button = browser.find("#first-done")
    button.click()
    browser.until(lambda: tapped() == already + 1)
    browser.until(lambda: browser.text(".action-first h3") != first)
    swapped = browser.driver.execute_script(
        """
        const event = new CustomEvent('htmx:beforeSwap', {bubbles: true, detail: {...window.stale, shouldSwap: true}});
        document.body.dispatchEvent(event);
        return event.detail.shouldSwap;
        """
    )
    assert swapped is False


def test_a_tap_while_a_look_is_on_its_way_is_not_dropped(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    # A server that is slow to show the board: every look takes two seconds, a tap does not.
    browser.driver.execute_script(
        """
        window.looking = 0;
        const send = XMLHttpRequest.prototype.send, open = XMLHttpRequest.prototype.open;
        XMLHttpRequest.prototype.open = function (verb, ...rest) {
          this.isLook = verb.toLowerCase() === 'get';
          open.call(this, verb, ...rest);
        };
        XMLHttpRequest.prototype.send = function (body) {
          if (!this.isLook) { send.call(this, body); return; }
          window.looking += 1;
          setTimeout(() => { window.looking -= 1; send.call(this, body); }, 2000);
        };
        """
    )
    browser.until(lambda: browser.driver.execute_script("return window.looking") > 0)
    already = tapped()
    browser.find("#first-done").click()
    browser.until(lambda: tapped() == already + 1, 10)


def test_a_session_that_ends_leaves_the_board_and_takes_the_next_tap(browser, live_server, two_cooks):
    from django.contrib.sessions.models import Session

    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    Session.objects.all().delete()
    browser.until(lambda: browser.all("#signed-out[open]"))
    assert browser.all("#board .action-first")
    browser.find("#signed-out [name=username]").send_keys("tobin")
    browser.find("#signed-out [name=password]").send_keys(PASSWORD)
    browser.find("#signed-out .act").click()
    browser.until(lambda: not browser.all("#signed-out"))
    already = tapped()
    press(browser, "#first-done")
    browser.until(lambda: tapped() == already + 1)
    browser.console()  # the refused looks, which were meant


def test_what_was_typed_stays_and_a_refusal_can_be_read(browser, live_server, two_cooks):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    browser.driver.execute_script(COUNT_SWAPS)
    field = ".type-reading input[name=celsius]"
    browser.find(field).send_keys("999")
    browser.driver.execute_script("document.activeElement.blur()")
    browser.until(lambda: swaps(browser) >= 2)  # the board was drawn anew meanwhile
    assert browser.find(field).get_attribute("value") == "999"
    press(browser, ".type-reading button")
    browser.until(lambda: browser.all("#board .problem-wide"))
    refused = swaps(browser)
    browser.until(lambda: swaps(browser) >= refused + 2)
    assert "300" in browser.text("#board .problem-wide")
    assert browser.find(field).get_attribute("value") == "999"
    type_into(browser, field, "21")
    press(browser, ".type-reading button")
    browser.until(lambda: not browser.all("#board .problem-wide"))
    assert browser.find(field).get_attribute("value") == ""
