"""The kit: equipment, its checks, probes against ice and the boil."""

from __future__ import annotations

import datetime as dt
from itertools import pairwise

import pytest
from django.db import DatabaseError, IntegrityError, transaction
from django.urls import reverse

from kitchen.drawings.off_scale import off_scale
from kitchen.kit import actions
from kitchen.kit.models import Equipment, KitCheck, Taught
from kitchen.kit.queries import due, off_of

from .pages import body_of
from .posting import posted

PAN = {"kind": "pan", "name": "Pan 3", "diameter": "280", "mass": "1900", "material": "steel", "check_days": "14"}
OVEN = {"kind": "oven", "name": "Oven 7", "station": "Pass", "places": "4", "check_days": "28"}


@pytest.fixture
def oven(kitchen):
    return Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 7")


def test_equipment_is_added_changed_taken_out_and_brought_back(chef_in, kitchen):
    chef_in.post(reverse("kit:new-equipment"), PAN)
    pan = Equipment.objects.of(kitchen).get()
    assert pan.vessel == {"mass_kg": 1.9, "material": "steel", "diameter_mm": 280.0}
    assert 'value="280"' in body_of(chef_in.get(reverse("kit:equipment", args=[pan.pk])))
    chef_in.post(reverse("kit:equipment", args=[pan.pk]), PAN | {"name": "Pan three"})
    pan.refresh_from_db()
    assert pan.name == "Pan three"
    body = body_of(chef_in.post(reverse("kit:remove", args=[pan.pk]), follow=True))
    assert "Pan three archived" in body
    assert reverse("kit:restore", args=[pan.pk]) in body
    assert not Equipment.objects.of(kitchen).current().exists()
    chef_in.post(reverse("kit:restore", args=[pan.pk]))
    assert Equipment.objects.of(kitchen).current().exists()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"mass": ""}, "Enter the pan"),
        ({"material": ""}, "Choose the pan"),
        ({"diameter": "9999"}, "from 80 to 1200 mm"),
        ({"name": ""}, "Enter a name"),
        ({"check_days": "0"}, "greater than or equal to 1"),
        ({"kind": "cauldron"}, "Select a valid choice"),
    ],
)
def test_what_is_wrong_is_told_beside_its_field(chef_in, kitchen, change, says):
    response = chef_in.post(reverse("kit:new-equipment"), PAN | change)
    assert response.status_code == 422
    assert says in body_of(response)
    assert not Equipment.objects.of(kitchen).exists()


def test_two_things_of_one_name_are_refused_and_a_removed_one_frees_its_name(chef_in, oven):
    response = chef_in.post(reverse("kit:new-equipment"), OVEN)
    assert "already equipment called Oven 7" in body_of(response)
    actions.remove_equipment(oven)
    chef_in.post(reverse("kit:new-equipment"), OVEN)
    chef_in.post(reverse("kit:restore", args=[oven.pk]))
    oven.refresh_from_db()
    assert oven.removed_at is not None


def test_a_pan_without_measures_is_refused_by_the_database(kitchen):
    with pytest.raises(IntegrityError), transaction.atomic():
        Equipment.objects.create(kitchen=kitchen, kind="pan", name="Ghost")


def test_a_check_says_how_far_off_and_when_next(signed_in, kitchen, oven):
    assert "Needs a reading" in body_of(signed_in.get(reverse("kit:kit")))
    url = reverse("kit:check-equipment", args=[oven.pk])
    signed_in.post(url, {"wanted": "180", "read": "171.5"})
    body = body_of(signed_in.get(reverse("kit:kit")))
    assert "\u22128.5 °C at 180" in body
    assert "<b>28 days</b>" in body
    signed_in.post(url, {"wanted": "120", "read": "117.5"})
    assert off_of(oven, 150.0) == -5.5
    signed_in.post(url, {"wanted": "180", "read": "178"})  # the newest counts
    assert off_of(oven, 180.0) == -2.0


@pytest.mark.parametrize("read", ["", "hot", "900"])
def test_a_check_that_cannot_be_read_is_told_and_stays_typed(signed_in, oven, read):
    response = signed_in.post(reverse("kit:check-equipment", args=[oven.pk]), {"wanted": "180", "read": read})
    assert response.status_code == 422
    assert 'role="alert"' in body_of(response)
    assert f'value="{read}"' in body_of(response)
    assert not KitCheck.objects.exists()


def test_probes_are_held_to_the_rule_and_to_the_altitude(client, chef, kitchen, device):
    client.force_login(chef)
    probe = device[0].probes.first()
    client.post(reverse("kit:altitude"), {"altitude": "1500"})
    kitchen.refresh_from_db()
    url = reverse("kit:check-probe", args=[probe.pk])
    client.post(url, {"kind": "ice", "read": "0.3"})
    client.post(url, {"kind": "boil", "read": "94.8"})
    body = body_of(client.get(reverse("kit:kit")))
    assert "Rule met: 0.3° off (limit 1.0°)" in body
    client.post(url, {"kind": "boil", "read": "96.5"})
    assert "Not met: 1.5° off (limit 1.0°)" in body_of(client.get(reverse("kit:kit")))
    assert "Altitude must be from" in body_of(client.post(reverse("kit:altitude"), {"altitude": "-900"}))


def test_checks_stand_and_belong_to_their_kitchen(client, chef, oven, stranger, device):
    check = actions.check_kit(oven, chef, {"kind": "setting", "wanted_c": 100.0, "read_c": 99.0})
    check.read_c = 100.0
    with pytest.raises(DatabaseError), transaction.atomic():
        check.save()
    client.force_login(stranger)
    assert oven.name not in body_of(client.get(reverse("kit:kit")))
    for name, key in (("remove", oven.pk), ("restore", oven.pk), ("check-equipment", oven.pk), ("equipment", oven.pk),
                      ("check-probe", device[0].probes.first().pk)):  # fmt: skip
        assert client.post(reverse(f"kit:{name}", args=[key])).status_code == 404, name


def test_a_cook_reads_but_changes_no_equipment(signed_in, oven):
    assert signed_in.post(reverse("kit:new-equipment"), OVEN).status_code == 403
    assert signed_in.post(reverse("kit:remove", args=[oven.pk])).status_code == 403
    assert signed_in.post(reverse("kit:altitude"), {"altitude": "5"}).status_code == 403
    body = body_of(signed_in.get(reverse("kit:kit")))
    assert "Add equipment" not in body


def test_a_check_is_due_by_the_kitchens_days(kitchen):
    now = kitchen.now()
    assert due(kitchen, None, 7).days is None
    assert due(kitchen, now - dt.timedelta(days=3), 7).days == 4
    assert due(kitchen, now - dt.timedelta(days=9), 7).overdue == 2


def test_marks_on_a_scale_keep_apart_and_inside():
    scale = off_scale([(190.0, -9.0), (160.0, -8.8), (110.0, 40.0)], 10.0, 5.0)
    labels = [mark.label_x for mark in scale.marks]
    assert all(b - a >= 26 for a, b in pairwise(labels))
    assert max(mark.x for mark in scale.marks) == scale.ticks[-1][0]
    assert [mark.is_off for mark in scale.marks] == [True, True, True]


# On the bench -------------------------------------------------------------------------------------------------------


def test_a_plan_takes_over_one_of_our_pans_and_an_ovens_offset(signed_in, kitchen, chef, document, oven):
    pan = Equipment.objects.create(
        kitchen=kitchen, kind="pan", name="Pan 1", diameter_mm=300.0, mass_kg=2.4, material="cast-iron"
    )
    actions.check_kit(oven, chef, {"kind": "setting", "wanted_c": 160.0, "read_c": 152.0})
    document["stages"].insert(2, {"kind": "oven", "air_c": 160, "minutes": 5})

    def asked(do, data, **more):
        return signed_in.post(reverse("plans:bench"), data | {"do": do} | more).context["bench"]

    found = asked("kit:1", posted(document), **{"s1-kit": str(pan.pk)})
    assert found.core.stages[1].pan.mass_kg == 2.4
    found = asked("kit:2", posted(document), **{"s2-kit": str(oven.pk)})
    assert found.core.stages[2].offset_k == -8.0
    kept = found.document({})
    response = signed_in.post(reverse("plans:bench"), posted(kept))
    assert response.context["kit"][2].chosen == oven.pk  # what the plan describes is shown as ours
    assert asked("kit:2", posted(kept), **{"s2-kit": ""}).core.stages[2].offset_k == 0.0
    for odd in ("99999", "x", "9" * 30):
        assert asked("kit:1", posted(document), **{"s1-kit": odd}).core.stages[1].pan is None


def test_a_plan_takes_over_a_baths_offset_and_what_was_learned_of_a_pan(signed_in, kitchen, chef, document):
    bath = Equipment.objects.create(kitchen=kitchen, kind="bath", name="Bath C")
    pan = Equipment.objects.create(
        kitchen=kitchen, kind="pan", name="Pan 9", diameter_mm=300.0, mass_kg=2.4, material="cast-iron"
    )
    actions.check_kit(bath, chef, {"kind": "setting", "wanted_c": 57.0, "read_c": 56.2})
    learned = {"number": 1, "low": 0.7, "high": 0.9, "cooks": 14, "before_k": 3.0, "after_k": 2.0, "by": chef}
    Taught.objects.create(kitchen=kitchen, kind="pan", equipment=pan, value=0.8, at=kitchen.now(), **learned)

    def asked(stage, key):
        data = posted(document) | {"do": f"kit:{stage}", f"s{stage}-kit": str(key)}
        return signed_in.post(reverse("plans:bench"), data).context["bench"]

    assert asked(0, bath.pk).core.stages[0].offset_k == pytest.approx(-0.8)
    assert asked(1, pan.pk).core.stages[1].pan.contact == 0.8
    as_it_is = signed_in.post(reverse("plans:bench"), posted(document)).context["bench"]
    assert asked(0, bath.pk).result.pull.s > as_it_is.result.pull.s


def test_equipment_of_another_kitchen_is_not_taken_over(signed_in, stranger, document):
    theirs = Equipment.objects.create(
        kitchen=stranger.memberships.get().kitchen, kind="pan", name="X", diameter_mm=300.0, mass_kg=9.0,
        material="steel",
    )  # fmt: skip
    data = posted(document) | {"do": "kit:1", "s1-kit": str(theirs.pk)}
    assert signed_in.post(reverse("plans:bench"), data).context["bench"].core.stages[1].pan is None
