"""A brine with curing salt as a kitchen meets it: refused, put right, confirmed by a second person, run, labelled."""

from __future__ import annotations

from kitchen.brines.models import BrinePlan
from kitchen.demo.kitchen import PASSWORD
from kitchen.line.models import Cook

from .looking import enter, press, type_into, whole_and_accessible

ADDRESS = "/brines/?school=equilibrium&flesh=meat&meat=3000&shape=slab&size=36&water=2200&salt_pct=1.9&hours=44&temp=3"


def test_the_desk_is_whole_and_accessible(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    paths = ("/brines/", f"{ADDRESS}&cure=11&strength=6.25&product=immersion", f"{ADDRESS}&cure=11")
    whole_and_accessible(browser, live_server.url, paths)


def test_refused_then_confirmed_by_a_second_person_and_run(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}{ADDRESS}&cure=40&name=Ribs+for+the+bridge")
    browser.settle()
    assert "Mixing them up is poisonous" in browser.text(".desk-fields")
    browser.open(f"{live_server.url}{ADDRESS}&cure=40&strength=6.25&product=immersion&name=Ribs+for+the+bridge")
    browser.settle()
    assert "Not met: cannot be started" in browser.text(".desk-says")
    type_into(browser, "#brine-cure", "11")
    browser.find("#brine-cure").send_keys("\t")
    browser.until(lambda: "Rule met" in browser.text(".desk-says"))
    press(browser, ".desk-acts .act")
    browser.until(lambda: "A second person must confirm" in browser.text(".desk-says"))
    plan = BrinePlan.objects.get(name="Ribs for the bridge")
    enter(browser, live_server.url, "pell")
    browser.open(f"{live_server.url}/brines/{plan.pk}/")
    browser.settle()
    assert "Check the bag: 6.25 %" in browser.text(".desk-says")
    type_into(browser, "#own-brine", PASSWORD)
    press(browser, ".desk-acts .act")
    browser.until(lambda: "Confirmed by Pell Osei" in browser.text(".desk-says"))
    press(browser, ".desk-send .act")
    browser.until(lambda: "/line/" in browser.driver.current_url)
    browser.settle()
    assert "Weigh" in browser.text(".steps-verb")
    press(browser, "#steps-next")
    browser.until(lambda: "Read again" in browser.text(".steps-verb"))
    cook = Cook.objects.get(name="Ribs for the bridge")
    browser.open(f"{live_server.url}/brines/label/{cook.pk}/")
    browser.settle()
    assert "Curing salt 6.25 %" in browser.text(".label")
    assert browser.console() == []
