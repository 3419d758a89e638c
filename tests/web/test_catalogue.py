"""The catalogue of cuts: what sets each apart, its times, its filters."""

from __future__ import annotations

import importlib.util
from pathlib import Path

import pytest
from django.urls import reverse

from ember.food.catalogue import cuts
from kitchen.cuts.catalogue import Filters, animals, methods_there, rows
from kitchen.cuts.words import decided_by

from .pages import body_of

URL = reverse("cuts:catalogue")
TOOL = Path(__file__).resolve().parents[2] / "tools" / "usual_times.py"


@pytest.fixture(scope="module")
def tool():
    spec = importlib.util.spec_from_file_location("usual_times", TOOL)
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


@pytest.mark.parametrize("key", ["beef/strip-loin", "turkey/whole", "cod/fillet", "lamb/shank", "chicken/breast"])
def test_the_times_are_those_of_the_model_of_today(tool, key):
    row = next(row for row in rows() if row.cut.id == key)
    today = tool.usual_of(cuts()[key])
    assert {time.key: time.minutes for time in row.times} == pytest.approx(today["minutes"], rel=0.02)
    assert row.mass_g == today["mass_g"]


def test_every_cut_has_a_size_a_time_and_a_sentence():
    assert len(rows()) == len(cuts())
    for row in rows():
        assert row.times, row.cut.id
        assert row.mass_g > 0
        assert row.decided_by.endswith(".")


def test_no_two_beef_rows_say_the_same():
    """Size, mass, tissue and times set each apart."""
    beef = [row for row in rows() if row.cut.species == "beef"]
    said = {(row.cut.form.size_mm, row.mass_g, row.cut.tissue, row.times) for row in beef}
    assert len(said) == len(beef)


@pytest.mark.parametrize(
    ("key", "word"),
    [("beef/brisket", "collagen"), ("turkey/whole", "thigh"), ("cod/fillet", "glassy"), ("mussel/live", "tighten"),
     ("beef/strip-loin", "pull before"), ("pork/pressed-belly", "pressed")],
)  # fmt: skip
def test_what_decides_a_cut(key, word):
    assert word in decided_by(cuts()[key]).lower()


def test_filters_by_animal_method_and_time():
    quick = [row for row in rows() if Filters(animal="beef", within_min=30).holds(row)]
    assert 0 < len(quick) < 29
    assert all(row.cut.species == "beef" and min(time.minutes for time in row.times) <= 30 for row in quick)
    bath = [row for row in rows() if Filters(method="bath-then-pan", within_min=60).holds(row)]
    assert all(any(t.key == "bath-then-pan" and t.minutes <= 60 for t in row.times) for row in bath)
    assert bath
    assert not [row for row in rows() if Filters(text="unicorn").holds(row)]
    assert sum(len(family) for _, family in animals()) == len({cut.species for cut in cuts().values()})
    assert ("bath-then-pan", "Bath, then pan") in methods_there()


def test_the_page_filters_and_takes_odd_questions(signed_in):
    body = body_of(signed_in.get(URL, {"animal": "cod", "within": "60"}))
    assert "Cod fillet" in body
    assert "Beef strip loin" not in body
    for odd in ({"within": "7"}, {"within": "x"}, {"animal": "unicorn"}, {"method": "<b>"}, {"q": "\0" * 200}):
        assert signed_in.get(URL, odd).status_code == 200
    rows_only = signed_in.get(URL, {"animal": "cod"}, headers={"HX-Request": "true", "HX-Target": "cut-rows"})
    assert body_of(rows_only).startswith('<div id="cut-rows"')


def test_sizes_follow_the_person(signed_in, cook_person):
    cook_person.length_unit, cook_person.mass_unit, cook_person.temperature_unit = "in", "lb", "F"
    cook_person.save()
    body = body_of(signed_in.get(URL, {"animal": "cod"})).split('id="cut-rows"')[1]
    assert " mm" not in body
    assert " g</b>" not in body
    assert " lb" in body
