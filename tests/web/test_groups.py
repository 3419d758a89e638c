"""Kitchens of a group: who belongs, what is shared and taken over, who reads across, and that nobody else does."""

from __future__ import annotations

import csv
import datetime as dt
import io

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from ember.files.plan import parse_plan
from kitchen.accounts.actions import add_person
from kitchen.accounts.models import Invitation, Kitchen, Membership
from kitchen.book.models import Entry, Paper
from kitchen.groups import belonging, sharing
from kitchen.groups.models import GroupKitchen, GroupRole, JoinCode, Share, TakenOver
from kitchen.groups.overview import read_kitchen
from kitchen.groups.tasks import make_group_paper
from kitchen.kit.actions import check_kit
from kitchen.kit.models import Equipment
from kitchen.plans import actions as plan_actions
from kitchen.plans.models import Plan
from kitchen.units.templatetags.units import Units
from tests.conftest import PASSWORD

from .pages import body_of


@pytest.fixture
def group(kitchen, chef):
    return belonging.begin_group(kitchen, chef, "Coast")


@pytest.fixture
def quay(group, chef):
    """Another kitchen of the group, which joined by a code."""
    other = Kitchen.objects.create(name="Quay")
    person = add_person(other, "quay", "Di Quay", PASSWORD, "chef")
    belonging.join(other, person, JoinCode.make(group, chef))
    return other


@pytest.fixture
def quay_chef(quay):
    return quay.memberships.get().person


@pytest.fixture
def quay_in(quay_chef):
    client = Client()
    client.force_login(quay_chef)
    return client


def missed_entry(kitchen, person, what="Fridge 3", note=""):
    rule = {"met": False, "text": "at 5 °C or less", "standard": kitchen.standard, "section": "3-501.16", "edition": ""}
    return Entry.objects.create(
        kitchen=kitchen, kind="cold", by=person, at=kitchen.now(), what=what, celsius=9.0, rule=rule, note=note
    )


# Belonging ----------------------------------------------------------------------------------------------------------


def test_a_chef_starts_a_group_and_another_kitchen_joins_by_a_code_once(chef_in, kitchen, stranger):
    assert "Start a group" in body_of(chef_in.get(reverse("groups:group")))
    assert "Coast is a group now" in body_of(chef_in.post(reverse("groups:begin"), {"name": "Coast"}, follow=True))
    code = chef_in.post(reverse("groups:code")).context["code"]
    other = Client()
    other.force_login(stranger)
    assert "can read your records" in body_of(other.post(reverse("groups:join"), {"code": code}, follow=True))
    group = belonging.group_of(kitchen)
    assert {str(row) for row in group.kitchens} == {"Test galley · Deck 2", "Other"}
    third = add_person(Kitchen.objects.create(name="Third"), "third", "Ed", PASSWORD, "chef")
    other.force_login(third)
    assert "wrong, used or more" in body_of(other.post(reverse("groups:join"), {"code": code}, follow=True))
    assert code not in str(list(JoinCode.objects.values()))


@pytest.mark.parametrize("code", ["", "x", "a" * 80])
def test_a_wrong_code_joins_nothing(group, quay_in, quay, code):
    belonging.leave(quay)
    assert "This code is wrong" in body_of(quay_in.post(reverse("groups:join"), {"code": code}, follow=True))
    assert belonging.group_of(quay) is None


def test_an_old_code_joins_nothing(group, chef, quay, quay_chef):
    belonging.leave(quay)
    code = JoinCode.make(group, chef)
    JoinCode.objects.filter(used_at=None).update(made_at=timezone.now() - dt.timedelta(days=4))
    with pytest.raises(belonging.GroupError, match="three days"):
        belonging.join(quay, quay_chef, code)


def test_a_kitchen_is_in_one_group(quay, quay_chef, chef, group):
    with pytest.raises(belonging.GroupError, match="already"):
        belonging.join(quay, quay_chef, JoinCode.make(group, chef))
    with pytest.raises(belonging.GroupError, match="already"):
        belonging.begin_group(quay, quay_chef, "Own")


def test_a_cook_neither_starts_nor_joins_nor_leaves(signed_in, group):
    for name in ("begin", "join", "leave", "code", "share", "give-role"):
        assert signed_in.post(reverse(f"groups:{name}"), {"name": "X"}).status_code == 403, name
    assert GroupKitchen.objects.filter(left_at=None).count() == 1


def test_roles_go_to_people_of_the_groups_kitchens_and_one_chef_stays(chef_in, chef, group, quay_chef, stranger):
    assert (
        chef_in.post(reverse("groups:give-role"), {"person": str(quay_chef.pk), "role": "inspector"}).status_code == 302
    )
    assert not GroupRole.objects.filter(person=quay_chef).exists(), "an inspector needs a last day"
    day = str(timezone.now().date() + dt.timedelta(days=2))
    chef_in.post(reverse("groups:give-role"), {"person": str(quay_chef.pk), "role": "inspector", "last_day": day})
    assert GroupRole.objects.get(person=quay_chef).last_day.isoformat() == day
    said = body_of(chef_in.post(reverse("groups:give-role"), {"person": str(stranger.pk), "role": "chef"}, follow=True))
    assert "works in none of the group&#x27;s kitchens" in said
    mine = GroupRole.objects.get(person=chef)
    assert "at least one chef" in body_of(chef_in.post(reverse("groups:end-role", args=[mine.pk]), follow=True))
    for wrong in (
        {"person": "0", "role": "chef"},
        {"person": "x", "role": "chef"},
        {"person": str(chef.pk), "role": "king"},
    ):
        assert chef_in.post(reverse("groups:give-role"), wrong).status_code == 404


# Sharing ------------------------------------------------------------------------------------------------------------


def test_a_shared_plan_is_told_of_and_taken_over_as_the_kitchens_own(chef_in, quay_in, quay, plan, quay_chef):
    chef_in.post(reverse("groups:share"), {"subject": str(plan.pk)})
    share = Share.objects.get()
    assert "version 1 from Test galley" in body_of(quay_in.get("/"))
    assert "look, then take over" not in body_of(chef_in.get("/")), "who shared it needs no news of it"
    page = body_of(quay_in.post(reverse("groups:take", args=[share.pk]), follow=True))
    assert "this kitchen&#x27;s own now" in page
    mine = Plan.objects.of(quay).get()
    assert (mine.name, mine.created_by) == (plan.name, quay_chef)
    assert mine.versions.get().changes == ["From Test galley · Deck 2, version 1 of Coast"]
    assert "look, then take over" not in body_of(quay_in.get("/"))
    assert plan.kitchen_id != mine.kitchen_id


def test_a_newer_version_becomes_a_version_of_the_same_plan(group, kitchen, chef, quay, quay_chef, plan, document):
    first = sharing.take_over(quay, sharing.share_plan(group, plan, chef), quay_chef).plan
    with pytest.raises(belonging.GroupError, match="already"):
        sharing.share_plan(group, plan, chef)
    document["stages"][0]["water_c"] = 58.0
    plan = plan_actions.save(plan, chef, parse_plan(document))
    share = sharing.share_plan(group, plan, chef)
    (news,) = sharing.news_for(quay)
    assert (news.share.number, news.held.share.number) == (2, 1)
    again = sharing.take_over(quay, share, quay_chef).plan
    assert again.pk == first.pk
    assert again.document["stages"][0]["water_c"] == 58.0
    assert again.versions.count() == 2
    with pytest.raises(belonging.GroupError, match="already"):
        sharing.take_over(quay, share, quay_chef)
    assert sharing.news_for(quay) == [] == sharing.news_for(kitchen)


def test_a_plan_archived_meanwhile_is_taken_over_anew(group, chef, quay, quay_chef, plan, document):
    first = sharing.take_over(quay, sharing.share_plan(group, plan, chef), quay_chef).plan
    plan_actions.delete(first, quay_chef)
    document["stages"][0]["water_c"] = 58.0
    share = sharing.share_plan(group, plan_actions.save(plan, chef, parse_plan(document)), chef)
    assert sharing.take_over(quay, share, quay_chef).plan.pk != first.pk


def test_a_kitchens_own_equipment_stays_with_it(group, chef, kitchen, document):
    document["stages"][0] |= {"offset_k": -1.5, "load": {"litres": 20.0, "power_w": 1500.0}}
    own = plan_actions.create(kitchen, chef, parse_plan(document))
    shared = sharing.share_plan(group, own, chef).document
    assert "offset_k" in own.document["stages"][0]
    assert not {"offset_k", "load"} & shared["stages"][0].keys()


def test_rules_are_taken_over_with_the_stricter_limit_of_each(group, kitchen, chef, quay, quay_chef):
    kitchen.house = {"core_c": {"poultry": 75.0}, "hold_cold_c": 3.0}
    kitchen.save()
    quay.house, quay.standard = {"core_c": {"poultry": 77.0}, "hold_hot_c": 65.0}, "us-usda-consumer"
    quay.save()
    sharing.take_over(quay, sharing.share_rules(group, kitchen, chef), quay_chef)
    quay.refresh_from_db()
    assert quay.standard == kitchen.standard
    assert quay.house == {"core_c": {"poultry": 77.0}, "hold_hot_c": 65.0, "hold_cold_c": 3.0}


def test_what_is_withdrawn_is_no_longer_offered_and_stays_where_it_is(chef_in, group, chef, quay, quay_chef, plan):
    share = sharing.share_plan(group, plan, chef)
    taken = sharing.take_over(quay, share, quay_chef)
    chef_in.post(reverse("groups:withdraw", args=[share.pk]))
    assert not Share.objects.filter(group=group).newest().exists()
    assert Plan.objects.filter(pk=taken.plan.pk).exists()
    assert sharing.share_plan(group, plan, chef).number == 2


# Reading across -----------------------------------------------------------------------------------------------------


def test_a_group_chef_reads_every_kitchen_on_one_page(chef_in, kitchen, quay, quay_chef, chef):
    missed_entry(quay, quay_chef)
    missed_entry(quay, quay_chef, "Fridge 4", note="moved to fridge 2")
    oven = Equipment.objects.create(kitchen=quay, kind="oven", name="Quay oven")
    check_kit(oven, quay_chef, {"kind": "setting", "wanted_c": 180.0, "read_c": 171.0})
    page = body_of(chef_in.get(reverse("groups:across")))
    assert page.count("Reading …") == 2
    row = body_of(chef_in.get(reverse("groups:kitchen", args=[quay.pk])))
    assert "Fridge 3" in row
    assert "No corrective action" in row
    assert "moved to fridge 2" in row
    assert "Quay oven" in row
    read = read_kitchen(quay, timezone.now().date() - dt.timedelta(days=7), timezone.now().date(), Units())
    assert (len(read.missed), len(read.still_open), [drift.name for drift in read.drifted]) == (2, 1, ["Quay oven"])
    empty = read_kitchen(kitchen, timezone.now().date() - dt.timedelta(days=7), timezone.now().date(), Units())
    assert empty.is_quiet


def test_the_report_comes_as_csv_and_as_pdf(chef_in, chef, kitchen, quay, quay_chef):
    missed_entry(quay, quay_chef, what="=2+3")
    rows = list(csv.DictReader(io.StringIO(chef_in.get(reverse("groups:csv")).content.decode())))
    assert [(row["kitchen"], row["name"], row["corrective_action"]) for row in rows] == [("Quay", "'=2+3", "")]
    assert chef_in.get(reverse("groups:pdf")).status_code == 302
    paper = Paper.objects.of(kitchen).get()
    make_group_paper(str(paper.pk))
    paper.refresh_from_db()
    assert bytes(paper.pdf).startswith(b"%PDF")
    assert (paper.done, paper.parts) == (2, 2)


def test_the_report_is_not_made_for_who_lost_the_role_meanwhile(chef, quay_chef, kitchen, group):
    paper = Paper.objects.create(kitchen=kitchen, by=chef, first=timezone.now().date(), last=timezone.now().date())
    belonging.give_role(group, quay_chef, "chef")
    belonging.end_role(GroupRole.objects.get(person=chef))
    make_group_paper(str(paper.pk))
    paper.refresh_from_db()
    assert paper.pdf is None
    assert "no longer" in paper.problem


READING = ("groups:across", "groups:csv", "groups:pdf")


def test_who_has_no_role_reads_nothing_across(signed_in, quay_in, kitchen, quay, stranger):
    outside = Client()
    outside.force_login(stranger)
    for client in (signed_in, quay_in, outside):
        for name in READING:
            assert client.get(reverse(name)).status_code == 403
        for pk in (kitchen.pk, quay.pk):
            assert client.get(reverse("groups:kitchen", args=[pk])).status_code == 403


def test_a_kitchen_outside_the_group_or_that_left_is_not_read(chef_in, quay, quay_in, stranger):
    other = stranger.memberships.get().kitchen
    assert chef_in.get(reverse("groups:kitchen", args=[quay.pk])).status_code == 200
    assert chef_in.get(reverse("groups:kitchen", args=[other.pk])).status_code == 404
    quay_in.post(reverse("groups:leave"))
    assert chef_in.get(reverse("groups:kitchen", args=[quay.pk])).status_code == 404
    assert "Quay" not in body_of(chef_in.get(reverse("groups:across")))


def test_an_inspector_reads_across_until_the_last_day_and_changes_nothing(chef_in, group, quay, quay_in, quay_chef):
    role = belonging.give_role(group, quay_chef, "inspector", timezone.now().date() + dt.timedelta(days=1))
    assert quay_in.get(reverse("groups:across")).status_code == 200
    for name in ("code", "share", "give-role"):
        assert quay_in.post(reverse(f"groups:{name}")).status_code == 403
    role.last_day = timezone.now().date() - dt.timedelta(days=2)
    role.save()
    assert quay_in.get(reverse("groups:across")).status_code == 403


def test_every_address_of_a_group_is_closed_to_a_chef_of_another(group, chef, quay, plan, stranger):
    share = sharing.share_plan(group, plan, chef)
    client = Client()
    client.force_login(stranger)
    belonging.begin_group(stranger.memberships.get().kitchen, stranger, "Elsewhere")
    role = GroupRole.objects.get(person=chef)
    for name, key in (("take", share.pk), ("withdraw", share.pk), ("end-role", role.pk)):
        assert client.post(reverse(f"groups:{name}", args=[key])).status_code == 404, name
    assert client.post(reverse("groups:share"), {"subject": str(plan.pk)}).status_code == 404
    assert client.post(reverse("groups:give-role"), {"person": str(chef.pk), "role": "chef"}).status_code == 302
    assert GroupRole.objects.filter(person=chef).count() == 1
    assert "Quay" not in body_of(client.get(reverse("groups:across")))
    assert plan.name not in body_of(client.get(reverse("groups:group")))
    assert not TakenOver.objects.exists()
    with pytest.raises(belonging.GroupError):
        sharing.take_over(stranger.memberships.get().kitchen, share, stranger)


# Asking a person of another kitchen in ------------------------------------------------------------------------------


def ask(client, name, role="cook", **more):
    return client.post(reverse("accounts:ask"), {"ask-username": name, "ask-role": role, **more}, follow=True)


def test_a_person_of_another_kitchen_is_asked_and_accepts(chef_in, kitchen, stranger):
    assert "is asked on their page" in body_of(ask(chef_in, "stranger"))
    theirs = Client()
    theirs.force_login(stranger)
    assert "asks you to work there as cook" in body_of(theirs.get(reverse("accounts:you")))
    asked = Invitation.objects.get()
    theirs.post(reverse("accounts:answer", args=[asked.pk]), {"answer": "yes"})
    assert Membership.objects.get(person=stranger, kitchen=kitchen).role == "cook"
    assert theirs.post(reverse("accounts:answer", args=[asked.pk]), {"answer": "yes"}).status_code == 404


def test_they_may_decline_and_nobody_else_answers(chef_in, kitchen, stranger, signed_in):
    ask(chef_in, "stranger", "chef")
    asked = Invitation.objects.get()
    assert signed_in.post(reverse("accounts:answer", args=[asked.pk]), {"answer": "yes"}).status_code == 404
    theirs = Client()
    theirs.force_login(stranger)
    theirs.post(reverse("accounts:answer", args=[asked.pk]), {"answer": "no"})
    assert not Membership.objects.filter(person=stranger, kitchen=kitchen).exists()


def test_asking_says_the_same_whether_there_is_such_a_person(chef_in, stranger):
    known, unknown = body_of(ask(chef_in, "stranger")), body_of(ask(chef_in, "nobody-here"))
    assert "Whoever signs in as stranger is asked" in known
    assert "Whoever signs in as nobody-here is asked" in unknown


def test_a_question_is_taken_back_and_a_cook_asks_nobody(chef_in, kitchen, stranger, signed_in):
    ask(chef_in, "stranger")
    assert signed_in.post(reverse("accounts:ask"), {"ask-username": "x", "ask-role": "cook"}).status_code == 403
    chef_in.post(reverse("accounts:ask-no-more", args=[Invitation.objects.get().pk]))
    assert not Invitation.objects.exists()
    assert ask(chef_in, "stranger", "inspector").status_code == 422


def test_who_already_works_here_keeps_their_role(chef_in, chef, kitchen):
    ask(chef_in, "chef", "cook")
    chef_in.post(reverse("accounts:answer", args=[Invitation.objects.get().pk]), {"answer": "yes"})
    assert chef.memberships.get().role == "chef"


def test_who_is_in_no_kitchen_can_still_accept(chef_in, kitchen, django_user_model):
    django_user_model.objects.create_user("lone", password=PASSWORD)
    ask(chef_in, "lone")
    client = Client()
    client.force_login(django_user_model.objects.get(username="lone"))
    assert "asks you to work there" in body_of(client.get("/"))
    client.post(reverse("accounts:answer", args=[Invitation.objects.get().pk]), {"answer": "yes"})
    assert client.get("/").status_code == 200
