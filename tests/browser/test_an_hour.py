"""An hour's service on two tablets, one of them without the server for ten minutes, a reload and a new battery."""

from __future__ import annotations

import datetime as dt
import time

from selenium.common.exceptions import WebDriverException

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person
from kitchen.line import actions
from kitchen.line.models import Cook, CookEvent
from kitchen.line.starting import start
from kitchen.plans.actions import create

from .chromium import Browser
from .looking import enter
from .proxy import Wifi
from .test_offline import PLAN

RATE = 100.0  # an hour of the kitchen in thirty-six seconds
HOUR_S, CUT_S, RELOAD_S, BATTERY_S, MEND_S = 36.0, 10.0, 12.0, 13.0, 16.0
NAMES = ("Ling", "Hake", "Bream", "Turbot", "Wrasse", "Gurnard")

# The first action that is due of the cooks a tablet looks after.
TAP = """
const mine = arguments[0];
for (const card of document.querySelectorAll(".action[data-cook]")) {
  const button = card.querySelector(".action-acts form button");
  if (!mine.includes(card.dataset.cook) || !button || button.disabled || button.closest("details")) continue;
  if (!card.classList.contains("action-due")) continue;
  const said = card.dataset.action;
  button.click();
  return said;
}
return null;
"""

# Whether the page with a cook's name is kept for when there is no server.
KEPT = """
const [name, done] = arguments;
(async () => {
  const kept = await caches.match(location.href, { ignoreVary: true });
  done(Boolean(kept) && (await kept.text()).includes(name));
})();
"""


def begin() -> list[Cook]:
    """Six cooks whose steps fall due all through the hour, which begins now."""
    kitchen = Kitchen.objects.get(is_demo=True)
    runa, now = Person.objects.get(username="runa"), kitchen.now()
    for other in Cook.objects.filter(finished_at=None):
        actions.finish(other, runa, "for the test")
    plans = []
    for i, name in enumerate(NAMES):
        stages = [
            {"kind": "bath", "water_c": 57.0, "minutes": 8.0 + 4.0 * i},
            {"kind": "pan", "pan_c": 200.0, "seconds_a_side": 180.0, "sides": 2},
            {"kind": "rest", "air_c": 22.0, "minutes": 6.0},
        ]
        plans.append(create(kitchen, runa, parse_plan({**PLAN, "name": name, "stages": stages}), []))
    kitchen.clock_showed, kitchen.clock_set_at, kitchen.clock_rate = now, dt.datetime.now(dt.UTC), RATE
    kitchen.save()
    return [start(plan, runa) for plan in plans]


def at_the_line(browser, url, name):
    browser.size(820, 1180)
    enter(browser, url, name)
    browser.open(f"{url}/line/")
    browser.settle()
    browser.until(lambda: browser.driver.execute_script("return Boolean(navigator.serviceWorker.controller)"))


def tap(browser, cooks, taps):
    """Tap what is due; a page that is just loading has nothing to tap yet."""
    try:
        said = browser.driver.execute_script(TAP, [str(cook.pk) for cook in cooks])
    except WebDriverException:
        return
    if said:
        taps.append(said)


def test_an_hour_on_two_tablets_one_of_them_away_for_ten_minutes(live_server, demo):
    mine: list[str] = []
    theirs: list[str] = []
    with Wifi(live_server.url) as wifi, Browser() as away, Browser() as there:
        at_the_line(away, wifi.url, "runa")
        at_the_line(there, live_server.url, "tobin")
        cooks = begin()
        for browser in (away, there):
            browser.driver.refresh()
            browser.settle()
        away.until(lambda: away.driver.execute_async_script(KEPT, NAMES[-1]))

        def waits():
            return bool(away.all("#taps .tap-waiting"))

        began, gone = time.monotonic(), []
        while (spent := time.monotonic() - began) < HOUR_S or gone[:1] != ["back"]:
            assert spent < 4 * HOUR_S, f"nothing fell due while it was away ({gone}): {away.text('body')[:900]}"
            if spent > CUT_S and not gone:
                wifi.cut()
                gone = ["cut"]
            if spent > RELOAD_S and gone[:1] == ["cut"]:
                away.driver.refresh()
                gone[0] = "loaded"
            if spent > BATTERY_S and gone[:1] == ["loaded"]:
                away.change_battery()
                away.size(820, 1180)
                away.driver.get(f"{wifi.url}/line/")
                gone[0] = "charged"
            if spent > MEND_S and gone[:1] == ["charged"] and waits():  # a slow machine takes longer to tap
                wifi.mend()
                gone[0] = "back"
            tap(away, cooks[2:], mine)
            tap(there, cooks[:4], theirs)  # two cooks are looked after by both
            time.sleep(0.3)
        away.until(lambda: away.all('body[data-unanswered="0"]'))
    assert mine
    assert theirs
    done = set()
    for cook in cooks:
        events = list(CookEvent.objects.filter(cook=cook, kind="done"))
        assert len({event.step for event in events}) == len(events), "a step was done twice"
        done |= {f"{cook.pk}:{event.step}" for event in events}
    assert {*mine, *theirs} <= done, "a tap was lost"
