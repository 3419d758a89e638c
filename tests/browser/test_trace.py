"""Tracing a piece: on squared paper, over a photograph of its side, by keys."""

from __future__ import annotations

import pytest
from PIL import Image, ImageDraw
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from kitchen.plans.models import Plan

from .looking import enter, press, whole


@pytest.fixture
def paper(browser, live_server, demo):
    """The squared paper for the harbour cod."""
    browser.size(1280, 800)
    enter(browser, live_server.url, "runa")
    browser.open(f"{live_server.url}/plans/{Plan.objects.get(name__startswith='Harbour cod').pk}/")
    browser.settle()
    press(browser, "[data-trace]")
    browser.until(lambda: browser.find("#trace").is_displayed())
    field = browser.find("#trace-length")
    field.clear()
    field.send_keys("90", Keys.TAB)
    return browser


def tap_mm(browser, x_mm, y_mm):
    """Tap the paper at a place, mm from the thick end and above the board."""
    at = browser.driver.execute_script(
        "const p = document.getElementById('trace-paper');"
        "const q = new DOMPoint(arguments[0], -arguments[1]).matrixTransform(p.getScreenCTM()); return [q.x, q.y]",
        x_mm, y_mm,
    )  # fmt: skip
    actions = ActionChains(browser.driver)
    actions.w3c_actions.pointer_action.move_to_location(round(at[0]), round(at[1])).click()
    actions.perform()


def traced(browser):
    """The places in the field of the bench, once it has answered."""
    browser.until(lambda: browser.all("#piece-trace[type=text]"))
    browser.settle()
    pairs = browser.find("#piece-trace").get_attribute("value").split(", ")
    return [tuple(float(number) for number in pair.split()) for pair in pairs]


def test_a_few_taps_on_squared_paper_are_an_outline(paper):
    for x, thick in ((0, 26), (45, 20), (90, 9)):
        tap_mm(paper, x, thick)
    assert paper.find("#trace-use").is_enabled()
    # By keys: a point a millimetre thicker, one more between two others, one taken away again.
    paper.driver.execute_script("document.querySelectorAll('.trace-point')[1].focus()")
    ActionChains(paper.driver).send_keys(Keys.ARROW_UP * 2).perform()
    press(paper, "#trace-add")
    assert len(paper.all(".trace-point")) == 4
    paper.driver.execute_script("document.querySelectorAll('.trace-point')[1].focus()")
    ActionChains(paper.driver).send_keys(Keys.DELETE).perform()
    assert len(paper.all(".trace-point")) == 3
    press(paper, "#trace-use")
    found = traced(paper)
    assert [place for place, _ in found] == pytest.approx([0, 45, 90], abs=1.0)
    assert [thick for _, thick in found] == pytest.approx([26, 21, 9], abs=1.0)
    assert paper.all(".problem") == []
    whole(paper, "the bench with a traced piece")


def photograph(tmp_path):
    """A piece 90 long and 30 thick at the right, lying askew, its thick end on the right: pixels of its two ends."""
    picture = Image.new("RGB", (900, 600), "white")
    ImageDraw.Draw(picture).polygon([(700, 500), (700 + 58, 500 - 200 + 15), (110, 330)], fill="#a04040")
    path = tmp_path / "side.png"
    picture.save(path, "PNG")
    return path, (700, 500), (110, 330)


def test_a_photograph_is_laid_on_the_board_with_its_top_up(paper, tmp_path):
    path, thick_end, thin_end = photograph(tmp_path)
    paper.find("#trace-file").send_keys(str(path))
    paper.until(lambda: paper.all("#trace-paper image"))
    assert paper.text("#trace-next") == "Tap the thick end, where it lies on the board."
    # Its pixels on the paper: 900 x 600 drawn 0.6 of 90 mm high, standing on the board.
    scale = 54 / 600
    for x, y in (thick_end, thin_end):
        tap_mm(paper, x * scale, (600 - y) * scale)
    assert paper.text("#trace-next") == "Tap along its top, from the thick end to the other."
    lies = paper.driver.execute_script(
        "const m = document.querySelector('#trace-paper image').transform.baseVal.consolidate().matrix;"
        "const at = (x, y) => { const q = new DOMPoint(x, y).matrixTransform(m); return [q.x, q.y]; };"
        "return arguments[0].map(([x, y]) => at(x, y))",
        [[x * scale, y * scale] for x, y in (thick_end, thin_end, (758, 315))],
    )  # fmt: skip
    assert lies[0] == pytest.approx([0, 0], abs=1.0)
    assert lies[1] == pytest.approx([90, 0], abs=1.0)
    assert lies[2][1] < -20  # what was above stays above, though left and right changed places
