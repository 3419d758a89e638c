"""A photograph in the browser: framed by hand and by keys, kept without the server, uploaded once."""

from __future__ import annotations

import io

import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from ember.bench.face_render import Scene, photograph
from kitchen.accounts.models import Person
from kitchen.faces.models import FaceMeasure, FacePhoto
from kitchen.line.starting import start
from kitchen.plans.models import Plan

from .looking import enter, press, whole
from .proxy import Wifi

SCENE = Scene(cut="lamb/rump", mm=30.0, wide_mm=36.0, core_c=56.0, edge_mm=(3.5, 3.5), px_mm=12.0)


@pytest.fixture(scope="module")
def file(tmp_path_factory):
    """A made-up photograph on the device."""
    path = tmp_path_factory.mktemp("camera") / "face.jpg"
    out = io.BytesIO()
    Image.fromarray(photograph(SCENE).rgb).save(out, "JPEG", quality=90)
    path.write_bytes(out.getvalue())
    return path


@pytest.fixture
def cook(demo):
    runa = Person.objects.get(username="runa")
    return start(Plan.objects.get(kitchen=demo, name="Lamb rump, kelp salt"), runa)


@pytest.fixture
def wifi(live_server):
    with Wifi(live_server.url) as found:
        yield found


def at_check(browser, url, cook):
    enter(browser, url, "runa")
    browser.open(f"{url}/line/{cook.pk}/check/")
    browser.settle()


def choose(browser, file):
    browser.find(".photo-take input[type=file]").send_keys(str(file))


def points(browser):
    names = ("top", "under", "white")
    values = [browser.find(f"[name={name}]").get_attribute("value") for name in names]
    return dict(zip(names, ([float(v) for v in value.split(",")] for value in values), strict=True))


def test_a_face_is_framed_by_hand_and_by_keys_and_read(browser, live_server, cook, file):
    mine = FacePhoto.objects.filter(cook=cook)
    browser.size(820, 1180)
    at_check(browser, live_server.url, cook)
    choose(browser, file)
    browser.until(lambda: "/frame/" in browser.driver.current_url)
    browser.settle()
    assert mine.count() == 1
    proposed = points(browser)
    whole(browser, "framing")
    browser.size(820, 1180)

    handle = browser.find("[data-handle=under]")  # by hand
    ActionChains(browser.driver).click_and_hold(handle).move_by_offset(0, 40).perform()
    assert browser.all(".face-loupe:not([hidden])"), "what the finger hides is shown large"
    ActionChains(browser.driver).release().perform()
    dragged = points(browser)
    assert dragged["under"][1] > proposed["under"][1] + 20
    assert dragged["top"] == proposed["top"]

    browser.driver.execute_script("arguments[0].focus()", handle)  # by keys
    ActionChains(browser.driver).send_keys(Keys.ARROW_LEFT, Keys.ARROW_UP).perform()
    nudged = points(browser)
    assert nudged["under"][0] < dragged["under"][0]
    assert nudged["under"][1] < dragged["under"][1]

    press(browser, "[data-tool=white]")
    picture = browser.find("#face-frame")
    ActionChains(browser.driver).move_to_element_with_offset(
        picture, 0, -picture.size["height"] // 2 + 60
    ).click().perform()
    assert points(browser)["white"] != proposed["white"]

    press(browser, "[data-tool-reset]")
    browser.until(lambda: points(browser)["under"] == pytest.approx(proposed["under"], abs=1.0))
    press(browser, "#face-form .act")
    browser.until(lambda: browser.all(".face-pair"))
    browser.settle()
    assert not FaceMeasure.objects.get(photo=mine.get()).refused
    loaded = "return [...document.querySelectorAll('.face-pair image')].every((i) => i.getBBox().width > 0)"
    assert browser.driver.execute_script(loaded)
    whole(browser, "comparison")


def test_a_photograph_without_the_server_waits_and_is_uploaded_once(browser, wifi, cook, file):
    mine = FacePhoto.objects.filter(cook=cook)
    browser.size(390, 844)
    at_check(browser, wifi.url, cook)
    browser.until(lambda: browser.driver.execute_script("return Boolean(navigator.serviceWorker.controller)"))
    at_check(browser, wifi.url, cook)  # once more, through what keeps pages
    wifi.cut()
    choose(browser, file)
    browser.until(lambda: "kept on this device" in browser.text("#photos-waiting"))
    assert not mine.exists()
    browser.driver.refresh()  # from what the device kept
    browser.until(lambda: browser.all("#photos-waiting"))
    wifi.mend()
    browser.until(lambda: mine.count() == 1)
    browser.until(lambda: not browser.all("#photos-waiting"))

    # The same once more, as if its answer had been lost: its digest is asked for, and nothing is sent.
    browser.open(f"{wifi.url}/line/{cook.pk}/check/")
    browser.settle()
    browser.driver.execute_script(
        "window.posted = 0; const send = window.fetch;"
        "window.fetch = (url, how) => { if (how?.method === 'POST' && how.body instanceof FormData) window.posted += 1;"
        " return send(url, how); };"
    )
    wifi.cut()
    choose(browser, file)
    browser.until(lambda: "kept on this device" in browser.text("#photos-waiting"))
    tried = browser.driver.execute_script("return window.posted")
    wifi.mend()
    browser.until(lambda: "/faces/" in browser.driver.current_url or not browser.all("#photos-waiting"))
    assert tried == 1
    assert mine.count() == 1
