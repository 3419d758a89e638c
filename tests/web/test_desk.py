"""What every desk shares: requests kept under a name, addresses, the core's refusals beside their fields."""

from __future__ import annotations

import pytest
from django.db import IntegrityError, transaction
from django.test import RequestFactory

from ember.errors import BadInput
from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.batches.forms import ChillForm
from kitchen.brines.forms import BrineForm
from kitchen.brines.models import BrinePlan
from kitchen.desk.pages import address, code_of
from kitchen.desk.saved_requests import archive, restore, save_request
from kitchen.eggs.models import EggPlan

EGG = {"format": "open-ember/egg", "version": 1, "method": "boil", "minutes": 7}
BRINE = {"format": "open-ember/brine", "version": 1, "school": "dry", "meat_g": 900, "salt_pct": 1.4}
BOTH = [(EggPlan, EGG), (BrinePlan, BRINE)]


@pytest.mark.parametrize(("model", "document"), BOTH)
def test_kept_twice_is_one_with_the_last_writer(kitchen, chef, cook_person, model, document):
    first = save_request(model, kitchen, chef, "Ours", document)
    again = save_request(model, kitchen, cook_person, "Ours", document | {"note": 1})
    assert again.pk == first.pk
    assert again.updated_by == cook_person
    assert model.objects.of(kitchen).count() == 1


@pytest.mark.parametrize(("model", "document"), BOTH)
def test_kept_again_unchanged_stays_its_writers(kitchen, chef, cook_person, model, document):
    save_request(model, kitchen, chef, "Ours", document)
    assert save_request(model, kitchen, cook_person, "Ours", document).updated_by == chef


@pytest.mark.parametrize(("model", "document"), BOTH)
def test_into_the_bin_and_out_but_not_onto_another(kitchen, chef, model, document):
    old = save_request(model, kitchen, chef, "Ours", document)
    archive(old)
    assert not model.objects.of(kitchen).current().exists()
    assert restore(old)
    archive(old)
    save_request(model, kitchen, chef, "Ours", document)
    assert not restore(old)
    assert model.objects.of(kitchen).current().count() == 1


@pytest.mark.parametrize(("model", "document"), BOTH)
def test_the_database_holds_name_and_format(kitchen, chef, model, document):
    other = EGG if document is BRINE else BRINE
    for name, wrong in (("", document), ("Ours", other)):
        with pytest.raises(IntegrityError), transaction.atomic():
            model.objects.create(kitchen=kitchen, name=name, document=wrong, updated_by=chef)


def test_the_same_name_in_another_kitchen(kitchen, chef):
    other = Kitchen.objects.create(name="Another")
    assert save_request(EggPlan, kitchen, chef, "Ours", EGG).pk != save_request(EggPlan, other, chef, "Ours", EGG).pk


def test_an_address_leaves_out_what_is_empty():
    assert (
        address("/x/", {"a": "1", "b": "", "c": None, "d": False, "e": True, "f": "é&"}) == "/x/?a=1&e=on&f=%C3%A9%26"
    )


@pytest.mark.parametrize(("form", "at", "field"), [
    (BrineForm, "cure.nitrite_pct", "strength"), (BrineForm, "size", "size"), (BrineForm, "soak.hours", "soak"),
    (ChillForm, "back.to_c", "to"), (ChillForm, "cold[0].to_c", "until"),
    (ChillForm, "piece.shape.thickness_mm", "size"),
])  # fmt: skip
def test_a_refusal_stands_beside_its_field_in_the_persons_units(form, at, field):
    asked = form(None, Units(temperature="F"))
    asked.is_valid()
    assert asked.refuse(BadInput("It cannot get to 60 °C.", at)) == ""
    assert asked.errors[field] == ["It cannot get to 140 °F."]


@pytest.mark.parametrize("at", ["", "nowhere"])
def test_a_refusal_without_a_field_is_for_the_page(at):
    asked = ChillForm(None, Units())
    asked.is_valid()
    assert asked.refuse(BadInput("It cannot.", at)) == "It cannot."
    assert not asked.errors


def test_a_labels_code_is_a_drawing_without_styles():
    code = code_of(RequestFactory().get("/"), "/batches/1/")
    assert code.startswith("<svg")
    assert "style=" not in code
