"""A batch as a kitchen meets it: out of the bath, cold, labelled, brought back in portions; and one that was missed."""

from __future__ import annotations

from kitchen.batches.models import Batch

from .looking import enter, press, type_into, whole_and_accessible

ADDRESS = (
    "/batches/new/?cut=pork/belly&shape=slab&size=42&mass=900&count=4&portions=16&start=70&bagged=on&wait=8"
    "&way=ice-bath&until=5&then=walk-in&layers=1&packed=cook-chill&kept=3&back=bath&medium=66&after=served"
)


def test_every_page_is_whole_and_accessible(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    shin = Batch.objects.get(name__startswith="Shin").pk
    belly = Batch.objects.get(name__startswith="Pressed").pk
    mine = f"/batches/{belly}/"
    paths = ("/batches/", ADDRESS, f"{ADDRESS}&layers=90", f"/batches/{shin}/", mine, f"{mine}label/")
    whole_and_accessible(browser, live_server.url, paths)


def test_from_the_bath_to_the_label_to_the_plate(browser, live_server, demo):
    enter(browser, live_server.url, "tobin")
    browser.open(live_server.url + ADDRESS)
    browser.settle()
    assert "In time" in browser.text(".desk-says")
    press(browser, "button[value='way:fridge']")
    browser.until(lambda: "Hot food in a fridge" in browser.text(".desk-beside-chart"))
    press(browser, "button[value='way:ice-bath']")
    browser.until(lambda: "Hot food in a fridge" not in browser.text(".desk-beside-chart"))
    type_into(browser, "#chill-name", "Belly for the sailing")
    browser.until(lambda: "Belly" in browser.driver.current_url)
    press(browser, ".desk-acts .act")
    browser.until(lambda: "Start chilling by" in browser.text(".batch-next"))
    press(browser, "#batch-place + .act")
    browser.until(lambda: "Cooling" in browser.text(".batch-next"))
    for reading, then in (("49", "21.1 °C by"), ("4.4", "16 of 16 portions")):
        type_into(browser, "#batch-celsius", reading)
        press(browser, "#batch-celsius + .act")
        browser.until(lambda said=reading: f"{said} °C" in browser.text(".batch-log"))
        browser.until(lambda then=then: then in browser.text(".batch-next"))
    assert "to 64" in browser.text(".batch-facts")
    press(browser, ".batch-head a")
    browser.until(lambda: "Use by" in browser.text(".label"))
    assert browser.find(".label-code svg")
    browser.driver.back()
    browser.settle()
    type_into(browser, "#batch-for", "first sitting")
    type_into(browser, "#batch-portions", "6")
    press(browser, "#batch-portions ~ .act-line")
    browser.until(lambda: "10 of 16 portions" in browser.text(".batch-next"))
    press(browser, "#batch-more summary")
    type_into(browser, "#batch-press", "4 kg")
    press(browser, "#batch-press + .act")
    browser.until(lambda: "Pressed since" in browser.text(".batch-next"))
    press(browser, ".batch-log .act-quiet")
    browser.until(lambda: "16 of 16 portions" in browser.text(".batch-next"))
    type_into(browser, "#batch-portions", "4")
    press(browser, "#batch-portions ~ [value=bring]")
    browser.until(lambda: "the bath to 66" in browser.text(".steps-verb"))
    press(browser, "#steps-next")
    browser.until(lambda: "Lay in" in browser.text(".steps-verb"))


def test_a_missed_first_stage_is_put_right(browser, live_server, demo):
    enter(browser, live_server.url, "pell")
    browser.open(f"{live_server.url}/batches/")
    browser.settle()
    assert "Cooling missed" in browser.text(".shelf-row")
    press(browser, ".shelf-row")
    browser.until(lambda: "Cooling missed" in browser.text(".batch-next"))
    assert not browser.all("#batch-decided")
    type_into(browser, "#batch-again", "61")
    press(browser, "#batch-again + .act")
    browser.until(lambda: "73.9 °C: 61 °C is not there" in browser.text(".says").replace("61.0", "61"))
    type_into(browser, "#batch-again", "78")
    press(browser, ".batch-held input")
    press(browser, "#batch-again + .act")
    browser.until(lambda: "Start chilling" in browser.text(".batch-next"))
    press(browser, "#batch-place + .act")
    browser.until(lambda: "Cooling" in browser.text(".batch-next"))
    assert "Reheated 78 °C" in browser.text(".batch-log")
