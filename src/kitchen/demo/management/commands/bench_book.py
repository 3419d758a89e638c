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
from django.db import connection, transaction
from django.db.models import Sum
from django.test import Client
from django.utils import timezone

from ember.evaluate import evaluate
from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Membership, Person, hash_token
from kitchen.book import retention
from kitchen.book.models import Entry, Retirement
from kitchen.book.paper import paper_of
from kitchen.book.report import report_of
from kitchen.book.verify import walk
from kitchen.demo.kitchen import PLANS
from kitchen.kit.models import Device, Probe
from kitchen.line.models import Cook, CookEvent, ProbeUse, Reading
from kitchen.line.starting import kept_result
from kitchen.logbook.models import SignOff
from kitchen.logbook.record import record_of

DAYS, ENTRIES_A_DAY, SIGNED = 400, 6, 0.95
TOKEN = uuid.uuid4().hex
ASKED, AT_A_TIME = 30, 1000
EVERY_S, PROBES, RUNNING = 5, 240, 40
# Constraints and links of each row are left out: they would take ten times as long, and are not what is measured.
READINGS = """
SET LOCAL session_replication_role = replica;
INSERT INTO line_reading (kitchen_id, probe_id, at, claimed_at, received_at, boot, number, celsius, by_hand)
SELECT c.kitchen_id, u.probe_id, lower(u.during) + g * %(every)s * interval '1 second',
       lower(u.during) + g * %(every)s * interval '1 second', lower(u.during) + g * %(every)s * interval '1 second',
       '', g, 8 + 50 * (1 - exp(-g / 500.0)), false
FROM line_probeuse u JOIN line_cook c ON c.id = u.cook_id CROSS JOIN generate_series(1, %(each)s) AS g
WHERE lower(u.during) + g * %(every)s * interval '1 second' < now()
"""


def _some_day(rng: random.Random) -> dt.date:
    return (timezone.now() - dt.timedelta(days=rng.randrange(2, DAYS))).date()


def _spread(took: list[float]) -> dict[str, float]:
    took = sorted(took)
    return {"median": round(statistics.median(took), 1), "p95": round(took[int(0.95 * (len(took) - 1))], 1)}


def _gigabytes() -> float:
    with connection.cursor() as cursor:
        cursor.execute("SELECT sum(pg_total_relation_size(oid)) FROM pg_class WHERE relname ~ '^line_reading_[0-9o]'"
                       " AND relkind = 'r'")  # fmt: skip
        return round(float(cursor.fetchone()[0]) / 1e9, 2)


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
        """Cooks over DAYS, the last RUNNING of them still on the line, each with a probe for its readings."""
        kitchen = Kitchen.objects.create(name="MV Tern Island", place="Galley")
        person = Person.objects.create_user("years", password=uuid.uuid4().hex, name="Year Watch")
        Membership.objects.create(person=person, kitchen=kitchen, role=Membership.Role.CHEF)
        plans = [(document, kept_result(core, evaluate(core))) for document in PLANS if (core := parse_plan(document))]
        now, rng = timezone.now(), random.Random(7)  # noqa: S311
        device = Device.objects.create(kitchen=kitchen, name="Box", token_hash=hash_token(TOKEN))
        probes = Probe.objects.bulk_create(
            Probe(kitchen=kitchen, device=device, code=f"p{n}", name=f"Probe {n}") for n in range(PROBES)
        )
        each = max(readings // cooks, 1)
        lasts = dt.timedelta(seconds=each * EVERY_S)
        for first in range(0, cooks, AT_A_TIME):
            rows = []
            for number in range(first, min(first + AT_A_TIME, cooks)):
                document, result = plans[number % len(plans)]
                runs = number >= cooks - RUNNING
                ago = dt.timedelta(minutes=40) if runs else dt.timedelta(minutes=rng.uniform(60, 300))
                start = now - ago - (dt.timedelta(0) if runs else DAYS * dt.timedelta(days=1 - number / cooks) + lasts)
                rows.append(Cook(
                    kitchen=kitchen, name=f"{document['name']} {number + 1}", document=document, result=result,
                    started_at=start, started_by=person, finished_at=None if runs else start + lasts,
                ))  # fmt: skip
            Cook.objects.bulk_create(rows)
            ProbeUse.objects.bulk_create(
                ProbeUse(cook=cook, probe=probes[(first + n) % PROBES], during=(cook.started_at, cook.finished_at))
                for n, cook in enumerate(rows)
            )
            CookEvent.objects.bulk_create(
                CookEvent(cook=record, kind=kind, at=at, by=person, token=uuid.uuid4())
                for record in rows
                for kind, at in (("started", record.started_at), ("finished", record.finished_at))
                if at is not None
            )
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT ember_reading_months(%s, %s)", [now - dt.timedelta(days=2 * DAYS), now])
            cursor.execute(READINGS, {"every": EVERY_S, "each": each})
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
        finished = Cook.objects.exclude(finished_at=None)
        keys = list(finished.values_list("pk", flat=True).order_by("?")[:ASKED])
        last = Cook.objects.count() // 9
        pages = {
            "line": ["/line/" for _ in keys],
            "record": [f"/log/{key}/" for key in keys],
            "record_deep_in_the_list": [f"/log/{key}/?page={rng.randrange(1, last)}" for key in keys],
            "log_found_by_name": [f"/log/{keys[0]}/?q=strip%20{rng.randrange(1, 9999)}" for _ in keys],
            "log_found_by_note": [f"/log/{keys[0]}/?q=nothing%20{i}" for i in range(len(keys))],
            "book": [f"/book/?page={rng.randrange(1, 50)}" for _ in keys],
            "book_found": [f"/book/?q=Fridge%20{i % 5 + 1}" for i in range(len(keys))],
            "find": [f"/search/?q=strip%20{rng.randrange(1, 9999)}" for _ in keys],
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
        report["posts_ms"] = self._posts(client)
        report["retention"] = self._retire(kitchen, person)
        return report

    def _posts(self, client: Client) -> dict[str, float]:
        """Times of posts of a reading for each of ten probes."""
        took = []
        for number in range(ASKED):
            at = timezone.now()
            rows = [{"probe": f"p{n}", "at": at.isoformat(), "celsius": 50.0, "n": number} for n in range(10)]
            body = {"sent_at": at.isoformat(), "readings": rows}
            began = time.perf_counter()
            answer = client.post(
                "/api/v1/readings", body, content_type="application/json", headers={"Authorization": f"Bearer {TOKEN}"}
            )
            took.append(1e3 * (time.perf_counter() - began))
            if answer.status_code != 200 or answer.json()["kept"] != len(rows):
                raise RuntimeError(f"readings were not kept: {answer.content!r}")
        return _spread(took)

    def _retire(self, kitchen: Kitchen, person: Person) -> dict[str, Any]:
        """Times and sizes of thinning what is older than five weeks and dropping what is older than a year."""
        report: dict[str, Any] = {"gb_before": _gigabytes()}
        retention.keep_for(kitchen, person, 12)
        for name, work in (
            ("deleted", retention.retire),
            ("thinned", retention.retire),
            ("compacted", retention.compact),
        ):
            if name == "thinned":
                retention.thin_after(kitchen, person, 35)
            began = time.perf_counter()
            work()
            report[f"{name}_s"] = round(time.perf_counter() - began, 1)
        taken = Retirement.objects.values("what").annotate(rows=Sum("count"))
        report |= {row["what"]: row["rows"] for row in taken}
        return report | {"gb_after": _gigabytes(), "readings_after": Reading.objects.count()}

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
        return _spread(took)
