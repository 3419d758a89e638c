"""Every page in a person's units: a cook with °F, inches, pounds and fluid ounces finds no metric measure."""

from __future__ import annotations

import html
import re

import pytest
from django.urls import reverse

from ember.judge.standards import standards
from ember.quantities import Units
from kitchen.accounts.models import Person
from kitchen.batches.models import Batch
from kitchen.brines.models import BrinePlan
from kitchen.demo.build import build
from kitchen.eggs.models import EggPlan
from kitchen.line.models import Cook
from kitchen.places import PLACES
from kitchen.plans.models import Plan
from kitchen.services.models import Service
from kitchen.units.number_text import in_units

METRIC = re.compile(
    r"(?<![\w.])[\d½¼¾.,]+\s*(?:mm|cm|g|kg|ml|cl|l|litres?|grams?|m)\b(?![/.])|°C|\bmm\b|\blitres?\b|\bkg\b|\bml\b"
)
EGGS = ("boil", "steam", "circulator", "poach", "scramble", "omelette", "emulsion", "custard")
CHOOSES_UNITS = "/you/"  # names every unit
TYPED = ("a tray and 5 kg",)  # by the demonstration's people, who may write as they like


def pages(kitchen):
    """The address of every kind of page."""
    yield from (reverse(page.url) for place in PLACES for page in place.pages)
    yield from (
        "/plans/new/",
        "/kitchen/equipment/new/",
        "/service/new/",
        "/search/?q=lamb",
        "/log/sign/",
        "/eggs/kinds/",
    )
    yield from (f"/book/?kind={kind}" for kind in ("hot", "reheat", "delivery", "note"))
    yield from (f"/eggs/{method}/" for method in EGGS)
    yield from (f"/standards/{key}/" for key in standards())
    for plan in Plan.objects.of(kitchen):
        yield from (f"/plans/{plan.pk}/", f"/plans/{plan.pk}/card/", f"/plans/{plan.pk}/versions/")
    for cook in Cook.objects.of(kitchen):
        yield from [f"/log/{cook.pk}/"] if cook.finished_at else [f"/line/{cook.pk}/steps/", f"/line/{cook.pk}/check/"]
    for batch in Batch.objects.of(kitchen):
        yield from (f"/batches/{batch.pk}/", f"/batches/{batch.pk}/label/")
    for service in Service.objects.of(kitchen):
        yield from (f"/service/{service.pk}/", f"/service/{service.pk}/menu/", f"/service/{service.pk}/list/")
    yield from (f"/brines/{brine.pk}/" for brine in BrinePlan.objects.of(kitchen))
    yield from (f"/eggs/kept/{egg.pk}/" for egg in EggPlan.objects.of(kitchen))


def text_of(response):
    """What a page says, with what is said to screen readers."""
    page = re.sub(r"<(script|style).*?</\1>", "", response.content.decode(), flags=re.S)
    said = " ¦ ".join(re.findall(r'(?:aria-label|placeholder|title|aria-valuetext|alt)="([^"]*)"', page))
    return html.unescape(re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", page)) + said)


def test_a_cook_with_other_units_finds_no_metric_measure(client, db):
    kitchen = build("demo-token-" + "x" * 30, {"wires": "w" * 40, "bath": "b" * 40}, evening=True)
    Person.objects.filter(username="runa").update(temperature_unit="F", length_unit="in", mass_unit="lb")
    client.force_login(Person.objects.get(username="runa"))
    metric = {}
    for url in dict.fromkeys(pages(kitchen)):
        response = client.get(url, follow=True)
        assert response.status_code == 200, url
        text = text_of(response)
        for typed in TYPED:
            text = text.replace(typed, "")
        hits = [text[max(0, m.start() - 40) : m.end() + 10] for m in METRIC.finditer(text)]
        if hits and url != CHOOSES_UNITS:
            metric[url] = hits[:3]
    assert metric == {}


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("70 °C for 2 min (75 °C at once)", "158 °F for 2 min (167 °F at once)"),
        ("from 60 to 21 °C within 2 h", "from 140 to 69.8 °F within 2 h"),
        ("a roast under 4.5 kg", "a roast under 9.9 lb"),
        ("10 lb (4.5 kg) and more", "10 lb and more"),
        ("3 °C colder", "5.4 °F colder"),
        ("a film 0.8 mm thick", "a film 0.03 in thick"),
        ("1000 m higher, 250 ml of water", "3281 ft higher, 8.5 fl oz of water"),
        ("in 2 min, 5 mg/kg", "in 2 min, 5 mg/kg"),
        ("nothing to convert", "nothing to convert"),
    ],
)
def test_texts_of_the_core_follow_the_person(text, told):
    assert in_units(text, Units("F", "in", "lb")) == told


def test_metric_people_read_the_metric_side():
    assert in_units("Cool from 135 to 70 °F (57 to 21 °C) within 2 h", Units()) == "Cool from 57 to 21 °C within 2 h"
    assert in_units("10 lb (4.5 kg) and more", Units()) == "4.5 kg and more"
    mixed = Units("F", "mm", "g")
    assert in_units("70 °C, 12 mm, 200 g, 2 l", mixed) == "158 °F, 12 mm, 200 g, 2 l"
