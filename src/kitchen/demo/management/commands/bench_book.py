"""`./ember bench book`: fill a book with years of records in a database of its own and time its pages."""

from __future__ import annotations

import datetime as dt
import json
import random
import statistics
import time
import uuid
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.test import Client
from django.utils import timezone

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Membership, Person
from kitchen.book.models import Entry
from kitchen.book.paper import paper_of
from kitchen.book.report import report_of
from kitchen.book.verify import walk
from kitchen.demo.kitchen import PLANS
from kitchen.line.models import Cook, CookEvent
from kitchen.line.starting import kept_result
from kitchen.logbook.models import SignOff
from kitchen.logbook.record import record_of

DAYS, ENTRIES_A_DAY, SIGNED = 400, 6, 0.95
ASKED, AT_A_TIME = 30, 1000
READINGS = """
INSERT INTO line_reading (kitchen_id, cook_id, at, claimed_at, celsius, entered_by_id)
SELECT c.kitchen_id, c.id, c.started_at + g * interval '20 seconds', c.started_at + g * interval '20 seconds',
       8 + 50 * (1 - exp(-g / 25.0)), c.started_by_id
FROM line_cook c CROSS JOIN generate_series(1, %s) AS g
"""


def _some_day(rng: random.Random) -> dt.date:
    return (timezone.now() - dt.timedelta(days=rng.randrange(2, DAYS))).date()


class Command(BaseCommand):
    """Creates the database, fills it, times its pages and drops it; prints the times as JSON."""

    help = "Measures the pages of the book at a size of years."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--cooks", type=int, default=20_000)
        parser.add_argument("--readings", type=int, default=1_000_000)

    def handle(self, *args: Any, **options: Any) -> None:
        """Measure and print."""
        settings.ALLOWED_HOSTS = ["*"]
        call_command("collectstatic", interactive=False, verbosity=0)
        old = connection.settings_dict["NAME"]
        connection.creation.create_test_db(verbosity=0, autoclobber=True, serialize=False)
        try:
            began = time.perf_counter()
            kitchen, person = self._fill(options["cooks"], options["readings"])
            report: dict[str, Any] = {"cooks": options["cooks"], "readings": options["readings"]}
            report["filled_s"] = round(time.perf_counter() - began, 1)
            report |= self._ask(kitchen, person)
            self.stdout.write(json.dumps(report))
        finally:
            connection.creation.destroy_test_db(old, verbosity=0)

    def _fill(self, cooks: int, readings: int) -> tuple[Kitchen, Person]:
        kitchen = Kitchen.objects.create(name="MV Tern Island", place="Galley")
        person = Person.objects.create_user("years", password=uuid.uuid4().hex, name="Year Watch")
        Membership.objects.create(person=person, kitchen=kitchen, role=Membership.Role.CHEF)
        plans = [(document, kept_result(core, evaluate(core))) for document in PLANS if (core := parse_plan(document))]
        now, rng = timezone.now(), random.Random(7)  # noqa: S311
        for first in range(0, cooks, AT_A_TIME):
            rows = []
            for number in range(first, min(first + AT_A_TIME, cooks)):
                document, result = plans[number % len(plans)]
                start = now - dt.timedelta(days=DAYS * (1 - number / cooks), minutes=rng.uniform(60, 300))
                rows.append(Cook(
                    kitchen=kitchen, name=f"{document['name']} {number + 1}", document=document, result=result,
                    started_at=start, started_by=person, finished_at=start + dt.timedelta(minutes=rng.uniform(20, 50)),
                ))  # fmt: skip
            Cook.objects.bulk_create(rows)
            CookEvent.objects.bulk_create(
                CookEvent(cook=record, kind=kind, at=at, by=person, token=uuid.uuid4())
                for record in rows
                for kind, at in (("started", record.started_at), ("finished", record.finished_at))
                if at is not None
            )
        with connection.cursor() as cursor:
            cursor.execute(READINGS, [max(readings // cooks, 1)])
        some = {key: record_of(Cook.objects.filter(name__startswith=plan["name"])[0])
                for key, (plan, _) in enumerate(plans)}  # fmt: skip
        for number, record in enumerate(
            Cook.objects.order_by("started_at").only("id", "finished_at").iterator(AT_A_TIME)
        ):
            if rng.random() < SIGNED and record.finished_at is not None:
                SignOff.objects.create(cook=record, by=person, at=record.finished_at, record=some[number % len(plans)])
        Entry.objects.bulk_create(
            Entry(kitchen=kitchen, kind="cold", by=person, at=now - dt.timedelta(hours=24.0 / ENTRIES_A_DAY * i),
                  what=f"Fridge {i % 5 + 1}", celsius=3.0 + i % 4 / 2, rule=None)
            for i in range(DAYS * ENTRIES_A_DAY)
        )  # fmt: skip
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE")
        return kitchen, person

    def _ask(self, kitchen: Kitchen, person: Person) -> dict[str, Any]:
        client, rng = Client(), random.Random(3)  # noqa: S311
        client.force_login(person)
        keys = list(Cook.objects.values_list("pk", flat=True).order_by("?")[:ASKED])
        last = Cook.objects.count() // 9
        pages = {
            "record": [f"/log/{key}/" for key in keys],
            "record_deep_in_the_list": [f"/log/{key}/?page={rng.randrange(1, last)}" for key in keys],
            "log_found_by_name": [f"/log/{keys[0]}/?q=strip%20{rng.randrange(1, 9999)}" for _ in keys],
            "log_found_by_note": [f"/log/{keys[0]}/?q=nothing%20{i}" for i in range(len(keys))],
            "book": [f"/book/?page={rng.randrange(1, 50)}" for _ in keys],
            "book_found": [f"/book/?q=Fridge%20{i % 5 + 1}" for i in range(len(keys))],
            "find": [f"/book/find/?q=strip%20{rng.randrange(1, 9999)}" for _ in keys],
            "who": [f"/book/who/?page={rng.randrange(1, 50)}" for _ in keys],
            "who_of_a_person": [f"/book/who/?person={person.pk}&page={rng.randrange(1, 50)}" for _ in keys],
            "trends": ["/book/trends/" for _ in keys],
            "trends_of_a_year": ["/book/trends/?weeks=52" for _ in keys],
            "report_of_a_day": [f"/book/report/?from={_some_day(rng)}" for _ in keys],
        }
        report: dict[str, Any] = {"pages_ms": {name: self._took(client, some) for name, some in pages.items()}}
        today = timezone.now().date()
        began = time.perf_counter()
        month = report_of(kitchen, today - dt.timedelta(days=30), today)
        report["report_of_a_month"] = {"records": len(month.rows), "seconds": round(time.perf_counter() - began, 2)}
        report["report_of_a_month"]["weeks_on_screen_s"] = self._weeks(client, today)
        began = time.perf_counter()
        week_bounds: list[tuple[int, int]] = []
        size = len(paper_of(month, person, lambda done, parts: week_bounds.append((done, parts))))
        report["report_of_a_month"] |= {
            "pdf_s": round(time.perf_counter() - began, 2), "pdf_kb": size // 1024, "pdf_parts": week_bounds[-1][1]
        }  # fmt: skip
        began = time.perf_counter()
        walked = walk(kitchen)
        report["chain"] = {
            "records": walked.records, "holds": walked.holds, "walked_s": round(time.perf_counter() - began, 1)
        }  # fmt: skip
        return report

    def _weeks(self, client: Client, today: dt.date) -> list[float]:
        """Times of a month's report week by week, as its page loads it."""
        took = []
        for done in range(5):
            began = time.perf_counter()
            begins = str(today - dt.timedelta(days=30))
            params: dict[str, str | int] = {"from": begins, "to": str(today), "done": done}
            if client.get("/book/report/more/", params).status_code != 200:
                raise RuntimeError("a week of the report did not come")
            took.append(round(time.perf_counter() - began, 2))
        return took

    def _took(self, client: Client, paths: list[str]) -> dict[str, float]:
        client.get(paths[0])
        took = []
        for path in paths:
            began = time.perf_counter()
            response = client.get(path)
            took.append(1e3 * (time.perf_counter() - began))
            if response.status_code != 200:
                raise RuntimeError(f"{path}: {response.status_code}")
        took.sort()
        return {"median": round(statistics.median(took), 1), "p95": round(took[int(0.95 * (len(took) - 1))], 1)}
