"""The book as a kitchen meets it: written down, found, a signed record added to, a period on paper."""

from __future__ import annotations

from kitchen.accounts.models import Kitchen
from kitchen.book.verify import walk

from .looking import enter, press, type_into, whole_and_accessible


def test_every_page_is_whole_and_accessible(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    today = Kitchen.objects.get(is_demo=True).now().date()
    paths = (
        "/book/",
        "/book/?kind=delivery",
        f"/book/report/?from={today.replace(day=1)}&to={today}",
        "/log/",
        "/search/?q=tobin",
        "/book/who/",
        "/book/trends/?weeks=26",
    )
    whole_and_accessible(browser, live_server.url, paths)


def test_written_down_found_added_to_and_reported(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/book/")
    browser.settle()
    type_into(browser, "#entry-what", "Bait fridge")
    type_into(browser, "#entry-celsius", "7.7")
    press(browser, ".book-write .act")
    browser.until(lambda: "Enter the corrective action" in browser.text(".book-write"))
    assert browser.find("#entry-what").get_attribute("value") == "Bait fridge"
    type_into(browser, "#entry-note", "set colder, read again at the half hour")
    press(browser, ".book-write .act")
    browser.until(lambda: "Bait fridge" in browser.text(".book-rows"))
    assert "limit 5.0 °C" in browser.text(".book-rows")
    assert "not met" in browser.text(".book-rows")
    type_into(browser, "#book-q", "half hour")
    press(browser, ".book-find button")
    browser.until(lambda: "q=half" in browser.driver.current_url)
    assert "Bait fridge" in browser.text(".book-rows")

    browser.open(f"{live_server.url}/log/")
    browser.settle()
    type_into(browser, "#log-q", "chicken")
    press(browser, ".log-find button")
    browser.until(lambda: "q=chicken" in browser.driver.current_url)
    press(browser, ".log-list ol a")
    browser.until(lambda: "A signed record cannot be changed" in browser.text(".log-record"))
    type_into(browser, "#note", "Needle 2 read 0.3 low in ice the day after.")
    press(browser, "form.note button")
    browser.until(lambda: "Added: Needle 2" in browser.text(".log-record"))

    browser.open(f"{live_server.url}/book/report/")
    browser.settle()
    press(browser, ".report-ask a")
    browser.until(lambda: "from=" in browser.driver.current_url)
    press(browser, ".report-ask a:nth-of-type(2)")
    browser.until(lambda: "Needle 2" in browser.text("main"))
    assert walk(Kitchen.objects.get(is_demo=True)).holds
