"""A service: its menu, planned on the kitchen's own kit, moved by hand, a clash settled, its day on the line."""

from __future__ import annotations

import datetime as dt
import re
import uuid

import pytest
from django.db import DatabaseError, transaction
from django.urls import reverse

from ember.files.plan import parse_plan
from kitchen.desk.saved_requests import save_request
from kitchen.eggs.models import EggPlan
from kitchen.kit.models import Equipment
from kitchen.line.actions import do_step, put_off
from kitchen.line.models import Cook
from kitchen.line.queries import status_of
from kitchen.plans.actions import create
from kitchen.services import actions, day
from kitchen.services.models import Dish, Service, TaskEvent
from kitchen.services.next_actions import service_actions
from kitchen.services.presenters import beside, chart_of, tasks_of
from kitchen.services.scale import brines_of, for_portions, meat_g
from kitchen.services.schedule_request import dish_tasks, schedule_request
from kitchen.services.sharing import shares_of
from kitchen.services.state import off_time, task_actuals
from kitchen.services.what_if import if_late

from ..lanes import lanes_of
from ..planned import planned
from ..seen import has_word
from .a_service import add, task
from .pages import body_of

EGGS = {"format": "open-ember/egg", "version": 1, "method": "boil", "egg": {"kind": "hen", "mass_g": 60, "start_c": 5},
        "count": 6, "minutes": 6.5, "then": {"kind": "ice_bath"}}  # fmt: skip


# The menu -----------------------------------------------------------------------------------------------------------


def test_a_service_is_written_down_and_planned(client, chef, kit, plan, evening):
    client.force_login(chef)
    assert "No services yet" in body_of(client.get(reverse("services:list")))
    head = {"name": "Deck supper", "covers": "12", "hands": "2", "opens": "08:00", "closes": "22:00"}
    menu = client.post(reverse("services:new"), head).url
    assert "Add the first dish" in body_of(client.get(menu))
    found = Service.objects.get()
    assert client.get(reverse("services:service", args=[found.pk])).url == menu, (
        "without dishes there is nothing to plan"
    )
    dish = {"of": f"plan:{plan.pk}", "name": "", "plate_up": f"{evening:%Y-%m-%dT%H:%M}", "portions": "8"}
    client.post(reverse("services:add-dish", args=[found.pk]), dish)
    row = found.dishes.get()
    assert (row.name, row.portions, row.plate_up) == (plan.name, 8, evening)
    beside_it = {"kind": "roast-vegetables", "name": "Beets", "setting": "190"}
    client.post(reverse("services:add-beside", args=[found.pk, row.pk]), beside_it)
    body = body_of(client.get(reverse("services:service", args=[found.pk])))
    assert "Beets" in body
    assert "Send to the line" in body
    assert " style=" not in body
    assert not has_word(body, "safe")
    client.post(reverse("services:remove-beside", args=[found.pk, row.pk, "c1"]))
    assert found.dishes.get().companions == []
    client.post(reverse("services:remove-dish", args=[found.pk, row.pk]))
    assert not found.dishes.exists()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"plate_up": ""}, "Enter the plating time."),
        ({"plate_up": "soon"}, "Enter a date and time"),
        ({"plate_up": "2001-01-01T18:00"}, "has passed"),
        ({"plate_up": "2099-01-01T18:00"}, "14 days ahead"),
        ({"portions": "0"}, "greater than or equal to 1"),
        ({"portions": ""}, "enter a number"),
        ({"of": "", "name": " "}, "Enter a name"),
        ({"of": "plan:nonsense"}, "Select a valid choice"),
    ],
)
def test_a_wrong_dish_comes_back_beside_its_field(signed_in, service, evening, change, words):
    typed = {"of": "", "name": "Soup", "plate_up": f"{evening:%Y-%m-%dT%H:%M}", "portions": "8"} | change
    response = signed_in.post(reverse("services:add-dish", args=[service.pk]), typed)
    assert response.status_code == 422
    assert words in body_of(response)
    assert not service.dishes.exists()


def test_hands_end_after_they_begin(signed_in, service):
    typed = {"name": "x", "covers": "3", "hands": "2", "opens": "18:00", "closes": "09:00"}
    for url in (reverse("services:new"), reverse("services:menu", args=[service.pk])):
        response = signed_in.post(url, typed)
        assert response.status_code == 422
        assert "must be after the start" in body_of(response)


def test_another_kitchens_service_is_not_found(client, stranger, two):
    client.force_login(stranger)
    dish = two.dishes.first()
    for name in ("service", "menu", "lists", "calendar", "late"):
        assert client.get(reverse(f"services:{name}", args=[two.pk])).status_code == 404
    for name in ("plan", "choose", "way-out", "begin", "end", "tap", "replan", "answer", "watch", "put-away"):
        assert client.post(reverse(f"services:{name}", args=[two.pk])).status_code in (403, 404), name
    assert client.post(reverse("services:remove-dish", args=[two.pk, dish.pk])).status_code == 404


def test_a_plan_of_another_kitchen_is_no_choice(client, stranger, plan, evening):
    client.force_login(stranger)
    own = stranger.memberships.get().kitchen
    found = actions.create(
        own, stranger, {"name": "x", "covers": 2, "hands": 1, "opens": dt.time(8), "closes": dt.time(20)}
    )
    typed = {"of": f"plan:{plan.pk}", "name": "Mine", "plate_up": f"{evening:%Y-%m-%dT%H:%M}", "portions": "2"}
    assert client.post(reverse("services:add-dish", args=[found.pk]), typed).status_code == 422


# Planned ------------------------------------------------------------------------------------------------------------


def test_it_stands_on_the_kitchens_own_kit(two):
    names = {row["id"]: row["name"] for row in two.asked["equipment"]}
    assert names[task(two, "Rump, oven").uses[0].equipment] == "Oven 7"
    assert {"hob", "hands", "shelf"} <= set(names)
    hob = next(row for row in two.asked["equipment"] if row["id"] == "hob")
    assert hob["capacity"] == 2


def test_what_the_kit_lacks_is_there_once_and_said(service, chef, plan, evening):
    Equipment.objects.filter(kind="bath").delete()
    add(service, chef, "Strip", plan, evening)
    found = planned(service)
    assert any("none in the equipment list" in row["name"] for row in found.asked["equipment"])


def test_everything_is_up_at_its_time(two, evening):
    assert task(two, "Rump, plate").end == evening
    assert task(two, "Strip, plate").end == evening + dt.timedelta(minutes=20)
    assert two.schedule["status"] == "optimal"


def test_a_companion_goes_by_its_piece(service, chef, roast_plan, evening):
    rows = [{"id": "c1", "kind": "stuffing"}, {"id": "c2", "kind": "resting-juices"}]
    dish = add(service, chef, "Rump", roast_plan, evening, companions=rows)
    tasks = {row["id"]: row for row in dish_tasks(dish, service.kitchen.standard)}
    assert tasks["c1"]["ends_with"] == "s0"
    assert tasks["c1"]["uses"][0] == {"equipment": "oven", "setting_c": 180.0}
    assert tasks["c2"]["after"] == ["s1"]
    assert {"c1", "c2"} <= set(tasks["plate"]["after"])


def test_eggs_are_a_dish(service, chef, evening, kitchen):
    eggs = save_request(EggPlan, kitchen, chef, "Six and a half", EGGS)
    actions.put_dish(service, chef, {"name": "Eggs", "plan": None, "eggs": eggs, "plate_up": evening, "portions": 6})
    found = planned(service)
    assert 7 <= (task(found, "Eggs").end - task(found, "Eggs").start).total_seconds() / 60 <= 20


def test_the_drawing_has_a_bar_for_each_use_and_all_of_it_lies_inside(two, chef):
    tasks = tasks_of(two.answer)
    chart = chart_of(two, tasks, chef.units)
    assert len(chart.bars) == sum(len(row.uses) for row in tasks)
    for bar in chart.bars:
        assert 132 <= bar.x <= bar.x + bar.width <= chart.width
        assert bar.y + bar.height <= chart.height
    assert sorted(chart.columns.x) == list(chart.columns.x)
    assert len(chart.axis_seconds.split()) == len(chart.axis_x.split()) == len(chart.columns.x)


def test_what_it_follows_and_what_waits_for_it(two):
    found = beside(two, tasks_of(two.answer), task(two, "Rump, oven").key)
    assert [row.name for row in found.waits] == ["Rump, rest"]
    assert found.equipment[0][2] == [
        (row["id"], row["name"]) for row in two.asked["equipment"] if row["kind"] == "oven"
    ]


# Moved by hand ------------------------------------------------------------------------------------------------------


def test_a_task_is_moved_and_what_follows_moves_with_it(signed_in, two):
    oven = task(two, "Rump, oven")
    earlier = oven.start - dt.timedelta(minutes=9)
    sent = {"dish": oven.dish, "task": "s0", "n": "0", "what": "at", "value": earlier.isoformat()}
    signed_in.post(reverse("services:choose", args=[two.pk]), sent)
    two.refresh_from_db()
    assert task(two, "Rump, oven").start == earlier
    waits = task(two, "Rump, rest").start - task(two, "Rump, oven").end
    assert dt.timedelta() <= waits <= dt.timedelta(minutes=30), "in its oven it may stay while it is what it is"
    signed_in.post(reverse("services:choose", args=[two.pk]), sent | {"value": ""})
    assert Dish.objects.get(pk=oven.dish).choices == {}


def test_where_it_cannot_be_it_is_said_why_and_nothing_moves(signed_in, two):
    oven = task(two, "Rump, oven")
    late = oven.start + dt.timedelta(minutes=45)
    sent = {"dish": oven.dish, "task": "s0", "n": "0", "what": "at", "value": late.isoformat()}
    body = body_of(signed_in.post(reverse("services:choose", args=[two.pk]), sent, follow=True))
    assert "can start between" in re.search(r'class="say say-error">\s*<span>([^<]*)', body)[1]
    two.refresh_from_db()
    assert task(two, "Rump, oven").start == oven.start
    wrong = signed_in.post(reverse("services:choose", args=[two.pk]), sent | {"value": "noon"}, follow=True)
    assert "is not a time" in body_of(wrong)


def test_another_oven_and_another_setting(signed_in, two, kit):
    oven = task(two, "Rump, oven")
    sent = {"dish": oven.dish, "task": "s0", "n": "0"}
    signed_in.post(
        reverse("services:choose", args=[two.pk]), sent | {"what": "equipment", "value": f"oven=e{kit['Oven 8'].pk}"}
    )
    two.refresh_from_db()
    assert task(two, "Rump, oven").uses[0].equipment == f"e{kit['Oven 8'].pk}"
    strip = task(two, "Strip, bath")
    sent = {"dish": strip.dish, "task": "s0", "n": "0", "what": "setting"}
    before = strip.end - strip.start
    signed_in.post(reverse("services:choose", args=[two.pk]), sent | {"value": "62"})
    two.refresh_from_db()
    assert task(two, "Strip, bath").uses[0].setting_c == 62
    assert task(two, "Strip, bath").end - task(two, "Strip, bath").start < before
    body = body_of(signed_in.post(reverse("services:choose", args=[two.pk]), sent | {"value": "40"}, follow=True))
    assert "would be something else" in body


# A clash ------------------------------------------------------------------------------------------------------------


def test_a_clash_is_said_and_sending_is_closed(client, chef, clash):
    client.force_login(chef)
    body = body_of(client.get(reverse("services:service", args=[clash.pk])))
    assert "Oven 7 is wanted at 180 and 205" in body
    assert "Resolve the clash" in body
    assert "Roots in Oven 8" in body
    client.post(reverse("services:begin", args=[clash.pk]))
    clash.refresh_from_db()
    assert clash.started_at is None


@pytest.mark.parametrize("words", ["Roots in Oven 8", "Roots at 180"])
def test_each_way_out_settles_it(signed_in, clash, words):
    ways = clash.schedule["conflict"]["would_fit"]
    number = next(i for i, way in enumerate(ways) if words in way["text"])
    signed_in.post(reverse("services:way-out", args=[clash.pk]), {"number": str(number)})
    clash.refresh_from_db()
    assert clash.fits


def test_a_way_out_that_is_gone_changes_nothing(signed_in, clash):
    body = body_of(signed_in.post(reverse("services:way-out", args=[clash.pk]), {"number": "77"}, follow=True))
    assert "no longer applies" in body


def test_if_it_runs_late(two):
    rows = if_late(two, task(two, "Rump, oven").key)
    assert [row.minutes for row in rows] == [5, 10, 20]
    assert rows[-1].plate_min >= rows[0].plate_min
    assert if_late(two, "nonsense") == []


# For so many --------------------------------------------------------------------------------------------------------


def test_a_dish_is_a_plan_times_its_portions(service, chef, plan, evening):
    """A steak each: eleven pieces, and eleven places in the bath; of a joint its one piece stays."""
    plan.document["piece"]["mass_g"] = 250
    plan.save()
    dish = add(service, chef, "Strip", plan, evening, portions=11)
    tasks = {row["id"]: row for row in dish_tasks(dish, service.kitchen.standard)}
    assert tasks["s0"]["uses"][0]["amount"] == 11
    assert meat_g(for_portions(plan.document, 11)) == pytest.approx(11 * 250)
    joint = plan.document | {"piece": plan.document["piece"] | {"mass_g": 2400, "count": 1}}
    assert for_portions(joint, 11)["piece"]["count"] == 1
    joint["piece"]["portions"] = 5
    assert for_portions(joint, 11)["piece"]["count"] == 3


def test_a_brine_is_weighed_for_the_meat_of_the_dish(document):
    recipe = {"format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 1000, "water_g": 800,
              "salt_pct": 1.5}  # fmt: skip
    plan = document | {"stages": [{"kind": "brine", "minutes": 600, "recipe": recipe}, *document["stages"]]}
    plan["piece"] = plan["piece"] | {"mass_g": 250, "count": 8}
    assert brines_of(plan) == ["54 g salt in 1600 g of water"]


# One bath for two ---------------------------------------------------------------------------------------------------


@pytest.fixture
def baths(service, chef, kitchen, document, evening, kit):
    """Two dishes at 56.5 and 58 °C, each in its bath."""
    Equipment.objects.create(kitchen=kitchen, kind="bath", name="Bath D", places=10)
    for name, water_c in (("Near", 56.5), ("Far", 58.0)):
        stages = [{"kind": "bath", "water_c": water_c, "until": {"peak_c": 55.0}}, {"kind": "rest", "minutes": 4}]
        made = create(kitchen, chef, parse_plan(document | {"name": name, "stages": stages, "target": {"core_c": 55}}))
        add(service, chef, name, made, evening, portions=4)
    return planned(Service.objects.get(pk=service.pk))


def test_two_dishes_share_a_bath_at_a_setting_that_serves_both(signed_in, baths):
    near = task(baths, "Near, bath")
    rows = shares_of(baths, near.key)
    assert rows
    assert all(56.5 <= row.setting_c <= 58 for row in rows)
    assert "with Far" in body_of(signed_in.get(reverse("services:shares", args=[baths.pk]), {"task": near.key}))
    sent = {"task": near.key, "other": rows[0].other.key, "celsius": str(rows[0].setting_c)}
    signed_in.post(reverse("services:share", args=[baths.pk]), sent)
    baths.refresh_from_db()
    both = [task(baths, "Near, bath").uses[0], task(baths, "Far, bath").uses[0]]
    assert both[0].equipment == both[1].equipment
    assert both[0].setting_c == both[1].setting_c == rows[0].setting_c
    again = body_of(signed_in.post(reverse("services:share", args=[baths.pk]), sent | {"celsius": "12"}, follow=True))
    assert "Look again" in again


def test_who_has_no_setting_shares_nothing(two):
    assert shares_of(two, task(two, "Rump, rest").key) == []
    assert shares_of(two, "nonsense") == []


# On paper -----------------------------------------------------------------------------------------------------------


def test_lists_and_calendar(signed_in, two):
    body = body_of(signed_in.get(reverse("services:lists", args=[two.pk])))
    assert "Tasks," in body
    assert "Oven 7" in body
    assert "set to 180" in body
    response = signed_in.get(reverse("services:calendar", args=[two.pk]))
    text = body_of(response)
    assert response.headers["Content-Type"].startswith("text/calendar")
    assert text.count("BEGIN:VEVENT") == sum(row.by_hands() is not None for row in tasks_of(two.answer)) + 2
    assert "Plate-up: Rump 6" in text


# The day ------------------------------------------------------------------------------------------------------------


def test_its_hands_come_onto_the_line_and_a_tap_starts_the_cook(client, chef, on_the_day, kitchen):
    client.force_login(chef)
    names = {hand.task.name for hand in service_actions(kitchen, kitchen.now())}
    assert {"Rump, oven", "Beans", "Rump, plate"} <= names
    assert "Rump, rest" not in names, "its cook tells that"
    assert "Start Rump" in body_of(client.get(reverse("line:board")))
    oven = task(on_the_day, "Rump, oven")
    token = str(uuid.uuid4())
    sent = {"dish": oven.dish, "task": "s0", "n": "0", "token": token, "from": "line"}
    for _ in range(2):
        client.post(reverse("services:tap", args=[on_the_day.pk]), sent)
    assert Cook.objects.filter(kitchen=kitchen, name="Rump").count() == 1
    names = {hand.task.name for hand in service_actions(kitchen, kitchen.now())}
    assert "Rump, oven" not in names
    assert lanes_of(kitchen)


def test_an_oven_is_set_in_time_and_once(client, chef, on_the_day, kitchen):
    client.force_login(chef)

    def sets():
        return [hand for hand in service_actions(kitchen, kitchen.now()) if hand.sets]

    hand = next(hand for hand in sets() if hand.sets == "Oven 7")
    assert hand.setting_c == 180
    oven = task(on_the_day, "Rump, oven")
    assert (oven.start - hand.due_at).total_seconds() / 60 == pytest.approx((180 - 20) / 10, abs=1)
    assert "Set Oven 7 to 180" in body_of(client.get(reverse("line:board")))
    sent = {"dish": hand.task.dish, "task": hand.task.id, "n": "0", "token": str(hand.token), "from": "line"}
    client.post(reverse("services:tap", args=[on_the_day.pk]), sent)
    assert "Oven 7" not in [row.sets for row in sets()]


def test_what_is_put_in_is_taken_out(chef, on_the_day, kitchen):
    beans = task(on_the_day, "Beans")
    dish = Dish.objects.get(pk=beans.dish)
    day.tap(on_the_day, chef, dish, "c1", 0, uuid.uuid4())
    hand = next(hand for hand in service_actions(kitchen, kitchen.now()) if hand.task.id == "c1")
    assert not hand.begins
    day.tap(on_the_day, chef, dish, "c1", 0, uuid.uuid4())
    assert not [hand for hand in service_actions(kitchen, kitchen.now()) if hand.task.id == "c1"]
    day.untap(on_the_day, chef, dish, "c1", 0)
    assert [hand for hand in service_actions(kitchen, kitchen.now()) if hand.task.id == "c1"]


def test_what_happened_is_kept_and_never_changed(chef, on_the_day):
    dish = Dish.objects.get(pk=task(on_the_day, "Beans").dish)
    day.tap(on_the_day, chef, dish, "c1", 0, uuid.uuid4())
    with pytest.raises(DatabaseError), transaction.atomic():
        TaskEvent.objects.update(task="c2")
    assert task_actuals(on_the_day)[str(dish.pk), "c1", 0].started


def test_a_late_task_is_planned_anew_and_the_chef_takes_it(client, chef, on_the_day, kitchen):
    """The roast is started an hour and more after its time by a clock that is set on."""
    client.force_login(chef)
    schedule = on_the_day.schedule
    for row in schedule["tasks"]:
        row["start"] = (dt.datetime.fromisoformat(row["start"]) - dt.timedelta(minutes=130)).isoformat()
        row["end"] = (dt.datetime.fromisoformat(row["end"]) - dt.timedelta(minutes=130)).isoformat()
    Service.objects.filter(pk=on_the_day.pk).update(schedule=schedule)
    on_the_day.refresh_from_db()
    assert off_time(on_the_day, kitchen.now())
    body = body_of(client.post(reverse("services:watch", args=[on_the_day.pk])))
    assert "Accept changes" in body
    client.post(reverse("services:answer", args=[on_the_day.pk]), {"take": "yes"})
    on_the_day.refresh_from_db()
    assert on_the_day.proposal is None
    assert task(on_the_day, "Rump, oven").start >= kitchen.now() - dt.timedelta(minutes=2)


def test_a_cook_that_will_be_late_moves_what_comes_after_it(chef, on_the_day, kitchen):
    """The roast is told 25 min late on the line: its rest and its plate are planned anew, and the strip stays."""
    oven = task(on_the_day, "Rump, oven")
    schedule = on_the_day.schedule
    by = kitchen.now() - oven.start  # the day is moved so that the roast goes in now
    for row in schedule["tasks"]:
        for key in ("start", "end"):
            row[key] = (dt.datetime.fromisoformat(row[key]) + by).isoformat()
    Service.objects.filter(pk=on_the_day.pk).update(schedule=schedule)
    on_the_day.refresh_from_db()
    dish = Dish.objects.get(pk=oven.dish)
    cook = day.tap(on_the_day, chef, dish, "s0", 0, uuid.uuid4())
    status = status_of(cook)
    do_step(cook, chef, 0, uuid.uuid4(), status.steps)
    status = status_of(Cook.objects.get(pk=cook.pk))
    key = (oven.dish, "s0", 0)
    assert task_actuals(on_the_day)[key].minutes == pytest.approx(60, abs=1)
    put_off(cook, chef, status.progress.next.number, 25.0, uuid.uuid4(), status.steps)
    assert task_actuals(on_the_day)[key].minutes == pytest.approx(85, abs=1)
    late = off_time(on_the_day, kitchen.now())
    assert ("Rump, oven", 25) in [(row.name, row.minutes) for row in late]
    found = day.watch(on_the_day, chef)
    oven_now = next(row for row in found.proposal["schedule"]["tasks"] if (row["dish"], row["id"]) == key[:2])
    assert (dt.datetime.fromisoformat(oven_now["end"]) - cook.started_at).total_seconds() >= 84 * 60
    assert "Rump, rest" in [move["name"] for move in found.proposal["moves"]]


def test_a_proposal_that_was_left_is_not_made_again_for_the_same(chef, on_the_day):
    day.replan(on_the_day, chef)
    day.dismiss(on_the_day)
    on_the_day.refresh_from_db()
    assert "schedule" not in on_the_day.proposal
    with pytest.raises(actions.ServiceError):
        day.accept(on_the_day, chef)


def test_once_begun_the_menu_stays(signed_in, on_the_day, plan):
    dish = on_the_day.dishes.first()
    body = body_of(signed_in.post(reverse("services:remove-dish", args=[on_the_day.pk, dish.pk]), follow=True))
    assert "The service has started" in body
    assert on_the_day.dishes.count() == 2


def test_only_a_chef_sends_it(signed_in, two):
    assert signed_in.post(reverse("services:begin", args=[two.pk])).status_code == 403
    assert "A chef can send it" in body_of(signed_in.get(reverse("services:service", args=[two.pk])))


def test_put_away_and_back(signed_in, two, chef_in):
    body = body_of(chef_in.post(reverse("services:put-away", args=[two.pk]), follow=True))
    assert "Archive" in body
    assert signed_in.get(reverse("services:service", args=[two.pk])).status_code == 404
    chef_in.post(reverse("services:put-back", args=[two.pk]))
    assert signed_in.get(reverse("services:service", args=[two.pk])).status_code == 200


def test_the_request_is_the_cores_own(two, kitchen):
    """What is asked can be taken to the command line."""
    asked_of_core = schedule_request(two, kitchen.now(), {}).request
    assert asked_of_core["format"] == "open-ember/service"
    assert re.match(r"\d{4}-", asked_of_core["now"])
