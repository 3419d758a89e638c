"""Plans kept, versioned, tagged, printed and taken away; and never another kitchen's."""

from __future__ import annotations

import csv
import io
import json
import xml.etree.ElementTree as ElementTree

import pytest
from django.db import DatabaseError, transaction
from django.urls import reverse
from pypdf import PdfReader

from ember.files.plan import parse_plan
from kitchen.plans import actions
from kitchen.plans.changes import changes
from kitchen.plans.models import TAGS_MAX, Plan, PlanVersion

from .pages import body_of
from .posting import posted

WAYS = ["edit", "card", "card-pdf", "versions", "export", "curves-csv", "chart-svg", "face-svg"]


def keep(client, plan, data):
    return client.post(reverse("plans:edit", args=[plan.pk]), data | {"then": "keep"})


@pytest.mark.parametrize("name", WAYS)
def test_every_page_of_a_plan_opens_for_its_kitchen_and_for_no_other(client, plan, cook_person, stranger, name):
    url = reverse(f"plans:{name}", args=[plan.pk])
    client.force_login(stranger)
    assert client.get(url).status_code == 404
    client.force_login(cook_person)
    assert client.get(url).status_code == 200


def test_what_is_done_to_a_plan_is_for_its_kitchen_only(client, plan, stranger, document):
    client.force_login(stranger)
    assert client.post(reverse("plans:bring-back", args=[plan.pk, 1])).status_code == 404
    assert keep(client, plan, posted(document)).status_code == 404
    found = client.post(reverse("plans:bench"), posted(document) | {"plan": str(plan.pk)})
    assert found.context["plan"] is None  # and nothing of the kept plan shows
    assert plan.name not in body_of(client.get("/plans/?q=strip"))


# Versions ------------------------------------------------------------------------------------------------------------


def test_an_outline_is_told_among_what_changed(document):
    fillet = {"family": "fillet", "row_mm": 70.0, "thin_mm": 10.0}
    tapered = {**document, "piece": {**document["piece"], "outline": fillet}}
    thicker = {**document, "piece": {**document["piece"], "outline": {**fillet, "thin_mm": 14.0}}}
    told = changes(document, tapered)
    assert told == ["Outline: even all over → fillet, thin on one side", "Width none → 70 mm", "Thin end none → 10 mm"]
    assert changes(tapered, thicker) == ["Thin end 10 mm → 14 mm"]
    assert changes(tapered, tapered) == []


def test_each_keeping_that_changes_something_is_a_version(signed_in, plan, document):
    keep(signed_in, plan, posted(document))
    assert plan.versions.count() == 1
    keep(signed_in, plan, posted(document) | {"s0-water_c": "58.5", "size": "31", "s2-end_value": "8"})
    newest = plan.versions.first()
    assert newest.number == 2
    assert newest.kept_by.name == "Bo Cook"
    assert newest.changes == ["Size 26 mm → 31 mm", "Bath, water 57 °C → 58.5 °C", "Rest: for 5 → for 8"]


def test_an_earlier_version_comes_back_as_a_new_one(signed_in, plan, document):
    keep(signed_in, plan, posted(document) | {"s0-water_c": "60"})
    signed_in.post(reverse("plans:bring-back", args=[plan.pk, 1]))
    plan.refresh_from_db()
    assert plan.document["stages"][0]["water_c"] == 57.0
    assert [v.number for v in plan.versions.all()] == [3, 2, 1]
    assert plan.versions.first().changes == ["Version 1 restored"]
    assert signed_in.post(reverse("plans:bring-back", args=[plan.pk, 9])).status_code == 404
    signed_in.post(reverse("plans:bring-back", args=[plan.pk, 1]))
    assert plan.versions.count() == 3  # nothing to bring back


def test_the_database_refuses_to_change_a_version(plan):
    version = plan.versions.get()
    for write in (version.save, lambda: PlanVersion.objects.filter(pk=version.pk).update(name="x")):
        with pytest.raises(DatabaseError), transaction.atomic():
            write()


def test_what_changed_is_told_by_kind(document):
    new = json.loads(json.dumps(document))
    new["piece"] |= {"start_c": 12.0, "count": 6}
    new["target"] = {"core_c": 61.0}
    new["stages"] = [{"kind": "oven", "air_c": 150.0, "until": {"core_c": 55.0}}, *document["stages"][1:]]
    new["prep"] = [{"kind": "dry", "minutes": 2}]
    assert changes(document, new) == [
        "Pieces 2 → 6", "Start 5 °C → 12 °C", "Target medium-rare → 61 °C", "Added: dry it",
        "Removed: bath to peak at 54.5 °C", "Added: oven until core 55 °C",
    ]  # fmt: skip
    assert changes(document, document) == []


def test_history_shows_versions_past_cooks_and_what_it_is_a_copy_of(signed_in, plan, running, cook_person):
    from kitchen.line.actions import finish

    finish(running, cook_person, "dropped")
    copy = actions.copy(plan, cook_person)
    body = body_of(signed_in.get(reverse("plans:versions", args=[plan.pk])))
    assert "Cooked 1 time" in body
    assert "stopped" in body
    body = body_of(signed_in.get(reverse("plans:versions", args=[copy.pk])))
    assert f"Copy of {plan.name}" in body
    assert "Not cooked yet." in body
    assert "Cooked 1 time" in body_of(signed_in.get(reverse("plans:edit", args=[plan.pk])))
    assert "Cooked 1 time" in body_of(signed_in.get("/plans/"))


# Tags ----------------------------------------------------------------------------------------------------------------


def test_tags_are_kept_tidied_searched_and_filtered(signed_in, plan, document):
    keep(signed_in, plan, posted(document) | {"tags": " Supper, late  watch,supper ,"})
    plan.refresh_from_db()
    assert plan.tags == ["supper", "late watch"]
    assert [row["plan"] for row in signed_in.get("/plans/?q=watch").context["rows"]] == [plan]
    assert [row["plan"] for row in signed_in.get("/plans/?tag=supper").context["rows"]] == [plan]
    assert "No plans are tagged" in body_of(signed_in.get("/plans/?tag=brunch"))


@pytest.mark.parametrize("tags", ["x" * 31, ",".join(f"t{i}" for i in range(TAGS_MAX + 1))])
def test_too_many_or_too_long_tags_are_told_and_nothing_is_lost(signed_in, plan, document, tags):
    response = keep(signed_in, plan, posted(document) | {"tags": tags, "s0-water_c": "61"})
    assert response.status_code == 422
    body = body_of(response)
    assert "Not saved: " in body
    assert tags in body
    assert 'value="61"' in body


# On paper and in files -----------------------------------------------------------------------------------------------


def test_a_card_has_its_steps_checks_and_cautions(signed_in, plan):
    body = body_of(signed_in.get(reverse("plans:card", args=[plan.pk])))
    for words in ("Pull at", "Lay it away from you", "Take a probe reading", "Local code comes first", "Overcooked:"):
        assert words in body
    for head in ("Steps", "Checks", "Watch for", "Safety rule, on plan"):
        assert f">{head}" in body


def test_a_card_for_a_plate_up_time_counts_back(signed_in, plan):
    url = reverse("plans:card", args=[plan.pk])
    steps = signed_in.get(url, {"ready": "19:30"}).context["steps"]
    assert (steps[-1].at.hour, steps[-1].at.minute) == (19, 30)
    assert (steps[-1].at - steps[0].at).total_seconds() == pytest.approx(steps[-1].start_s)
    assert signed_in.get(url, {"ready": "noon"}).context["ready"] is None


def test_the_card_of_a_plan_that_cannot_be_cooked_says_why(signed_in, plan):
    plan.document["stages"] = [{"kind": "bath", "water_c": 50.0, "until": {"core_c": 58.0}}]
    plan.save()
    assert "cannot pass 50 °C" in body_of(signed_in.get(reverse("plans:card", args=[plan.pk])))
    assert signed_in.get(reverse("plans:card-pdf", args=[plan.pk])).status_code == 200
    assert signed_in.get(reverse("plans:chart-svg", args=[plan.pk])).status_code == 404


def test_the_pdf_is_one_page_with_its_words(signed_in, plan):
    response = signed_in.get(reverse("plans:card-pdf", args=[plan.pk]))
    assert response.headers["Content-Type"] == "application/pdf"
    assert response.content.startswith(b"%PDF")
    (page,) = PdfReader(io.BytesIO(response.content)).pages
    words = page.extract_text()
    for expected in (plan.name, "Pull at", "Checks", "Test galley"):
        assert expected in words


def test_curves_are_seconds_and_celsius(signed_in, plan):
    plan.document["piece"]["spread_mm"] = 4
    plan.save()
    body = body_of(signed_in.get(reverse("plans:curves-csv", args=[plan.pk])))
    rows = list(csv.DictReader(io.StringIO(body)))
    assert float(rows[0]["seconds"]) == 0
    assert float(rows[0]["core_c"]) == pytest.approx(5.0, abs=0.1)
    assert max(float(row["thin_core_c"]) for row in rows) > max(float(row["thick_core_c"]) for row in rows)


@pytest.mark.parametrize("name", ["chart-svg", "face-svg"])
def test_drawings_stand_alone(signed_in, plan, name):
    response = signed_in.get(reverse(f"plans:{name}", args=[plan.pk]))
    drawing = ElementTree.fromstring(response.content)
    assert drawing.tag.endswith("}svg")
    assert len(list(drawing.iter())) > 20
    text = body_of(response)
    assert "http://" not in text.replace("http://www.w3.org/", "")
    assert "<style" in text


def test_a_copy_is_its_own(signed_in, plan, cook_person, document):
    copy = actions.copy(plan, cook_person)
    keep(signed_in, copy, posted({**document, "name": copy.name}) | {"s0-water_c": "59"})
    plan.refresh_from_db()
    assert plan.document["stages"][0]["water_c"] == 57.0
    assert Plan.objects.get(pk=copy.pk).copied_from == plan
    assert parse_plan(Plan.objects.get(pk=copy.pk).document).stages[0].water_c == 59.0
