"""The page that answers what needs somebody now."""

from __future__ import annotations

from typing import Any

from django.core.cache import caches
from django.http import HttpResponse
from django.shortcuts import render

from kitchen.line.step_cooks import steps_running
from kitchen.web import KitchenRequest

from . import decide, rows

COUNTED = ("plan", "service", "line", "store", "log")
COUNTS_FOR_S = 2.0  # of all pages a person has open, one works them out


def counts(request: KitchenRequest) -> HttpResponse:
    """What waits for this person in each place, for the rail."""
    chef = request.membership.is_chef
    waiting = caches["boards"].get_or_set(
        f"waiting-{request.kitchen.pk}-{request.user.pk}-{chef}",
        lambda: decide.waiting_counts(request.kitchen, request.user, chef), COUNTS_FOR_S,
    ) or {}  # fmt: skip
    return render(request, "today/_counts.html", {"counts": [(code, waiting.get(code, 0)) for code in COUNTED]})


def today(request: KitchenRequest) -> HttpResponse:
    """Now, due and to decide; the fragment alone when the page asks for it again."""
    kitchen, now = request.kitchen, request.kitchen.now()
    steps = steps_running(kitchen, now)
    actions = rows.line_rows(kitchen, now, steps)
    checks = [*rows.scheduled_rows(kitchen, now), *rows.check_rows(kitchen)]
    unsigned: list[rows.Row] = []
    count, missed, proposals, shared = 0, [], [], []
    if request.membership.is_chef:
        unsigned, count = decide.unsigned_rows(kitchen)
        missed = list(decide.missed_rows(kitchen, now))
        proposals = list(decide.calibration_rows(kitchen))
        shared = list(decide.group_rows(kitchen))[: rows.MOST]
    context: dict[str, Any] = {
        "now": now,
        "actions": actions[: rows.FIRST],
        "more_actions": max(len(actions) - rows.FIRST, 0),
        "services": rows.service_rows(kitchen, now)[: rows.MOST],
        "batches": sorted(rows.batch_rows(kitchen, now), key=lambda row: (not row.is_late, row.at or now))[: rows.MOST],
        "brine_ends": list(rows.brine_end_rows(steps, now)),
        "prep": list(rows.prep_rows(kitchen, now)),
        "checks": checks[: rows.MOST],
        "more_checks": max(len(checks) - rows.MOST, 0),
        "brines": list(decide.brine_rows(kitchen, request.user))[: rows.MOST],
        "missed": missed,
        "proposals": proposals,
        "shared": shared,
        "unsigned": unsigned,
        "more_unsigned": max(count - len(unsigned), 0),
        "to_set_up": rows.still_to_set_up(kitchen) if request.membership.is_chef else [],
    }
    if request.htmx:
        return render(request, "today/_today.html", context)
    return render(request, "today/today.html", context | {"yesterday": decide.yesterday_of(kitchen, now)})
