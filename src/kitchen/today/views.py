"""The page that answers what needs somebody now."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render

from kitchen.web import KitchenRequest

from . import rows

COUNTED = ("plan", "service", "line", "store", "log")


def counts(request: KitchenRequest) -> HttpResponse:
    """What waits for this person in each place, for the rail."""
    waiting = rows.waiting_counts(request.kitchen, request.user, request.membership.is_chef)
    return render(request, "today/_counts.html", {"counts": [(code, waiting.get(code, 0)) for code in COUNTED]})


def today(request: KitchenRequest) -> HttpResponse:
    """Now, due and to decide; the fragment alone when the page asks for it again."""
    kitchen, now = request.kitchen, request.kitchen.now()
    actions = rows.line_rows(kitchen, now)
    checks = list(rows.check_rows(kitchen))
    decide: list[rows.Row] = []
    unsigned = 0
    if request.membership.is_chef:
        decide, unsigned = rows.unsigned_rows(kitchen)
    context: dict[str, Any] = {
        "now": now,
        "actions": actions[: rows.FIRST],
        "more_actions": max(len(actions) - rows.FIRST, 0),
        "services": rows.service_rows(kitchen, now)[: rows.MOST],
        "batches": sorted(rows.batch_rows(kitchen, now), key=lambda row: (not row.is_late, row.at or now))[: rows.MOST],
        "checks": checks[: rows.MOST],
        "more_checks": max(len(checks) - rows.MOST, 0),
        "brines": list(rows.brine_rows(kitchen, request.user))[: rows.MOST],
        "unsigned": decide,
        "more_unsigned": max(unsigned - len(decide), 0),
        "to_set_up": rows.still_to_set_up(kitchen) if request.membership.is_chef else [],
    }
    if request.htmx:
        return render(request, "today/_today.html", context)
    return render(request, "today/today.html", context | {"yesterday": rows.yesterday_of(kitchen, now)})
