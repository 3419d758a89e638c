"""Reports of a day or a period: every record, its rule, what was done and who signed; on screen, paper, in files."""

from __future__ import annotations

import csv
import datetime as dt
import io
import uuid

import pytest
from django.urls import reverse
from pypdf import PdfReader

from kitchen.book import actions
from kitchen.book.report import report_of
from kitchen.demo.batches import add_batches
from kitchen.drawings.day_strip import HEIGHT_PX, WIDTH_PX, day_strip
from kitchen.kit.actions import check_kit
from kitchen.kit.models import Equipment
from kitchen.line.actions import finish
from kitchen.logbook.actions import sign

from .pages import body_of


@pytest.fixture
def today(kitchen):
    return kitchen.now().astimezone(kitchen.zone).date()


@pytest.fixture
def a_day(kitchen, running, chef):
    """A signed cook, two entries, one of them missed, and a check."""
    sign(finish(running, chef, "fire drill"), chef, "password")
    for celsius, note in ((3.2, ""), (8.5, "moved to the walk-in")):
        found = {"kind": "cold", "what": "Deck fridge", "celsius": celsius, "note": note}
        actions.write(kitchen, chef, found, uuid.uuid4())
    oven = Equipment.objects.create(kitchen=kitchen, kind="oven", name="Oven 7")
    check_kit(oven, chef, {"kind": "setting", "wanted_c": 180.0, "read_c": 174.0})
    return running


def test_everything_of_the_day_is_in_it(kitchen, a_day, today):
    found = report_of(kitchen, today, today)
    assert [(kind, number, missed) for kind, number, missed, _ in found.counts.rows] == [
        ("Cold storage", 2, 1), ("Cook", 1, 1), ("Equipment check", 1, 0),
    ]  # fmt: skip
    cold = next(row for row in found.rows if row.met is False and row.kind != "Cook")
    assert cold.put_right == ["moved to the walk-in"]
    assert "3-501.16" in cold.standard
    cook = next(row for row in found.rows if row.kind == "Cook")
    assert cook.signed_by
    assert "fire drill" in cook.put_right
    assert "-6.0 °C off" in next(row.words for row in found.rows if row.kind == "Equipment check")


def test_a_period_has_its_days_and_no_others(kitchen, a_day, today):
    yesterday = today - dt.timedelta(days=1)
    assert not report_of(kitchen, yesterday, yesterday).rows
    assert [day for day, _, _ in report_of(kitchen, yesterday, today).days] == [today]


def test_batches_and_what_put_them_right(kitchen, chef, cook_person, today):
    add_batches(kitchen, {"tobin": cook_person, "pell": cook_person, "runa": chef})
    found = report_of(kitchen, today - dt.timedelta(days=3), today)
    words = {row.name.split(",")[0]: row.words for row in found.rows}
    assert words["Shin"] == "cooling missed"
    assert next(row for row in found.rows if row.name.startswith("Shin")).is_open


def test_another_kitchens_records_are_not_in_it(client, stranger, a_day):
    client.force_login(stranger)
    assert "Deck fridge" not in body_of(client.get(reverse("book:report")))
    assert b"Deck fridge" not in client.get(reverse("book:report-csv")).content


def test_on_the_screen(signed_in, a_day, today):
    body = body_of(signed_in.get(reverse("book:report")))
    assert "Deck fridge" in body
    assert 'class="day-not"' in body
    assert " style=" not in body
    empty = body_of(signed_in.get(reverse("book:report"), {"from": "2001-01-01", "to": "2001-01-05"}))
    assert "No records for these dates" in empty


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"from": "soon"}, "is not a date"),
        ({"from": "2031-05-09", "to": "2031-05-07"}, "before the start"),
        ({"from": "2001-01-01", "to": "2031-01-01"}, "At most 370 days"),
    ],
)
def test_days_that_cannot_be(signed_in, asked, words):
    for name in ("report", "report-pdf", "report-csv", "report-json"):
        response = signed_in.get(reverse(f"book:{name}"), asked)
        assert response.status_code == 422
        assert words in body_of(response)


def test_as_a_table_and_for_programs(signed_in, kitchen, a_day, today):
    rows = list(csv.DictReader(io.StringIO(body_of(signed_in.get(reverse("book:report-csv"))))))
    assert len(rows) == 4
    assert {row["met"] for row in rows} == {"True", "False", ""}
    told = signed_in.get(reverse("book:report-json")).json()
    assert told["format"] == "open-ember/report"
    assert len(told["records"]) == 4
    assert told["chain"]["records"] >= 4
    assert len(told["chain"]["digest"]) == 64


def test_on_paper_with_who_signed_and_the_chain(signed_in, kitchen, a_day, chef):
    response = signed_in.get(reverse("book:report-pdf"))
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(response.content)).pages)
    for words in (str(kitchen), "Deck fridge", "moved to the walk-in", str(chef), "3-501.16", "rule 1"):
        assert words in text
    assert text.count("Hold cold at 5 °C") == 1  # a rule is written out once, and numbered
    assert report_of(kitchen, *[kitchen.now().date()] * 2).digest in text.replace("\n", "")


def test_marks_of_one_moment_stand_beside_each_other():
    strip = day_strip([(12.0, "met"), (12.0, "not"), (12.05, "none"), (23.9, "met"), (30.0, "met")])
    assert len({(mark.x, mark.y) for mark in strip.marks[:3]}) == 3
    assert len({mark.y for mark in strip.marks[:3]}) == 3
    assert all(0 <= mark.x <= WIDTH_PX and 0 <= mark.y <= HEIGHT_PX for mark in strip.marks)
