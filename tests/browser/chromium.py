"""Headless Chromium as these tests use it."""

from __future__ import annotations

import base64
import tempfile
from pathlib import Path
from types import TracebackType
from urllib.parse import urlsplit

from django.core.exceptions import ObjectDoesNotExist
from selenium.common.exceptions import (
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
    TimeoutException,
)
from selenium.webdriver import Chrome, ChromeOptions
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--hide-scrollbars",
    "--force-prefers-reduced-motion",
    "--disable-extensions",
    "--in-process-gpu",
    "--disable-features=PaintHolding,Translate,OptimizationHints",
    "--force-device-scale-factor=1",
]

# Not there yet, just replaced, or not to be clicked yet.
WAITED_OUT = (
    NoSuchElementException,
    StaleElementReferenceException,
    ElementNotInteractableException,
    ObjectDoesNotExist,
)
# One look; where it was left off stands in the page itself, so that a page just come to begins anew.
LOOK = """
const busy = ".htmx-request, .htmx-swapping, .htmx-settling, .stale";  // what is stale is being asked for
const there = document.readyState === "complete" && document.fonts.status === "loaded";
const now = performance.now();
window.lookedAt ??= {since: now, busy: now};
if (!there || document.querySelector(busy)) window.lookedAt.busy = now;
const asksOnAndOn = now - window.lookedAt.since > 10000;  // a slow server answers one look after the next
return there && (asksOnAndOn || now - window.lookedAt.busy > 150);
"""


class Browser:
    """One window; a context manager."""

    def __init__(self, downloads: Path | None = None) -> None:
        self.downloads = downloads
        self._profile = tempfile.TemporaryDirectory()
        self._open()

    def _open(self) -> None:
        options = ChromeOptions()
        for flag in [*FLAGS, f"--user-data-dir={self._profile.name}"]:
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        if self.downloads is not None:
            options.add_experimental_option("prefs", {"download.default_directory": str(self.downloads)})
        self.driver = Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        self.size(1280, 800)

    def change_battery(self) -> None:
        """Off and on again: another browser with what this one kept."""
        self.driver.quit()
        self._open()

    def __enter__(self) -> Browser:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.driver.quit()
        self._profile.cleanup()

    def size(self, width: int, height: int) -> None:
        """An exact viewport."""
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
        )

    def open(self, url: str) -> None:
        """Go to an address, not minding unsaved work on the page left behind."""
        self.driver.execute_script("delete document.body?.dataset.unsaved")
        self.driver.get(url)

    def sign_out(self, url: str) -> None:
        """Forget who is signed in, and go to the door."""
        self.open("about:blank")  # lets go of what the last page still asks for
        self.forget(url)
        self.console()  # what the page before complained of is not the next one's
        self.driver.get(f"{url}/sign-in/")

    def forget(self, url: str) -> None:
        """Nobody is signed in, and no page of this address is kept: the last test's line is not this one's."""
        self.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})
        self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": url, "storageTypes": "cache_storage"})

    def leave(self) -> None:
        """Let go of the page, and leave nothing of it on the device: no kept page, no unsent tap, no draft."""
        address = urlsplit(self.driver.current_url)
        self.open("about:blank")
        if address.scheme.startswith("http"):
            origin = f"{address.scheme}://{address.netloc}"
            kinds = "cache_storage,indexeddb,local_storage"
            self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": kinds})
        self.console()

    def sign_in(self, url: str, name: str, password: str) -> None:
        """Sign in by the form, whoever was signed in before."""
        self.sign_out(url)
        self.find("#id_username").send_keys(name)
        self.find("#id_password").send_keys(password)
        self.find("form.door-form button").click()
        self.until(lambda: "/sign-in/" not in self.driver.current_url)

    def find(self, css: str) -> WebElement:
        """The first element that matches; raises when none does."""
        return self.driver.find_element(By.CSS_SELECTOR, css)

    def all(self, css: str) -> list[WebElement]:
        """All that match."""
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def text(self, css: str) -> str:
        """Text of the first match."""
        return str(self.find(css).text)

    def until(self, condition: object, seconds: float = 30.0) -> object:
        """Wait for a condition; what a page that is being drawn anew raises is waited out, anything else is a fault."""
        wait = WebDriverWait(self.driver, seconds, poll_frequency=0.05, ignored_exceptions=WAITED_OUT)
        try:
            return wait.until(lambda _: condition())  # type: ignore[operator]
        except TimeoutException:
            seen = self.find("body").text[:1500]
            raise AssertionError(f"not within {seconds} s; console {self.console()}; the page says:\n{seen}") from None

    def settle(self) -> None:
        """Until the page is there with its fonts, and has asked for nothing for a while."""
        self.driver.execute_script("delete window.lookedAt")
        self.until(lambda: self.driver.execute_script(LOOK))

    def png(self, path: Path, full: bool = False) -> None:
        """Save what is seen."""
        shot = self.driver.execute_cdp_cmd("Page.captureScreenshot", {"captureBeyondViewport": full})
        path.write_bytes(base64.b64decode(shot["data"]))

    def console(self) -> list[str]:
        """What the page complained of since last asked; a refused policy shows here.

        Left out: answers of 422, which are how a form is refused, and requests dropped for a newer one.
        """
        meant = ("status of 422", "htmx:sendAbort", "htmx:afterRequest", "htmx:abort")
        found = [entry for entry in self.driver.get_log("browser") if entry["level"] in ("SEVERE", "WARNING")]
        return [entry["message"] for entry in found if not any(part in entry["message"] for part in meant)]
