"""A service as a chef meets it: written down, planned, dragged, a clash settled, sent, late and planned anew."""

from __future__ import annotations

import datetime as dt

from django.utils import timezone
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.support.ui import Select

from kitchen.accounts.models import Kitchen
from kitchen.services.models import Service, TaskEvent

from ..planned import planned
from .looking import enter, press, type_into, whole_and_accessible


def demo_service():
    return Service.objects.get(name="Evening crossing")


def test_every_page_is_whole_and_accessible(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    key = demo_service().pk
    paths = (
        "/service/",
        "/service/new/",
        f"/service/{key}/",
        f"/service/{key}/menu/",
        f"/service/{key}/list/",
    )
    whole_and_accessible(browser, live_server.url, paths)


def drag(browser, name, by):
    bar = next(a for a in browser.all("[data-bar]") if a.text.startswith(name))
    ActionChains(browser.driver).click_and_hold(bar).move_by_offset(by, 0).pause(0.2).release().perform()


def test_a_clash_is_settled_then_a_task_is_dragged(browser, live_server, demo):
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/service/{demo_service().pk}/")
    browser.settle()
    assert "Oven 1 is wanted at 200 and 205" in browser.text(".clash")
    assert "Resolve the clash" in browser.text(".service-send")
    press(browser, ".clash-ways button")
    browser.until(lambda: "Send to the line" in browser.text(".service-send"))
    drag(browser, "Smoked strip", -14)
    browser.until(lambda: "Unpin" in browser.text(".chosen") or browser.all(".problem-wide"))
    drag(browser, "Smoked strip", 260)
    browser.until(lambda: "can start" in browser.text("#service"))
    assert "Smoked strip, bath can start" in browser.text(".problem-wide")
    browser.until(lambda: "min" in browser.text(".if-late"))


def test_written_down_planned_and_sent(browser, live_server, demo):
    kitchen = Kitchen.objects.get(is_demo=True)
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/service/new/")
    type_into(browser, "#service-name", "Pilot's lunch")
    press(browser, ".menu-head .act")
    browser.until(lambda: "Add the first dish" in browser.text("main"))
    Select(browser.find("#dish-of-new")).select_by_visible_text("Harbour cod, brown shrimp")
    up = (kitchen.now() + dt.timedelta(days=1)).astimezone(kitchen.zone).replace(hour=12, minute=30)
    field = "#dish-plate_up-new"
    browser.driver.execute_script(f"document.querySelector('{field}').value = '{up:%Y-%m-%dT%H:%M}'")
    type_into(browser, "#dish-portions-new", "6")
    press(browser, ".menu-new button")
    browser.until(lambda: "Remove" in browser.text(".menu"))
    press(browser, ".service-head .act")
    browser.until(lambda: "Send to the line" in browser.text(".service-send"))
    assert "Oven" in browser.text("#service-scroll")
    press(browser, ".service-send .act-wide")
    browser.until(lambda: "/line/" in browser.driver.current_url)
    assert Service.objects.get(name="Pilot's lunch").is_running


def test_late_it_is_planned_anew_and_taken_over(browser, live_server, demo):
    """Sent with its times in the past: the page says what is late, what moves, and the chef takes it."""
    kitchen = Kitchen.objects.get(is_demo=True)
    kitchen.clock_showed = kitchen.now().replace(hour=10, minute=0)  # hands go home before midnight
    kitchen.clock_set_at = timezone.now()
    kitchen.save()
    service = demo_service()
    dish = service.dishes.get(name="Smoked strip")
    service.dishes.exclude(pk=dish.pk).delete()
    now = kitchen.now()
    dish.plate_up = (now + dt.timedelta(hours=3)).replace(second=0, microsecond=0)
    dish.companions = []
    dish.save()
    Service.objects.filter(pk=service.pk).update(opens=dt.time(0), closes=dt.time(23, 59, 59))
    service = planned(Service.objects.get(pk=service.pk))
    assert service.fits
    schedule = service.schedule
    for row in schedule["tasks"]:
        for key in ("start", "end"):
            row[key] = (dt.datetime.fromisoformat(row[key]) - dt.timedelta(minutes=115)).isoformat()
    Service.objects.filter(pk=service.pk).update(schedule=schedule, started_at=now - dt.timedelta(hours=2))
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/service/{service.pk}/")
    browser.until(lambda: browser.all(".proposal"))
    assert "Accept changes" in browser.text(".proposal")
    press(browser, ".proposal .act")
    browser.until(lambda: not browser.all(".proposal"))
    browser.open(f"{live_server.url}/line/")
    browser.settle()
    assert "Smoked strip" in browser.text(".actions")
    press(browser, "#first-done")
    browser.until(lambda: TaskEvent.objects.filter(service=service).exists())
