"""Standards pages: rules a cook can read, the chef's choice, the house's limits, the kill table, doneness."""

from __future__ import annotations

import pytest
from django.urls import reverse

from ember.judge.standards import CATEGORIES, standards
from kitchen.drawings.doneness_chart import LEFT_PX, doneness_chart
from kitchen.standards.views import kill_rows

from .pages import body_of


@pytest.fixture
def as_cook(client, cook_person):
    client.force_login(cook_person)
    return client


@pytest.fixture
def as_chef(client, chef):
    client.force_login(chef)
    return client


@pytest.mark.parametrize("standard_id", sorted(standards()))
def test_every_standard_has_its_page(as_cook, standard_id):
    body = body_of(as_cook.get(reverse("standards:standard", args=[standard_id])))
    rules = standards()[standard_id]
    assert rules.name in body
    for words in CATEGORIES.values():
        assert words in body
    for rule in (*rules.rules.values(), *rules.phases.values()):
        if rule.kind in rules.phases or any(rule.id in names for names in rules.categories.values()):
            assert rule.section.split(",")[0] in body
    assert "Local code comes first" in body


def test_an_unknown_standard_is_not_there(as_cook):
    assert as_cook.get(reverse("standards:standard", args=["moon"])).status_code == 404


def test_only_a_chef_chooses_and_plans_follow(as_cook, kitchen, cook_person, chef, document):
    assert as_cook.post(reverse("standards:choose"), {"standard": "uk-fsa"}).status_code == 403
    assert as_cook.post(reverse("standards:house"), {}).status_code == 403
    as_cook.force_login(chef)
    as_cook.post(reverse("standards:choose"), {"standard": "uk-fsa"})
    kitchen.refresh_from_db()
    assert kitchen.standard == "uk-fsa"
    body = body_of(as_cook.get(reverse("plans:new") + "?cut=pork/chop"))
    assert "UK guidance (FSA)" in body
    assert as_cook.post(reverse("standards:choose"), {"standard": "moon"}).status_code == 404


def test_another_kitchens_rules_stay_its_own(as_chef, kitchen, stranger):
    as_chef.post(reverse("standards:house"), {"poultry": "80"})
    other = stranger.memberships.get().kitchen
    other.refresh_from_db()
    kitchen.refresh_from_db()
    assert kitchen.house == {"core_c": {"poultry": 80.0}}
    assert other.house == {}


def test_a_house_limit_makes_a_plan_miss(as_chef, kitchen):
    url = reverse("plans:new") + "?cut=chicken/breast"
    assert "Rule met" in body_of(as_chef.get(url))
    as_chef.post(reverse("standards:house"), {"poultry": "85", "hold_hot_c": "65"})
    body = body_of(as_chef.get(url))
    assert "Not met" in body
    assert "House rule, poultry: core 85 °C" in body
    kitchen.refresh_from_db()
    assert kitchen.house["hold_hot_c"] == 65.0


def test_a_wrong_limit_is_said_beside_its_field_and_nothing_is_kept(as_chef, kitchen):
    answer = as_chef.post(reverse("standards:house"), {"poultry": "800", "fish": "63"})
    assert answer.status_code == 422
    body = body_of(answer)
    assert "Poultry must be from 40 to 99 °C." in body
    assert 'value="800"' in body
    assert 'value="63"' in body
    kitchen.refresh_from_db()
    assert kitchen.house == {}


def test_a_cook_sees_the_house_limits(as_cook, kitchen):
    kitchen.house = {"core_c": {"minced": 72.0}}
    kitchen.save()
    body = body_of(as_cook.get(reverse("standards:mine")))
    assert "Minced meat" in body
    assert "Save house limits" not in body


def test_the_kill_table_is_live_and_gives_no_credit_below_the_floor(as_cook, cook_person):
    rows = {(row["name"], row["log10"]): row["seconds"] for row in kill_rows(60.0)}
    assert rows["Salmonella", 6.5] == pytest.approx(11.2 * 60, rel=0.01)  # 12 min printed, rounded up
    assert rows["Listeria monocytogenes", 6.0] == pytest.approx(43.1 * 60, rel=0.01)
    assert rows["C. botulinum, non-proteolytic spores", 6.0] is None  # days
    assert all(row["seconds"] is None for row in kill_rows(54.0))
    body = body_of(as_cook.get(reverse("standards:kill"), {"c": "60"}))
    assert "Salmonella" in body
    assert "11 min" in body
    for wrong in ("", "hot", "500", "1e999", "-40"):
        assert "problem" in body_of(as_cook.get(reverse("standards:kill"), {"c": wrong}))
    cook_person.temperature_unit = "F"
    cook_person.save()
    assert "11 min" in body_of(as_cook.get(reverse("standards:kill"), {"c": "140"}))


def test_doneness_is_one_drawing(as_cook):
    body = body_of(as_cook.get(reverse("standards:doneness")))
    for word in ("medium-rare", "flaky", "fork-tender", "rubbery"):
        assert word in body


def test_the_drawing_keeps_its_order_and_its_width():
    from ember.judge.doneness import scales

    chart = doneness_chart([(name, ("beef",), words) for name, words in scales().items()], 800.0)
    for bar in chart.bars:
        ends = [segment.x for segment in bar.segments]
        assert ends == sorted(ends)
        assert ends[0] >= LEFT_PX
        assert bar.segments[-1].x + bar.segments[-1].width <= 800.0
    assert chart.height > chart.bars[-1].y
