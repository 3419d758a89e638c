"""Reading across the kitchens of a group: one page, one report."""

from __future__ import annotations

import csv
import datetime as dt
import io

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from kitchen.book.paper import ask_for
from kitchen.csv_cells import cells
from kitchen.database.standby import reads_standby
from kitchen.web import KitchenRequest, attachment, parse_count

from .belonging import reads_across
from .models import GroupRole
from .overview import DRIFTED_K, read_kitchen
from .tasks import make_group_paper

SPANS = ((1, "a week"), (4, "four weeks"), (13, "three months"))
USUAL = 4


def _weeks(request: KitchenRequest) -> int:
    weeks = parse_count(request.GET.get("weeks"))
    return weeks if weeks is not None and weeks in dict(SPANS) else USUAL


def _days(request: KitchenRequest) -> tuple[dt.date, dt.date]:
    today = timezone.now().astimezone(request.kitchen.zone).date()
    return today - dt.timedelta(weeks=_weeks(request)), today


@reads_across
def across(request: KitchenRequest, role: GroupRole) -> HttpResponse:
    """All kitchens of the group; each is read by itself, as soon as the page is there."""
    first, last = _days(request)
    context = {
        "group": role.group, "role": role, "kitchens": role.group.kitchens, "spans": SPANS, "weeks": _weeks(request),
        "first": first, "last": last, "drifted_k": DRIFTED_K,
    }  # fmt: skip
    return render(request, "groups/across.html", context)


@reads_across
@reads_standby
def kitchen(request: KitchenRequest, role: GroupRole, pk: int) -> HttpResponse:
    """One kitchen of the group."""
    row = get_object_or_404(role.group.kitchens, pk=pk)
    first, last = _days(request)
    with timezone.override(row.zone):
        context = {"read": read_kitchen(row, first, last, request.user.units)}
        return render(request, "groups/_kitchen.html", context)


@reads_across
@reads_standby
def as_csv(request: KitchenRequest, role: GroupRole) -> HttpResponse:
    """Every missed rule of the group's kitchens, and what was done about it."""
    first, last = _days(request)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["kitchen", "time", "kind", "name", "by", "verdict", "rule", "corrective_action", "signed_by"])
    for row_kitchen in role.group.kitchens:
        for row in read_kitchen(row_kitchen, first, last, request.user.units).missed:
            when = row.at.astimezone(row_kitchen.zone).isoformat(timespec="seconds")
            done = "; ".join(row.put_right)
            writer.writerow(
                cells(
                    [str(row_kitchen), when, row.kind, row.name, row.by, row.words, row.rule_named, done, row.signed_by]
                )
            )
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(role.group.name, "-missed.csv")
    return response


@reads_across
def as_pdf(request: KitchenRequest, role: GroupRole) -> HttpResponse:
    """Have the report made, and show how far it is."""
    paper = ask_for(request.kitchen, request.user, *_days(request))
    make_group_paper.defer(paper_id=str(paper.pk))
    return redirect("book:paper", pk=paper.pk)
