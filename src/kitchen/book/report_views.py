"""The report of a day or a period: on the screen, on paper, as a table, for programs."""

from __future__ import annotations

import csv
import datetime as dt
import io
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from kitchen.downloads import attachment
from kitchen.plans.paper import pdf

from .report import LONGEST_DAYS, Report, report_of

COLUMNS = ("kind", "at", "name", "by", "words", "met", "rule", "standard", "put_right", "signed_by", "signed_at")


def _day(text: str | None, usual: dt.date) -> tuple[dt.date, str]:
    if not text:
        return usual, ""
    try:
        return dt.date.fromisoformat(text), ""
    except ValueError:
        return usual, f"{text[:20]} is no day: write it as 2031-05-07."


def _period(request: HttpRequest) -> tuple[dt.date, dt.date, str]:
    """The days asked for, and what is wrong with them; today where nothing is said."""
    today = request.kitchen.now().astimezone(request.kitchen.zone).date()
    first, wrong = _day(request.GET.get("from"), today)
    last, also = _day(request.GET.get("to"), max(first, today) if not request.GET.get("from") else first)
    problem = wrong or also
    if not problem and last < first:
        problem = "The last day comes before the first."
    if not problem and (last - first).days > LONGEST_DAYS:
        problem = f"At most {LONGEST_DAYS} days at once."
    return (first, last, problem) if not problem else (first, first, problem)


def _report(request: HttpRequest) -> tuple[Report, str]:
    first, last, problem = _period(request)
    return report_of(request.kitchen, first, last, request.user.units), problem


def report(request: HttpRequest) -> HttpResponse:
    """On the screen."""
    found, problem = _report(request)
    today = request.kitchen.now().astimezone(request.kitchen.zone).date()
    spans = [("Today", today, today), ("Seven days", today - dt.timedelta(days=6), today),
             ("This month", today.replace(day=1), today)]  # fmt: skip
    context: dict[str, Any] = {"report": found, "problem": problem, "spans": spans}
    return render(request, "book/report.html", context, status=422 if problem else 200)


def _refused(problem: str) -> HttpResponse:
    return HttpResponse(problem, status=422, content_type="text/plain; charset=utf-8")


def _name(found: Report) -> str:
    return f"report {found.first.isoformat()}" + ("" if found.first == found.last else f" to {found.last.isoformat()}")


def report_pdf(request: HttpRequest) -> HttpResponse:
    """On paper."""
    found, problem = _report(request)
    if problem:
        return _refused(problem)
    page = render_to_string("book/report_pdf.html", {"report": found, "by": request.user}, request)
    response = HttpResponse(pdf(page, "report.css"), content_type="application/pdf")
    response.headers["Content-Disposition"] = attachment(_name(found), ".pdf")
    return response


def report_csv(request: HttpRequest) -> HttpResponse:
    """As a table."""
    found, problem = _report(request)
    if problem:
        return _refused(problem)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for row in found.as_json()["records"]:
        writer.writerow(["; ".join(row[c]) if isinstance(row[c], list) else row[c] for c in COLUMNS])
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(_name(found), ".csv")
    return response


def report_json(request: HttpRequest) -> HttpResponse:
    """For programs."""
    found, problem = _report(request)
    if problem:
        return _refused(problem)
    response = JsonResponse(found.as_json())
    response.headers["Content-Disposition"] = attachment(_name(found), ".json")
    return response
