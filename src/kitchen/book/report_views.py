"""Views of the report: screen, PDF, CSV, JSON."""

from __future__ import annotations

import csv
import datetime as dt
import io
from dataclasses import dataclass
from typing import Any

from django.http import HttpResponse, JsonResponse
from django.shortcuts import render

from kitchen.csv_cells import cells
from kitchen.database.standby import reads_standby
from kitchen.web import KitchenRequest, attachment, day_in

from .report import LONGEST_DAYS, Counts, Report, report_of

COLUMNS = (
    "kind",
    "at",
    "name",
    "what",
    "by",
    "words",
    "state",
    "met",
    "rule",
    "standard",
    "put_right",
    "signed_by",
    "signed_at",
)
WEEK = 7
MOST_SEEN = 2000


def _day(text: str | None, usual: dt.date) -> tuple[dt.date, str]:
    if not text:
        return usual, ""
    day = day_in(text)
    return (day, "") if day else (usual, f"{text[:20]} is not a date. Enter it as 2031-05-07.")


def _period(request: KitchenRequest) -> tuple[dt.date, dt.date, str]:
    """First and last day from the query, and what is wrong with them; today if none is given."""
    today = request.kitchen.now().astimezone(request.kitchen.zone).date()
    first, wrong = _day(request.GET.get("from"), today)
    last, also = _day(request.GET.get("to"), max(first, today) if not request.GET.get("from") else first)
    problem = wrong or also
    if not problem and last < first:
        problem = "The end date is before the start date."
    if not problem and (last - first).days > LONGEST_DAYS:
        problem = f"At most {LONGEST_DAYS} days at once."
    return (first, last, problem) if not problem else (first, first, problem)


def report_asked(request: KitchenRequest) -> tuple[Report, str]:
    """The report of the request, and what is wrong with its dates."""
    first, last, problem = _period(request)
    return report_of(request.kitchen, first, last, request.user.units), problem


@dataclass(frozen=True)
class Part:
    """A week of a long report: `done` of `of` weeks are shown; `seen` carries the counts so far."""

    first: dt.date
    last: dt.date
    done: int
    seen: str = ""

    @property
    def of(self) -> int:
        """Number of weeks."""
        return (self.last - self.first).days // WEEK + 1

    @property
    def is_last(self) -> bool:
        """Whether all weeks are shown."""
        return self.done >= self.of

    @property
    def days(self) -> tuple[dt.date, dt.date]:
        """The days of the next week."""
        begin = self.first + dt.timedelta(days=WEEK * self.done)
        return begin, min(begin + dt.timedelta(days=WEEK - 1), self.last)


def _packed(counts: Counts) -> str:
    kinds = [f"{kind}:{a}:{b}:{c}" for kind, (a, b, c) in counts.kinds.items()]
    return ";".join([str(counts.unsigned), *kinds])


def _unpacked(text: str) -> Counts:
    unsigned, *rows = text.split(";") if text else ["0"]
    kinds = [pair.split(":") for pair in rows]
    return Counts({kind: (int(a), int(b), int(c)) for kind, a, b, c in kinds}, int(unsigned))


@reads_standby
def report(request: KitchenRequest) -> HttpResponse:
    """The report on screen; a report longer than a week loads week by week."""
    first, last, problem = _period(request)
    is_long = (last - first).days >= WEEK
    report_made = None if is_long else report_of(request.kitchen, first, last, request.user.units)
    today = request.kitchen.now().astimezone(request.kitchen.zone).date()
    spans = [("Today", today, today), ("Seven days", today - dt.timedelta(days=6), today),
             ("This month", today.replace(day=1), today)]  # fmt: skip
    context: dict[str, Any] = {
        "report": report_made, "first": first, "last": last, "problem": problem, "spans": spans,
        "counts": report_made.counts if report_made else Counts({}), "part": Part(first, last, 0) if is_long else None,
    }  # fmt: skip
    return render(request, "book/report.html", context, status=422 if problem else 200)


@reads_standby
def more(request: KitchenRequest) -> HttpResponse:
    """The next week of a long report, with the counts so far and its progress."""
    first, last, problem = _period(request)
    try:
        part = Part(first, last, int(request.GET.get("done", "")))
        seen = _unpacked(request.GET.get("seen", "")[:MOST_SEEN])
    except ValueError:
        problem = "That part of the report does not exist."
    if problem or part.done < 0 or part.is_last:
        return refused(problem or "There are no more weeks in this report.")
    part_report = report_of(request.kitchen, *part.days, request.user.units)
    counts = seen + part_report.counts
    part = Part(first, last, part.done + 1, _packed(counts))
    return render(request, "book/_report_more.html", {"report": part_report, "part": part, "counts": counts})


def refused(problem: str) -> HttpResponse:
    """The page of a request with invalid dates."""
    return HttpResponse(problem, status=422, content_type="text/plain; charset=utf-8")


def name_of(first: dt.date, last: dt.date) -> str:
    """The file name of a report."""
    return f"report {first.isoformat()}" + ("" if first == last else f" to {last.isoformat()}")


def report_csv(request: KitchenRequest) -> HttpResponse:
    """The report as CSV."""
    report_made, problem = report_asked(request)
    if problem:
        return refused(problem)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for record in report_made.as_json()["records"]:
        writer.writerow(cells("; ".join(record[c]) if isinstance(record[c], list) else record[c] for c in COLUMNS))
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(name_of(report_made.first, report_made.last), ".csv")
    return response


@reads_standby
def report_json(request: KitchenRequest) -> HttpResponse:
    """The report as JSON."""
    report_made, problem = report_asked(request)
    if problem:
        return refused(problem)
    response = JsonResponse(report_made.as_json())
    response.headers["Content-Disposition"] = attachment(name_of(report_made.first, report_made.last), ".json")
    return response
