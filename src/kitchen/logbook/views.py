"""Views of the log: finished cooks, records, corrective actions, sign-off and export."""

from __future__ import annotations

import csv
import datetime as dt
import uuid
from collections.abc import Iterator
from heapq import merge

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.accounts.confirming import NotConfirmedError, confirm_person
from kitchen.csv_cells import cells
from kitchen.kit.models import Probe
from kitchen.line import actions as line_actions
from kitchen.line.cook_faces import faces_shown
from kitchen.line.cook_readings import came_late
from kitchen.line.errors import LineError
from kitchen.line.picture import cook_chart, forecasts_moved
from kitchen.web import KitchenRequest, attachment, clean_text

from . import actions
from .corrected_readings import core_check_events
from .evidence import recorded_status, taken_readings
from .queries import finished, row_of
from .queries import found as found_by
from .record import record_of, record_state

PER_PAGE = 9


def log(request: KitchenRequest) -> HttpResponse:
    """Show the newest record, or an empty state."""
    newest = finished(request.kitchen).first()
    if newest is None:
        return render(request, "logbook/empty.html")
    return redirect("logbook:record", pk=newest.pk)


def record(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show one record beside the list."""
    cook = get_object_or_404(finished(request.kitchen), pk=pk)
    query = clean_text(request.GET.get("q"), 80)
    page = Paginator(found_by(request.kitchen, query), PER_PAGE).get_page(request.GET.get("page"))
    signed = getattr(cook, "sign_off", None)
    record_data = signed.record if signed else record_of(cook)
    status = None if cook.goes_by_steps else recorded_status(cook)
    late, after_signing = came_late(cook)
    context = {
        "late_readings": late,
        "after_signing": after_signing,
        "rows": [row_of(other) for other in page],
        "page": page,
        "query": query,
        "cook": cook,
        "record": record_data,
        "state": record_state(record_data),
        "signed": signed,
        "additions": cook.additions.select_related("by").order_by("at") if signed else [],
        "chart": cook_chart(status) if status else None,
        "moved": forecasts_moved(status) if status else [],
        "status": status,
        "start": cook.started_at,
        "faces": faces_shown(cook),
    }
    return render(request, "logbook/record.html", context)


@require_POST
def correct(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record a corrective action."""
    cook = get_object_or_404(finished(request.kitchen), pk=pk)
    note = clean_text(request.POST.get("note"), 500)
    if hasattr(cook, "sign_off"):
        messages.error(request, "This record is signed off and cannot be changed.")
    elif not note:
        messages.error(request, "Enter the corrective action first.")
    else:
        line_actions.correct(cook, request.user, note)
    return redirect("logbook:record", pk=pk)


@require_POST
@chef_required
def sign(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Sign a record, which cannot be undone."""
    cook = get_object_or_404(finished(request.kitchen), pk=pk)
    try:
        actions.sign(cook, request.user, confirm_person(request))
    except (LineError, NotConfirmedError) as error:
        messages.error(request, str(error))
    return redirect("logbook:record", pk=pk)


class _Echo:
    """A file object that returns what is written to it, for streaming."""

    def write(self, text: str) -> str:
        return text


def readings_csv(request: KitchenRequest, pk: uuid.UUID) -> StreamingHttpResponse:
    """The readings as a probe log: time with offset, probe, celsius; with checks of the core."""
    cook = get_object_or_404(finished(request.kitchen), pk=pk)
    writer = csv.writer(_Echo())
    names = dict(Probe.objects.of(request.kitchen).values_list("pk", "name"))

    def taken() -> Iterator[tuple[dt.datetime, str, float]]:
        for reading in taken_readings(cook):
            yield reading.at, names[reading.probe] if reading.probe else "typed", reading.celsius

    checked = [(e.at, f"check by {e.by}", float(e.data["core_c"])) for e in core_check_events(cook)]

    def rows() -> Iterator[str]:
        yield writer.writerow(["time", "probe", "celsius"])
        for at, probe, celsius in merge(taken(), checked, key=lambda reading: reading[0]):
            when = at.astimezone(cook.kitchen.zone).isoformat(timespec="milliseconds")
            yield writer.writerow([when, *cells([probe]), f"{celsius:.2f}"])

    response = StreamingHttpResponse(rows(), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(cook.name, "-readings.csv")
    return response
