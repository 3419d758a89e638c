"""What finished cooks teach, on the screen: a look, a proposal taken over and used, taken back; who may."""

from __future__ import annotations

import datetime as dt

import numpy as np
import pytest
from django.db import IntegrityError, transaction
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.demo.past import past_cook
from kitchen.drawings.before_after import before_after
from kitchen.kit.actions import add_device
from kitchen.kit.calibration import amount, as_cooked, worked_in
from kitchen.kit.models import Equipment, Taught
from kitchen.learning import actions
from kitchen.learning.models import Study
from kitchen.learning.tasks import make_study
from kitchen.line.models import Cook, CookEvent, Reading
from kitchen.line.starting import start
from kitchen.plans.actions import create

from .pages import body_of
from .posting import posted

ROAST = {
    "format": "open-ember/plan", "version": 1, "name": "Rump for the mess", "target": {"doneness": "medium"},
    "piece": {"cut": "lamb/rump", "shape": {"kind": "slab", "thickness_mm": 45}, "mass_g": 390, "start_c": 5},
    "stages": [{"kind": "oven", "air_c": 170, "until": {"core_c": 52}}, {"kind": "rest", "minutes": 8}],
}  # fmt: skip
FOUND = {
    "kind": "oven", "name": "Oven 7", "value": -9.2, "low": -11.0, "high": -7.4, "now": 0.0, "cooks": 14, "spread": 2.0,
    "before_k": 3.1, "after_k": 1.7, "fall_low_k": 0.6, "fall_high_k": 2.2, "errors": [["Rump", -3.0, 0.4]],
    "why_not": "",
}  # fmt: skip


@pytest.fixture
def oven(kitchen):
    return Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 7")


@pytest.fixture
def roast(kitchen, chef, oven):
    return create(kitchen, chef, parse_plan(ROAST))


@pytest.fixture
def asked(kitchen, chef, oven):
    """A look that found the oven cool, and a bird thick for its mass."""
    bird = {**FOUND, "kind": "cut", "key": "turkey/whole", "name": "Turkey", "value": 1.06, "low": 1.03, "high": 1.09,
            "now": 1.0}  # fmt: skip
    few = {**FOUND, "kind": "bath", "key": "999", "name": "Bath", "why_not": "not enough data: 3 cooks, 10 are needed"}
    study = actions.ask(kitchen, chef)
    Study.objects.filter(pk=study.pk).update(found=[{**FOUND, "key": str(oven.pk)}, bird, few], cooks=14)
    return Study.objects.get(pk=study.pk)


def test_an_oven_that_runs_cool_is_found_from_its_cooks(kitchen, chef, cook_person, oven, roast):
    device, _ = add_device(kitchen, "Needle", 1)
    rng = np.random.default_rng(5)
    sizes, media_k = np.exp(rng.normal(0, 0.04, 11)), -12.0 + rng.normal(0, 2, 11)
    really_k = float(media_k.mean())
    for number in range(11):
        past = {
            "by": "cook", "hours_ago": 30.0 * (number + 1), "size": float(sizes[number]),
            "medium_k": float(media_k[number]), "pull_late_s": 20, "corrections": ["as it was"],
            "check": {"sense": "probe", "sense_name": "Probe in the core", "note": ""}, "signed_by": None,
        }  # fmt: skip
        past_cook(kitchen, {"cook": cook_person}, device.probes.get(), roast, past, rng)
    study = actions.ask(kitchen, chef)
    make_study(str(study.pk))
    study.refresh_from_db()
    row = study.found[0]
    assert (row["kind"], row["key"], row["cooks"], row["why_not"]) == ("oven", str(oven.pk), 11, "")
    assert row["low"] - 1.0 <= really_k <= row["high"] + 1.0  # the interval alone holds four truths of five
    assert row["after_k"] < row["before_k"]
    assert (study.done, study.of) == (11, 11)


def test_nothing_is_learned_of_no_cooks(kitchen, chef, chef_in):
    study = actions.ask(kitchen, chef)
    make_study(str(study.pk))
    assert "Not enough data" in body_of(chef_in.get(reverse("learning:learned")))


def test_what_fails_is_said_and_changes_nothing(kitchen, chef, chef_in, monkeypatch):
    study = actions.ask(kitchen, chef)
    monkeypatch.setattr("kitchen.learning.actions.cooks_of", lambda *args: 1 / 0)
    make_study(str(study.pk))
    assert "Nothing was changed" in body_of(chef_in.get(reverse("learning:learned")))


def test_a_look_is_asked_for_and_shows_how_far_it_is(chef_in, kitchen):
    chef_in.post(reverse("learning:look"))
    page = body_of(chef_in.get(reverse("learning:learned")))
    assert "Waiting to start" in page
    Study.objects.update(done=3, of=9)
    page = body_of(chef_in.get(reverse("learning:learned"), headers={"hx-request": "true"}))
    assert "3 of 9 cooks" in page


def test_an_oven_that_comes_back_slowly_is_found_by_its_own_probe(kitchen, chef, cook_person, oven):
    document = {
        **ROAST,
        "name": "Basted",
        "stages": [{"kind": "oven", "air_c": 170, "minutes": 200}, {"kind": "rest", "minutes": 8}],
    }
    roast = create(kitchen, chef, parse_plan(document))
    device, _ = add_device(kitchen, "Oven wire", 1)
    wire = device.probes.get()
    wire.fixed_in = oven
    wire.save()
    cook = start(roast, cook_person)
    began = kitchen.now() - dt.timedelta(hours=4)
    Cook.objects.filter(pk=cook.pk).update(started_at=began, finished_at=began + dt.timedelta(hours=3.6))
    rows = []
    for i in range(7):
        opened = 1200.0 * (i + 1)
        CookEvent.objects.create(cook=cook, kind="told", at=began + dt.timedelta(seconds=opened), by=cook_person,
                                 data={"what": "opened"})  # fmt: skip
        for s in np.arange(-170.0, 880.0, 10.0):
            air = 170.0 if s < 0 else min(140.0 + 9.0 * s / 60.0, 170.0)
            at = began + dt.timedelta(seconds=opened + float(s))
            rows.append(Reading(kitchen=kitchen, probe=wire, at=at, claimed_at=at, celsius=air + 0.2 * (s % 3)))
    Reading.objects.bulk_create(rows, ignore_conflicts=True)
    study = actions.ask(kitchen, chef)
    make_study(str(study.pk))
    study.refresh_from_db()
    row = next(row for row in study.found if row["kind"] == "door")
    assert (row["key"], row["cooks"], row["why_not"]) == (str(oven.pk), 7, "")
    assert row["value"] == pytest.approx(9.0, rel=0.1)
    taught = actions.accept(study, "door", str(oven.pk), chef)
    again = start(roast, chef)
    assert again.document["stages"][0]["back_k_min"] == pytest.approx(9.0, abs=0.9)
    kit = {"0": {"name": "Oven 7"}}
    assert "Oven 7 comes back" in worked_in(roast.document, again.document, kit, chef.units)
    actions.take_back(taught, chef)
    assert start(roast, chef).document["stages"][0].get("back_k_min") is None


def test_a_proposal_is_taken_over_used_and_taken_back(chef_in, kitchen, asked, oven, roast, chef):
    page = body_of(chef_in.get(reverse("learning:learned")))
    for words in ("Oven 7 runs 9.2° cool", "11.0° cool to 7.4° cool", "Turkey comes 6 % thicker", "3 cooks, 10 are"):
        assert words in page
    chef_in.post(reverse("learning:accept", args=[asked.pk]), {"thing": f"oven:{oven.pk}"})
    taught = Taught.objects.get()
    assert (taught.number, taught.value, taught.cooks, taught.by) == (1, -9.2, 14, chef)
    cook = start(roast, chef)
    assert cook.document["stages"][0]["offset_k"] == -9.2
    kit = {"0": {"name": "Oven 7"}}
    assert worked_in(roast.document, cook.document, kit, chef.units) == "Oven 7 runs 9.2° cool"
    assert worked_in(roast.document, roast.document, kit, chef.units) == ""
    assert "offset_k" not in roast.document["stages"][0] or roast.document["stages"][0]["offset_k"] == 0
    slow = cook.result["pull"]["s"]
    chef_in.post(reverse("learning:undo", args=[taught.pk]))
    again = start(roast, chef)
    assert again.document["stages"][0].get("offset_k", 0) == 0
    assert again.result["pull"]["s"] < slow
    page = body_of(chef_in.get(reverse("learning:learned")))
    assert "until" in page


def test_it_is_said_when_a_cook_starts_with_it(chef_in, asked, oven, roast, chef):
    url, data = reverse("plans:edit", args=[roast.pk]), posted(ROAST) | {"then": "start"}
    assert "Worked in" not in body_of(chef_in.post(url, data, follow=True))
    actions.accept(asked, "oven", str(oven.pk), chef)
    shown = body_of(chef_in.post(url, data, follow=True))
    assert "Applied from learned calibration: Oven 7 runs 9.2° cool." in shown


def test_a_newer_one_replaces_and_the_older_comes_back(kitchen, asked, oven, chef):
    first = actions.accept(asked, "oven", str(oven.pk), chef)
    rows = asked.found
    rows[0]["value"], rows[0]["low"] = -12.0, -14.0
    Study.objects.filter(pk=asked.pk).update(found=rows)
    second = actions.accept(Study.objects.get(pk=asked.pk), "oven", str(oven.pk), chef)
    assert (second.number, Taught.objects.current().get()) == (2, second)
    back = actions.take_back(second, chef)
    assert (back.number, back.value) == (3, first.value)
    assert actions.take_back(second, chef) is None


def test_plans_that_name_the_thing_are_kept_anew(kitchen, asked, oven, chef, roast):
    actions.accept(asked, "oven", str(oven.pk), chef)
    document = {**ROAST, "name": "On Oven 7", "stages": [{**ROAST["stages"][0], "offset_k": -9.2}, ROAST["stages"][1]]}
    named = create(kitchen, chef, parse_plan(document))
    bird = create(kitchen, chef, parse_plan({**ROAST, "name": "Bird", "target": {"doneness": "tender"},
        "piece": {"cut": "turkey/whole", "shape": {"kind": "from_mass"}, "mass_g": 5000, "start_c": 5}}))  # fmt: skip
    actions.accept(asked, "cut", "turkey/whole", chef)
    bird.refresh_from_db()
    assert bird.document["piece"]["shape"]["size_factor"] == 1.06
    assert bird.versions.count() == 2
    actions.take_back(Taught.objects.get(equipment=oven, undone_at=None), chef)
    actions.take_back(Taught.objects.get(cut="turkey/whole", undone_at=None), chef)
    for plan in (named, bird, roast):
        plan.refresh_from_db()
    assert not named.document["stages"][0].get("offset_k")
    assert "size_factor" not in bird.document["piece"]["shape"] or bird.document["piece"]["shape"]["size_factor"] == 1
    assert roast.versions.count() == 1


def test_what_a_plan_says_itself_stays(kitchen, asked, oven, chef):
    actions.accept(asked, "oven", str(oven.pk), chef)
    document = {**ROAST, "stages": [{**ROAST["stages"][0], "offset_k": 4.0}, ROAST["stages"][1]]}
    assert as_cooked(kitchen, document, {"0": {"id": oven.pk}}) is document


@pytest.mark.parametrize("thing", ["bath:999", "oven:0", "cut:", "", "oven"])
def test_what_was_not_proposed_is_not_taken(chef_in, asked, thing):
    chef_in.post(reverse("learning:accept", args=[asked.pk]), {"thing": thing})
    assert not Taught.objects.exists()


def test_only_a_chef_of_the_kitchen_decides(client, asked, oven, cook_person, stranger, chef):
    for person, status in ((cook_person, 403), (stranger, 404)):
        client.force_login(person)
        url = reverse("learning:accept", args=[asked.pk])
        assert client.post(url, {"thing": f"oven:{oven.pk}"}).status_code == status
    client.force_login(cook_person)
    assert client.post(reverse("learning:look")).status_code == 403
    assert "A chef can accept it" in body_of(client.get(reverse("learning:learned")))
    taught = actions.accept(asked, "oven", str(oven.pk), chef)
    client.force_login(stranger)
    assert client.post(reverse("learning:undo", args=[taught.pk])).status_code == 404


def test_the_database_lets_one_count(kitchen, asked, oven, chef):
    taught = actions.accept(asked, "oven", str(oven.pk), chef)
    taught.pk = None
    with pytest.raises(IntegrityError), transaction.atomic():
        taught.save()


def test_amounts_in_words(chef):
    assert amount("oven", -9.24, chef.units) == "9.2° cool"
    assert amount("pan", 0.85, chef.units) == "15 % less heat"
    assert amount("cut", 1.06, chef.units) == "6 % thicker"


def test_dots_of_before_and_after_share_an_axis():
    drawing = before_after([("a", -4.0, 0.0), ("b", -4.0, 1.0), ("c", 90.0, -1.0)])
    assert drawing.before[0].x == drawing.before[1].x
    assert drawing.before[0].y != drawing.before[1].y
    assert drawing.before[2].is_off
    assert drawing.after[1].x == pytest.approx(drawing.nought_x)


def test_a_study_is_stopped(chef_in, kitchen, chef):
    asked = actions.ask(kitchen, chef)
    assert "Stop" in body_of(chef_in.get(reverse("learning:learned")))
    chef_in.post(reverse("learning:stop", args=[asked.pk]))
    make_study(str(asked.pk))
    asked.refresh_from_db()
    assert asked.problem == "Stopped."
    assert asked.found is None
