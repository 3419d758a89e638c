"""The whole way by keys alone: a plan, the line, the check, the signature, the report. Focus is seen, and never under
the rail.
"""

from __future__ import annotations

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person
from kitchen.demo.kitchen import PASSWORD
from kitchen.line.models import Cook
from kitchen.plans.actions import create

from .looking import enter

PLAN = {
    "format": "open-ember/plan", "version": 1, "name": "Keyboard cod", "standard": "us-food-code-2022",
    "piece": {"cut": "cod/fillet", "shape": {"kind": "slab", "thickness_mm": 28}, "mass_g": 160, "start_c": 4},
    "target": {"core_c": 64.0},
    "stages": [
        {"kind": "oven", "air_c": 170, "mode": "fan", "until": {"core_c": 64.0}}, {"kind": "rest", "minutes": 2},
    ],
}  # fmt: skip
MOST_TABS = 160
HIDDEN_UNDER = """const e = document.activeElement, r = e.getBoundingClientRect();
const rail = document.querySelector('.rail')?.getBoundingClientRect();
const inRail = e.closest('.rail');
return [r.height > 0, !inRail && rail && r.bottom > rail.top + 1 && r.top < rail.bottom,
        getComputedStyle(e).outlineStyle !== 'none' || e.matches('.svc-lane-bar, [type=hidden]') ||
        getComputedStyle(e).boxShadow !== 'none'];"""


def keys(browser, *pressed):
    """Press keys, whatever has the focus."""
    ActionChains(browser.driver).send_keys(*pressed).perform()


def tab_to(browser, css):
    """Go by Tab until what has the focus matches; on the way every focus is seen."""
    for _ in range(MOST_TABS):
        keys(browser, Keys.TAB)
        here = browser.driver.execute_script("return document.activeElement.matches(arguments[0])", css)
        shown, hidden, seen = browser.driver.execute_script(HIDDEN_UNDER)
        if here:
            assert shown, css
            assert not hidden, f"{css} is under the rail"
            assert seen, f"the focus on {css} cannot be seen"
            return
    raise AssertionError(f"no key leads to {css}")


def step_asked_for(browser):
    """Which step of which page waits to be done."""
    steps = browser.all(".steps-do [name=step]")
    return browser.driver.current_url, steps[0].get_attribute("value") if steps else None


def step_on(browser):
    """Do the next step by keys, and wait until it is done; one that is far too early asks first."""
    before = step_asked_for(browser)
    asks = bool(browser.all("summary#steps-next"))
    tab_to(browser, "#steps-next")
    keys(browser, Keys.ENTER)
    if asks:
        tab_to(browser, ".action-asks button[value=done]")
        keys(browser, Keys.ENTER)
    browser.until(lambda: step_asked_for(browser) != before)
    browser.settle()


def test_by_keys_alone_from_the_plan_to_the_report(browser, live_server, demo):
    url = live_server.url
    browser.size(1280, 800)
    kitchen, runa = Kitchen.objects.get(place="Galley"), Person.objects.get(username="runa")
    plan = create(kitchen, runa, parse_plan(PLAN), [])
    enter(browser, url, "runa")
    browser.open(f"{url}/plans/?q=Keyboard")
    browser.settle()
    tab_to(browser, f'a[href="/plans/{plan.pk}/"]')
    keys(browser, Keys.ENTER)
    browser.until(lambda: browser.all("#bench"))
    browser.settle()
    tab_to(browser, ".acts .act:not(.act-line)")
    keys(browser, Keys.ENTER)
    browser.until(lambda: Cook.objects.filter(name="Keyboard cod").exists())
    cook = Cook.objects.get(name="Keyboard cod")
    browser.until(lambda: "/line/" in browser.driver.current_url)
    browser.settle()
    assert "Keyboard cod" in browser.find("#announcer").get_attribute("textContent")  # said to who does not see it
    if "/steps/" not in browser.driver.current_url:
        tab_to(browser, f'a[href="/line/{cook.pk}/steps/"]')
        keys(browser, Keys.ENTER)
        browser.until(lambda: browser.all("#steps-next"))
        browser.settle()
    for _ in range(8):
        if "/check/" in browser.driver.current_url:
            break
        step_on(browser)
    browser.until(lambda: browser.all("#check-core_c"))
    tab_to(browser, "#check-core_c")
    keys(browser, "64.5")
    tab_to(browser, "button[value=finish]")
    keys(browser, Keys.ENTER)
    browser.until(lambda: f"/log/{cook.pk}" in browser.driver.current_url)
    browser.settle()
    tab_to(browser, "#note")
    keys(browser, "Held at heat until the second needle read 64.")
    tab_to(browser, "form.note button")
    keys(browser, Keys.ENTER)
    browser.until(lambda: "second needle" in browser.text(".log-record"))
    tab_to(browser, "#own-sign")
    keys(browser, PASSWORD, Keys.ENTER)
    browser.until(lambda: "by password" in browser.text(".log-record"))
    keys(browser, "/")  # the search, by its key
    browser.until(lambda: browser.all("dialog[open] #find-q"))
    keys(browser, "report")
    browser.until(lambda: browser.all('#find-results a[href="/book/report/"]'))
    keys(browser, Keys.ESCAPE)  # closes
    browser.until(lambda: not browser.all("dialog[open]"))
    keys(browser, "/")
    browser.until(lambda: browser.all("dialog[open] #find-q"))
    keys(browser, "report")
    browser.until(lambda: browser.all('#find-results a[href="/book/report/"]'))
    tab_to(browser, '#find-results a[href="/book/report/"]')
    keys(browser, Keys.ENTER)
    browser.until(lambda: "/book/report/" in browser.driver.current_url)
    assert "Keyboard cod" in browser.text("main")
