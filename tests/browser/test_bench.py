"""The bench by pointer, finger and keys: what moves together, what is dragged, undone and compared."""

from __future__ import annotations

import json
import re

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from kitchen import work
from kitchen.plans.models import Plan

from .looking import enter, press, serious, type_into, whole, whole_and_accessible


@pytest.fixture
def strip(browser, live_server, demo):
    """The bench with the strip steaks."""
    browser.size(1280, 800)
    enter(browser, live_server.url, "runa")
    return open_plan(browser, live_server.url, "Bosun")


def open_plan(browser, url, name):
    plan = Plan.objects.get(name__startswith=name)
    browser.open(f"{url}/plans/{plan.pk}/")
    browser.settle()
    return plan


def key(browser, keys):
    """A key pressed while nothing is typed in."""
    browser.driver.execute_script("document.activeElement.blur()")
    ActionChains(browser.driver).send_keys(keys).perform()


def chord(browser, held, pressed):
    ActionChains(browser.driver).key_down(held).send_keys(pressed).key_up(held).perform()


def heads(browser):
    return [head.text for head in browser.all(".block-head b")]


def face_fills(browser):
    return browser.driver.execute_script(
        "return [...document.querySelectorAll('#cut-face [data-stack] path')].map(p => p.getAttribute('fill')).join()"
    )


def centre(browser, css):
    box = browser.driver.execute_script(
        "const e = document.querySelector(arguments[0]); e.scrollIntoView({block: 'center', behavior: 'instant'});"
        "const b = e.getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2]",
        css,
    )
    return round(box[0]), round(box[1])


def drag(browser, css, by_x, by_y):
    x, y = centre(browser, css)
    actions = ActionChains(browser.driver, duration=60)
    actions.w3c_actions.pointer_action.move_to_location(x, y)
    actions.w3c_actions.pointer_action.pointer_down()
    for part in range(1, 6):
        actions.w3c_actions.pointer_action.move_to_location(x + by_x * part // 5, y + by_y * part // 5)
    actions.w3c_actions.pointer_action.pointer_up()
    actions.perform()


def test_one_cursor_moves_chart_face_bands_and_words(browser, strip):
    at_end = face_fills(browser)
    assert browser.text("#face-when") == "at the end"
    x, y = centre(browser, "#plan-chart")
    actions = ActionChains(browser.driver)
    actions.w3c_actions.pointer_action.move_to_location(x - 250, y)
    actions.perform()
    browser.until(lambda: browser.text("#face-when").startswith("at ") and "end" not in browser.text("#face-when"))
    assert face_fills(browser) != at_end
    assert browser.text("#face-bands").startswith("raw")
    assert browser.find("#cursor").get_attribute("aria-valuetext").startswith(browser.text("#face-when")[3:])
    # By keys alone: from the start on, a step at a time.
    key(browser, "{" * 12)
    assert browser.find("#cursor").get_attribute("aria-valuetext").startswith("0:00")
    key(browser, "]" * 4)
    assert not browser.find("#cursor").get_attribute("aria-valuetext").startswith("0:00")
    assert browser.console() == []


def test_an_outline_is_chosen_and_its_thin_end_dragged(browser, live_server, demo):
    browser.size(1280, 800)
    enter(browser, live_server.url, "runa")
    open_plan(browser, live_server.url, "Harbour cod")
    Select(browser.find("#piece-outline")).select_by_value("fillet")
    browser.until(lambda: browser.find("#piece-thin").get_attribute("value"))
    browser.until(lambda: "Thin end" in browser.text(".places"))
    before = float(browser.find("#piece-thin").get_attribute("value"))
    said = browser.text(".places")
    drag(browser, "#piece-drawing [data-grip=piece-thin] circle", 0, -18)
    browser.until(lambda: float(browser.find("#piece-thin").get_attribute("value")) > before + 3)
    browser.until(lambda: browser.text(".places") != said)
    whole(browser, "the bench with an outline")


def test_the_piece_is_dragged_thicker_and_the_bench_follows(browser, strip):
    before = float(browser.find("#piece-size").get_attribute("value"))
    drag(browser, "#cut-face .grip circle", 0, 30)
    browser.until(lambda: float(browser.find("#piece-size").get_attribute("value")) > before + 4)
    browser.until(lambda: browser.text("svg.piece .measure-word") == browser.find("#piece-size").get_attribute("value"))
    # The same by keys on the handle.
    browser.driver.execute_script("document.querySelector('#piece-drawing .grip').focus()")
    now = float(browser.find("#piece-size").get_attribute("value"))
    ActionChains(browser.driver).send_keys(Keys.ARROW_DOWN * 2).perform()
    browser.until(lambda: float(browser.find("#piece-size").get_attribute("value")) < now)
    # Undone to the beginning, done again.
    browser.driver.execute_script("document.activeElement.blur()")
    while browser.find("[data-undo]").is_enabled():
        value = browser.find("#piece-size").get_attribute("value")
        chord(browser, Keys.CONTROL, "z")
        browser.until(lambda was=value: browser.find("#piece-size").get_attribute("value") != was)
    assert float(browser.find("#piece-size").get_attribute("value")) == before
    press(browser, "[data-redo]")
    browser.until(lambda: float(browser.find("#piece-size").get_attribute("value")) != before)
    # Changes that overtake each other are not a server that is away.
    browser.driver.execute_script("""
      const field = document.getElementById("piece-size");
          const set = (mm) => { field.value = mm; field.dispatchEvent(new Event("change", { bubbles: true })); };
          for (const mm of [41, 42, 43]) setTimeout(() => set(mm), (mm - 41) * 20);
    """)
    browser.until(lambda: browser.text("svg.piece .measure-word") == "43")
    browser.settle()
    assert not browser.all("#bench-kept")
    assert browser.console() == []


def test_stages_move_by_drag_and_by_keys(browser, strip):
    assert heads(browser) == ["Bath", "Sear", "Rest"]
    drag(browser, "#stage-0 .block-grip", 420, 0)
    browser.until(lambda: heads(browser) == ["Sear", "Bath", "Rest"])
    browser.driver.execute_script("document.querySelector('#stage-0 input[type=text]').focus()")
    chord(browser, Keys.ALT, Keys.ARROW_RIGHT)
    browser.until(lambda: heads(browser) == ["Bath", "Sear", "Rest"])
    press(browser, "#add-stage summary")
    press(browser, "[data-do='add:hold']")
    browser.until(lambda: heads(browser)[-1] == "Hold")
    press(browser, "#stage-3 [aria-label='Remove Hold']")
    browser.until(lambda: len(heads(browser)) == 3)
    assert browser.console() == []


def test_an_end_of_another_kind_and_a_fold_left_open(browser, strip):
    press(browser, "#piece-more summary")
    browser.driver.execute_script(
        "const s = document.querySelector('#stage-0 select'); s.value = 'minutes';"
        "s.dispatchEvent(new Event('change', {bubbles: true}))"
    )
    browser.until(lambda: browser.find("#s0-end_value").get_attribute("value") == "30")
    type_into(browser, "#s0-end_value", "75")
    browser.until(lambda: "1 h 15 min" in browser.text("#plan-chart"))
    assert browser.find("#piece-more").get_attribute("open")  # an answer does not shut what was opened


def test_a_cut_is_found_by_a_misspelt_name_and_keys(browser, strip):
    key(browser, "/")
    field = browser.find("#cut-search")
    assert browser.driver.switch_to.active_element == field
    field.send_keys("samon filet")
    browser.until(lambda: "Salmon" in browser.text("#cut-found"))
    field.send_keys(Keys.ENTER)
    browser.until(lambda: browser.find("#piece-cut").get_attribute("value") == "salmon/fillet")
    browser.until(lambda: browser.all(".pull-number") or browser.all(".say-text"))
    browser.until(lambda: browser.find("#cut-search").get_attribute("value").startswith("Salmon"))


def test_methods_are_compared_and_one_is_used(browser, live_server, strip):
    key(browser, "m")
    browser.until(lambda: len(browser.all(".method")) > 5)
    whole(browser, "methods")
    for tick in browser.all(".method-tick input")[:2]:
        tick.click()
    press(browser, ".sheet-foot button")
    browser.until(lambda: len(browser.all(".compare-col")) == 3)
    browser.settle()
    whole(browser, "compared")
    wanted = browser.all(".compare-col .small")[1].text.split(" · ")
    press(browser, "button[value^='method:']:not([value=''])")
    browser.until(lambda: browser.all("#bench"))
    browser.settle()
    assert [head.lower() for head in heads(browser)] == [re.sub(r" [\d].*", "", part) for part in wanted]
    assert browser.all("body[data-unsaved]")  # picked, not yet kept
    press(browser, "#bench button[value=keep]")
    browser.until(lambda: "Saved" in browser.text(".says"))
    assert strip.versions.count() == 2
    assert browser.console() == []


def test_make_it_fit_takes_a_change(browser, strip):
    key(browser, "f")
    browser.until(lambda: browser.all("#fit-minutes"))
    type_into(browser, "#fit-minutes", "40")
    press(browser, ".fit-ask button")
    browser.until(lambda: browser.all(".fit-lines tbody tr"))
    assert serious(browser) == []
    press(browser, ".fit-lines tr:not(.fit-not) button")
    browser.until(lambda: not browser.find("#sheet").get_attribute("open"))
    browser.until(lambda: browser.find("[data-undo]").is_enabled())
    end = browser.driver.execute_script(
        "return JSON.parse(document.getElementById('chart-samples').textContent).t.at(-1)"
    )
    assert end <= 40 * 60 * 1.02


def test_every_sheet_of_the_bench_is_whole_and_accessible(browser, live_server, strip):
    browser.until(lambda: browser.all("#prices dl"))
    for name in ("Bosun", "Short rib", "Turkey"):
        plan = open_plan(browser, live_server.url, name)
        whole(browser, name)
        whole_and_accessible(browser, live_server.url, [f"/plans/{plan.pk}/{path}" for path in ("card/", "versions/")])


def test_the_keys_are_listed(browser, strip):
    key(browser, "?")
    browser.until(lambda: browser.find("#keys").get_attribute("open"))
    assert "Undo" in browser.text("#keys")
    assert serious(browser) == []


def test_a_slow_answer_never_overwrites_typing(browser, strip):
    field = browser.find("#piece-size")
    field.send_keys(Keys.CONTROL + "a")
    for letter in "41.5":
        field.send_keys(letter)
    browser.until(lambda: browser.text("svg.piece .measure-word") == "41.5")
    assert browser.driver.switch_to.active_element.get_attribute("id") == "piece-size"
    posted = browser.driver.execute_script(
        "return JSON.stringify(Object.fromEntries(new FormData(document.getElementById('bench'))))"
    )
    assert json.loads(posted)["size"] == "41.5"


def test_a_busy_server_is_asked_again(strip, browser, monkeypatch):
    """The page says nothing and asks again by itself."""
    asked_by = []

    def is_full_once(person):
        asked_by.append(person)
        return len(asked_by) == 1

    monkeypatch.setattr(work.GATE, "is_full", is_full_once)
    type_into(browser, "#piece-size", "52")
    browser.until(lambda: asked_by)
    browser.until(lambda: browser.text("svg.piece .measure-word") == "52")
    assert len(asked_by) > 1
    browser.console()
