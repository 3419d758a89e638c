"""What every browser test does with a page."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.signals import request_finished, request_started
from django.test import Client

from .chromium import Browser

SIZES = ((1280, 800), (820, 1180))  # a desk's screen, and the tablet where cooks stand
NARROW = ((390, 844), (320, 640))  # phones: nothing goes sideways
AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()


class UnderWay:
    """How many requests the server of this process is answering."""

    def __init__(self) -> None:
        self.number, self._guard = 0, threading.Lock()
        request_started.connect(self._began, weak=False)
        request_finished.connect(self._ended, weak=False)

    def _began(self, **_: Any) -> None:
        with self._guard:
            self.number += 1

    def _ended(self, **_: Any) -> None:
        with self._guard:
            self.number -= 1


UNDER_WAY = UnderWay()


def enter(browser: Browser, url: str, name: str) -> None:
    """Be signed in as somebody, whoever was before, without the pages of the form."""
    from kitchen.accounts.models import Person

    client = Client()
    client.force_login(Person.objects.get(username=name))
    browser.open("about:blank")  # lets go of what the last page still asks for
    browser.console()
    browser.until(lambda: UNDER_WAY.number == 0)  # a late answer would take the new cookie away
    browser.forget(url)
    cookie = {
        "name": settings.SESSION_COOKIE_NAME, "value": client.session.session_key, "url": url,
        "expires": time.time() + settings.SESSION_COOKIE_AGE,  # outlives the browser, as the form's own does
    }  # fmt: skip
    browser.driver.execute_cdp_cmd("Network.setCookie", cookie)


def serious(browser: Browser) -> list[Any]:
    """Accessibility findings that matter, by axe."""
    browser.settle()  # a button that is being asked for is paler
    browser.driver.execute_script(AXE)
    found = browser.driver.execute_async_script(
        "const done = arguments[0]; axe.run(document, {resultTypes: ['violations']}).then(r => done(r.violations))"
    )
    return [
        (v["id"], [n["html"][:160] for n in v["nodes"][:3]]) for v in found if v["impact"] in ("serious", "critical")
    ]


def press(browser: Browser, css: str) -> None:
    """Click in the middle of the window: a sticky rail may lie over an element at the edge."""
    element = browser.find(css)
    browser.driver.execute_script("arguments[0].scrollIntoView({block: 'center', behavior: 'instant'})", element)
    element.click()


def type_into(browser: Browser, css: str, text: str) -> None:
    """Type over what a field says."""
    field = browser.find(css)
    field.clear()
    field.send_keys(text)


# What reaches beyond the window and is in nothing that scrolls by itself.
BEYOND = """
const kept = ["auto", "scroll", "hidden", "clip"];
const scrolls = (e) => e && (kept.includes(getComputedStyle(e).overflowX) || scrolls(e.parentElement));
return [...document.querySelectorAll("body *")]
  .filter((e) => e.getBoundingClientRect().right > innerWidth + 0.5 && !scrolls(e.parentElement))
  .map((e) => `${e.tagName}.${e.getAttribute("class")} ${Math.round(e.getBoundingClientRect().right)}`).slice(0, 8);
"""


def fits(browser: Browser, what: str, size: tuple[int, int]) -> None:
    """Nothing of the page as it stands reaches beyond a window of that size."""
    browser.size(*size)
    wide = browser.driver.execute_script("return document.documentElement.scrollWidth")
    assert wide <= size[0], (what, size, wide, browser.driver.execute_script(BEYOND))


def whole(browser: Browser, what: str) -> None:
    """The page as it stands fits every window, axe finds nothing that matters, and the console is silent."""
    headings = [heading.get_attribute("textContent") for heading in browser.all("h1")]
    assert len(headings) == 1, (what, headings)
    try:
        for size in NARROW:
            fits(browser, what, size)
        for size in SIZES:
            fits(browser, what, size)
        found = serious(browser)  # at the tablet's size: where cooks stand
        assert found == [], (what, found)
        complaints = browser.console()
        assert complaints == [], (what, complaints)
    finally:
        browser.size(*SIZES[0])


def whole_and_accessible(browser: Browser, base: str, paths: Sequence[str]) -> None:
    """Each of the pages fits every window, is accessible, and complains of nothing."""
    for path in paths:
        browser.open(base + path)
        browser.settle()
        whole(browser, path)
