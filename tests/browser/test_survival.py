"""What survives: kill -9 of the web server and of PostgreSQL in mid-service, a tablet asleep, a tap repeated."""

from __future__ import annotations

import datetime as dt
import re
import time
import uuid

import pytest

from kitchen.demo.kitchen import PASSWORD
from kitchen.demo.simulated_faults import Sender
from tools.time_bench import BenchForm

from .looking import type_into
from .real import Person, RealServer, api

# The kitchen's time as the page knows it, ms.
KITCHEN_NOW = """
const done = arguments[0];
const { name } = performance.getEntriesByType("resource").find((entry) => /\\/js\\/clock\\.[^/]*js$/.test(entry.name));
import(name).then((clock) => done(clock.kitchenNow()));
"""


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    found = RealServer(tmp_path_factory.mktemp("real"))
    try:
        found.wait()
        yield found
    finally:
        found.stop()


@pytest.fixture(scope="module")
def runa(server):
    return Person(server, "runa", PASSWORD)


def plan_path(person, name):
    links = re.findall(r'<a href="(/plans/[\w-]+/)">([^<]+)</a>', person.get("/plans/"))
    return next(path for path, found in links if found.startswith(name))


def bench_values(person, name):
    """What the bench of a plan would post."""
    form = BenchForm()
    form.feed(person.get(plan_path(person, name)))
    return form.values


def start(person, name, **more):
    """Send a plan to the line as it stands, and put it in."""
    answer = person.post(plan_path(person, name), bench_values(person, name) | {"then": "start"} | more)
    while before := [
        values for words, values in next_actions(person) if name in words and not words.startswith("Pull")
    ]:
        tap(person, before[0])
    return answer


def next_actions(person):
    """What the queue asks for: (verb and what, [values of its tap])."""
    page = person.get("/line/")
    found = []
    for article in page.split("<article data-cook=")[1:]:
        article = article.split("</article>")[0]
        words = re.search(r"<h3>\s*(.*?)\s*</h3>", article, re.S)
        found.append((" ".join(words[1].split()), re.findall(r'name="tap"\s+value="([^"]+)"', article)))
    return found


def tap(person, values):
    return person.post(f"/line/{values[0].split(':')[0]}/do/", {"tap": values})


def test_a_killed_web_server_loses_nothing_and_does_nothing_twice(server, runa):
    start(runa, "Bosun")
    before = next_actions(runa)
    (pull,) = [values for words, values in before if words.startswith("Pull Bosun")]
    tap(runa, pull)
    after = next_actions(runa)
    assert after[0][0].startswith("Dry it")
    assert server.kill_web() >= 3  # the master and its workers
    server.wait()
    assert [words for words, _ in next_actions(runa)] == [words for words, _ in after]
    tap(runa, pull)  # the tablet tries again: it never heard the answer
    assert [words for words, _ in next_actions(runa)] == [words for words, _ in after]


def test_a_killed_database_loses_nothing_that_was_answered(server, runa):
    kept = [words for words, _ in next_actions(runa)]
    (dry,) = [values for words, values in next_actions(runa) if words.startswith("Dry it")]
    tap(runa, dry)
    done = [words for words, _ in next_actions(runa)]
    assert done != kept
    assert server.kill_database() >= 2
    with pytest.raises(OSError, match=r"500|502|503|refused|reset|closed"):
        runa.get("/line/")
    server.wait()
    assert [words for words, _ in next_actions(runa)] == done


def test_a_device_catches_up_after_the_server_was_killed(server, runa):
    class Api:
        def call(self, path, body=None):
            return api(server, path, body)

    sender = Sender(Api())
    sent = []

    def measure(celsius):
        now = dt.datetime.now(dt.UTC)
        sent.append(celsius)
        sender.send([{"probe": "1", "at": now.isoformat(), "celsius": celsius}], now)

    measure(21.25)
    server.kill_web()
    for celsius in (21.5, 21.75, 22.0):
        time.sleep(0.05)
        with pytest.raises(OSError, match=r"refused|reset|closed|50\d"):
            measure(celsius)
    server.wait()
    measure(22.25)
    assert sender.unsent == []
    kept = server.rows(
        "SELECT celsius FROM line_reading WHERE claimed_at > now() - interval '3 minutes' ORDER BY celsius"
    )
    assert [celsius for (celsius,) in kept] == sent  # none lost, none twice


def test_a_killed_server_starts_a_cook_once(server, runa):
    values = bench_values(runa, "Roe loin") | {"then": "start", "start_token": str(uuid.uuid4())}
    runa.post(plan_path(runa, "Roe loin"), values)
    server.kill_web()
    server.wait()
    runa.post(plan_path(runa, "Roe loin"), values)
    assert server.rows("SELECT count(*) FROM line_cook WHERE finished_at IS NULL AND name LIKE 'Roe loin%'") == [(1,)]


def test_the_screen_says_when_it_last_heard_of_the_server(browser, server, runa):
    browser.size(1280, 800)
    browser.sign_in(server.url, "tobin", PASSWORD)
    browser.open(f"{server.url}/line/")
    browser.settle()
    lane = browser.find(".lane input[name=celsius]").get_attribute("id")
    type_into(browser, f"#{lane}", "31")
    server.hold()
    try:
        server.kill_web()
        browser.until(lambda: browser.find("#lost").is_displayed(), 40)
        assert re.search(r"since \d\d:\d\d", browser.text("#lost"))
    finally:
        server.go_on()
    server.wait()
    browser.until(lambda: not browser.find("#lost").is_displayed(), 40)
    assert browser.find(f"#{lane}").get_attribute("value") == "31"  # what was typed is still there
    browser.console()


def test_a_tablet_that_slept_shows_the_kitchens_time_again(browser, server, runa):
    api(server, "clock", {"rate": 60})
    browser.size(820, 1180)
    browser.sign_in(server.url, "tobin", PASSWORD)
    browser.open(f"{server.url}/line/")
    browser.settle()
    browser.driver.execute_cdp_cmd("Page.setWebLifecycleState", {"state": "frozen"})
    time.sleep(10.0)  # ten minutes of the kitchen's
    browser.driver.execute_cdp_cmd("Page.setWebLifecycleState", {"state": "active"})
    browser.until(lambda: browser.all(".action-first"))

    def off_s():
        shown = browser.driver.execute_async_script(KITCHEN_NOW) / 1000
        now = dt.datetime.fromisoformat(api(server, "clock")["now"]).timestamp()
        return abs(shown - now)

    browser.until(lambda: off_s() < 60)  # a second of ours
    api(server, "clock", {"rate": 1})
