"""Practice and what is learned as people meet them: a call from the line, a drill to its cut, a proposal accepted."""

from __future__ import annotations

import datetime as dt

from selenium.webdriver.common.action_chains import ActionChains

from kitchen.accounts.models import Kitchen, Person
from kitchen.demo.practice import add_practice
from kitchen.demo.weeks import add_weeks
from kitchen.kit.models import Probe, Taught
from kitchen.learning.models import Study
from kitchen.learning.tasks import make_study
from kitchen.line.models import Reading
from kitchen.line.starting import start
from kitchen.plans.models import Plan
from kitchen.practice.models import Call, Drill

from .looking import enter, press, whole, whole_and_accessible


def people():
    return {person.username: person for person in Person.objects.all()}


def running_cook():
    """A cook of the strip with the needle box in it, which shows 52.4."""
    needle = Probe.objects.get(name="Needle box")
    cook = start(Plan.objects.get(name__startswith="Bosun"), Person.objects.get(username="tobin"), needle)
    at = cook.started_at + dt.timedelta(milliseconds=20)
    Reading.objects.create(kitchen=cook.kitchen, probe=needle, at=at, claimed_at=at, celsius=52.4)
    return cook


def test_two_taps_from_the_line_then_the_probe_speaks(browser, live_server, demo):
    running_cook()
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    press(browser, ".lane-acts a[href*='/practice/']")  # one
    browser.until(lambda: "The probe reading is hidden" in browser.text(".call-covered"))
    assert "52.4" not in browser.text("main")
    press(browser, ".call-word[value='medium']")  # two
    browser.until(lambda: "The probe reads" in browser.text(".called"))
    call = Call.objects.get()
    assert (call.sense, call.read_c) == ("press", 52.4)
    assert "called too high" in browser.text(".called-off")
    whole(browser, "called")


def test_a_drill_is_cooked_pulled_and_cut(browser, live_server, demo):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/practice/drills/")
    browser.settle()
    browser.find(".drill-row input[name='seed']").send_keys("7")
    press(browser, ".drill-row .drill-levels button")
    browser.until(lambda: "Wait, then look" in browser.text("#drill"))

    def do(what, then):
        browser.settle()
        press(browser, f"button[value='{what}']")
        browser.until(lambda: then in browser.text("#drill"))

    do("wait:60", "1:00")
    do("turn", "You hear")
    do("wait:300", "6:00")
    do("pin", "Cake tester on the lip")
    whole(browser, "drill")
    do("rest", "resting")
    do("wait:300", "11:06")
    do("cut", "of 100")
    drill = Drill.objects.get()
    assert str(drill.score) in browser.text(".drill-score")
    assert "The real piece was" in browser.text("#drill")
    assert "earlier:" in browser.text("#drill")
    whole(browser, "drill over")


def test_pieces_are_laid_and_turned_in_order(browser, live_server, demo):
    enter(browser, live_server.url, "tobin")
    browser.open(f"{live_server.url}/practice/drills/")
    browser.settle()
    press(browser, "input[value='lay'] ~ .drill-levels button")
    browser.until(lambda: len(browser.all(".lay-place")) == 4)
    whole(browser, "order in the pan")
    for _ in range(3):
        for number in range(4):
            ActionChains(browser.driver).click(browser.find(f"[data-place='{number}']")).perform()
    browser.until(lambda: "of 100" in browser.text("main"))
    assert "In order" in browser.text(".drill-word")


def test_a_proposal_is_looked_at_accepted_and_used(browser, live_server, demo):
    kitchen = Kitchen.objects.get(is_demo=True)
    plans = {plan.name: plan for plan in Plan.objects.all()}
    add_weeks(kitchen, people(), Probe.objects.get(name="Needle box"), plans, weeks=3)
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/learned/")
    press(browser, ".learn-ask button")
    browser.until(lambda: "Waiting to start" in browser.text("#study"))
    make_study(str(Study.objects.get().pk))
    browser.until(lambda: "Oven 1 runs" in browser.text("#study"))
    assert "not enough data" in browser.text("#study").lower()
    whole(browser, "learned")
    press(browser, ".learned .act")
    browser.until(lambda: "In use" in browser.text("#study"))
    taught = Taught.objects.get()
    assert taught.low < -9.0 < taught.high
    cook = start(plans["Chicken breast for the crossing"], people()["tobin"])
    oven = next(stage for stage in cook.document["stages"] if stage["kind"] == "oven")
    assert oven["offset_k"] == round(taught.value, 1)
    press(browser, ".learned-act button")
    browser.until(lambda: "Undone" in browser.text(".says"))
    assert not Taught.objects.current().exists()


def test_every_page_is_whole_and_accessible(browser, live_server, demo):
    add_practice(Kitchen.objects.get(is_demo=True), people())
    running_cook()
    enter(browser, live_server.url, "tobin")
    whole_and_accessible(browser, live_server.url, ["/practice/", "/practice/drills/", "/learned/"])
