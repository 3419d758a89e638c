"""The catalogue's pages and a kitchen's own cuts."""

from __future__ import annotations

import pytest
from django.urls import reverse

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from ember.food.catalogue import cuts
from kitchen.cuts.models import OwnCut
from kitchen.plans.models import Plan

from .pages import body_of
from .posting import UNITS, posted

OWN = {
    "name": "Island ewe", "base": "lamb/leg-steak", "word0": "pink", "low0": "52", "word1": "grey", "low1": "66",
    "water": "66", "protein": "20", "fat": "13", "carbohydrate": "0", "ash": "1",
}  # fmt: skip


@pytest.fixture
def as_chef(client, chef):
    client.force_login(chef)
    return client


@pytest.fixture
def own(as_chef, kitchen):
    as_chef.post(reverse("cuts:new"), OWN)
    return OwnCut.objects.get()


def test_the_catalogue_shows_every_cut_and_finds(client, cook_person):
    client.force_login(cook_person)
    body = body_of(client.get(reverse("cuts:catalogue")))
    for row in cuts().values():
        assert row.name.replace("'", "&#x27;") in body
    assert "Add your own cut" not in body.split("<h1")[1].split("</div>")[0]
    found = body_of(client.get(reverse("cuts:catalogue"), {"q": "tough braise"}))
    assert "Oxtail" in found
    assert "Sole fillet" not in found
    assert "No cut matches" in body_of(client.get(reverse("cuts:catalogue"), {"q": "unicorn"}))


def test_a_chef_makes_an_own_cut_and_plans_it(as_chef, own, kitchen):
    assert own.doneness == [["pink", 52.0], ["grey", 66.0]]
    assert own.composition["fat"] == pytest.approx(0.13)
    body = body_of(as_chef.get(reverse("plans:new"), {"own": own.pk}))
    assert 'value="Island ewe" aria-label="Cut: Lamb leg steak' in body
    assert "like lamb leg steak" in body
    assert '<option value="pink"' in body
    assert "Pink" in body
    # What the bench posts back keeps it, and a kept plan carries it.
    document = {
        "format": "open-ember/plan", "version": 1, "name": "Ewe", "target": {"doneness": "pink"},
        "piece": {
            "cut": own.base, "shape": {"kind": "slab", "thickness_mm": 25}, "start_c": 5, **own.piece,
        },
        "stages": [{"kind": "bath", "water_c": 58, "until": {"core_c": 56}}],
    }  # fmt: skip
    as_chef.post(reverse("plans:new"), {**posted(document, UNITS), "then": "keep"})
    kept = Plan.objects.of(kitchen).get()
    assert kept.document["piece"]["own_cut"]["name"] == "Island ewe"
    assert kept.document["piece"]["composition"]["fat"] == pytest.approx(0.13)
    assert evaluate(parse_plan(kept.document)).doneness.word == "pink"


def test_another_cut_leaves_the_own_one_behind(as_chef, own):
    document = {
        "format": "open-ember/plan", "version": 1, "name": "Ewe", "target": {"doneness": "pink"},
        "piece": {"cut": own.base, "shape": {"kind": "slab", "thickness_mm": 25}, "start_c": 5, **own.piece},
        "stages": [{"kind": "bath", "water_c": 58, "until": {"core_c": 56}}],
    }  # fmt: skip
    data = posted(document, UNITS) | {"cut": "beef/strip-loin"}
    body = body_of(as_chef.post(reverse("plans:bench"), data))
    assert "Our own" not in body
    assert '<option value="medium-rare"' in body


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": ""}, "Enter a name."),
        ({"low1": "51"}, "Words must go up"),
        ({"word1": "pink"}, "Words must go up"),
        ({"low1": ""}, "Enter the temperature it starts at."),
        ({"word0": ""}, "Enter the word."),
        ({"low0": "500"}, "From must be from 20 to 98 °C."),
        ({"fat": "80"}, "they must make 1"),
        ({"base": "moon/rock"}, "Select a valid choice"),
    ],
)
def test_a_wrong_own_cut_is_told_and_nothing_is_lost(as_chef, kitchen, change, said):
    answer = as_chef.post(reverse("cuts:new"), OWN | change)
    assert answer.status_code == 422
    body = body_of(answer)
    assert said in body
    assert OwnCut.objects.count() == 0
    assert 'value="66"' in body


def test_its_name_is_its_own(as_chef, own, kitchen):
    answer = as_chef.post(reverse("cuts:new"), OWN)
    assert "You already have a cut" in body_of(answer)
    assert OwnCut.objects.count() == 1


def test_it_is_changed_taken_out_and_brought_back(as_chef, own):
    as_chef.post(reverse("cuts:own", args=[own.pk]), OWN | {"name": "Island hogget", "word1": "", "low1": ""})
    own.refresh_from_db()
    assert (own.name, own.doneness) == ("Island hogget", [["pink", 52.0]])
    as_chef.post(reverse("cuts:remove", args=[own.pk]))
    assert "Island hogget" not in body_of(as_chef.get(reverse("cuts:catalogue"))).split("cut-rows")[1]
    assert as_chef.get(reverse("cuts:own", args=[own.pk])).status_code == 404
    as_chef.post(reverse("cuts:restore", args=[own.pk]))
    assert OwnCut.objects.current().count() == 1


def test_cooks_and_other_kitchens_keep_out(client, own, cook_person, stranger):
    client.force_login(cook_person)
    assert client.post(reverse("cuts:new"), OWN).status_code == 403
    assert client.post(reverse("cuts:remove", args=[own.pk])).status_code == 403
    client.force_login(stranger)
    assert client.get(reverse("cuts:own", args=[own.pk])).status_code == 404
    assert client.post(reverse("cuts:remove", args=[own.pk])).status_code == 404
    assert "Island ewe" not in body_of(client.get(reverse("cuts:catalogue")))
    assert "Our own" not in body_of(client.get(reverse("plans:new"), {"own": own.pk}))
