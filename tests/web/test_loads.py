"""What equipment holds and how it heats: on the bench, in a service, on the line."""

from __future__ import annotations

import pytest
from django.urls import reverse

from ember.service.task_ref import stage_task
from kitchen.kit.models import Equipment
from kitchen.line.starting import start
from kitchen.services.schedule_request import schedule_request

from .a_service import add
from .pages import body_of
from .posting import posted

BATH = {"kind": "bath", "name": "Bath 5", "check_days": "28", "volume": "12", "heater": "1200"}


@pytest.fixture
def small_bath(kitchen):
    return Equipment.objects.create(kitchen=kitchen, kind="bath", name="Bath 5", litres=12.0, power_w=1200.0, places=80)


def test_volume_and_heater_are_kept_in_the_persons_unit(chef_in, chef, kitchen):
    chef_in.post(reverse("kit:new-equipment"), BATH)
    bath = Equipment.objects.of(kitchen).get()
    assert bath.load == {"litres": 12.0, "power_w": 1200.0}
    assert "12 l, 1200 W" in " ".join(body_of(chef_in.get(reverse("kit:kit"))).split()).replace(" ,", ",")
    chef.mass_unit = "lb"
    chef.save()
    assert 'value="12.7"' in body_of(chef_in.get(reverse("kit:equipment", args=[bath.pk])))


@pytest.mark.parametrize(("field", "value", "words"), [("volume", "0.1", "0.5"), ("heater", "lots", "Heater")])
def test_a_volume_that_cannot_be_says_so(chef_in, field, value, words):
    answer = chef_in.post(reverse("kit:new-equipment"), BATH | {field: value})
    assert answer.status_code == 422
    assert words in body_of(answer)


def test_a_pan_has_no_volume(chef_in, kitchen):
    pan = {"kind": "pan", "diameter": "280", "mass": "1900", "material": "steel"}
    chef_in.post(reverse("kit:new-equipment"), BATH | pan)
    assert Equipment.objects.of(kitchen).get().load == {}


@pytest.mark.parametrize("kind", ["bath", "oven", "fry"])
def test_the_bench_takes_over_what_the_chosen_equipment_holds(signed_in, kitchen, document, kind):
    stage = {"bath": {"water_c": 57.0}, "oven": {"air_c": 180.0}, "fry": {"oil_c": 175.0}}[kind]
    equipment_kind = {"fry": "fryer"}.get(kind, kind)
    own = Equipment.objects.create(kitchen=kitchen, kind=equipment_kind, name="Ours", litres=17.0, power_w=1800.0)
    plan = {**document, "stages": [{"kind": kind, "minutes": 20.0, **stage}]}
    data = posted(plan) | {"do": "kit:0", "s0-kit": str(own.pk)}
    answer = signed_in.post(reverse("plans:bench"), data)
    load = answer.context["bench"].core.stages[0].load
    assert (load.litres, load.power_w) == (pytest.approx(17.0, abs=0.05), 1800.0)
    assert answer.context["kit"][0].chosen == own.pk
    taken = posted(answer.context["bench"].stated) | {"do": "kit:0", "s0-kit": ""}
    assert signed_in.post(reverse("plans:bench"), taken).context["bench"].core.stages[0].load is None


def test_a_service_splits_what_its_bath_does_not_bear(service, chef, plan, evening, small_bath):
    Equipment.objects.filter(name="Bath C").delete()
    add(service, chef, "Strips", plan, evening, portions=40)
    crowded = schedule_request(service, service.kitchen.now(), {}).request
    bath = next(task for each in crowded["dishes"] for task in each["tasks"] if task["id"] == stage_task(0))
    assert "batches of" in bath["name"]
    small_bath.litres, small_bath.power_w = 400.0, 9000.0
    small_bath.save()
    roomy = schedule_request(service, service.kitchen.now(), {}).request
    other = next(task for each in roomy["dishes"] for task in each["tasks"] if task["id"] == stage_task(0))
    assert "batches" not in other["name"]
    assert bath["minutes"] > other["minutes"]


def test_a_service_switches_its_equipment_on_by_its_own_heater(service, chef, plan, evening, small_bath):
    add(service, chef, "Strips", plan, evening)
    rate = {row["id"]: row.get("heat_c_per_min") for row in schedule_request(
        service, service.kitchen.now(), {}).request["equipment"]}[f"e{small_bath.pk}"]  # fmt: skip
    # 12 l of water at 1.2 kW less what the tub loses: 1.2 to 1.43 °C a minute.
    assert 1.2 < rate < 1200.0 / (12 * 4180.0) * 60.0
    small_bath.heat_c_per_min = 0.5
    small_bath.save()
    rows = schedule_request(service, service.kitchen.now(), {}).request["equipment"]
    assert next(row for row in rows if row["id"] == f"e{small_bath.pk}")["heat_c_per_min"] == 0.5


def test_a_cook_goes_in_as_its_bath_bears(plan, chef, small_bath):
    document = {**plan.document, "piece": {**plan.document["piece"], "count": 60}}
    cook = start(plan, chef, document=document)
    first = cook.result["steps"][0]
    assert "batches of" in first["how"]
    assert cook.document["stages"][0]["load"]["pieces"] < 60
