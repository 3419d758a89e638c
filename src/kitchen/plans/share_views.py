"""Plans on paper and in files: the card, versions, exports and imports."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import uuid
from contextlib import suppress

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.views.decorators.http import require_POST

from ember.errors import BadInput, EmberError
from ember.files.plan import parse_plan
from kitchen.accounts.once import works_out_first
from kitchen.csv_cells import cells
from kitchen.web import KitchenRequest, attachment

from . import actions
from .access import plans_of, rules_of
from .bench import Bench
from .card import card_context
from .evaluated import evaluated
from .hooks import past_cooks
from .models import Plan
from .paper import pdf, static_file
from .views import bench_context

IMPORT_MAX_BYTES = 1_000_000
MOST_COOKS = 30
STYLES = ("tokens.css", "chart.css")


def _ready(text: str | None) -> dt.time | None:
    try:
        return dt.time.fromisoformat(text or "")
    except ValueError:
        return None


def card(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """A saved plan on one sheet to print; `ready` gives its steps their times of day."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    return render(request, "plans/card.html", card_context(request, plan, _ready(request.GET.get("ready"))))


def card_pdf(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The same sheet as a PDF."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    page = render_to_string("plans/card_pdf.html", card_context(request, plan, _ready(request.GET.get("ready"))))
    response = HttpResponse(pdf([page], "card.css"), content_type="application/pdf")
    response.headers["Content-Disposition"] = attachment(plan.name, ".pdf")
    return response


def versions(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The history of a plan, and its past cooks."""
    plan = get_object_or_404(plans_of(request).select_related("copied_from"), pk=pk)
    cooks, cooked_count = past_cooks(plan, MOST_COOKS)
    context = {
        "plan": plan,
        "rows": plan.versions.select_related("kept_by"),
        "cooks": cooks,
        "cooked_count": cooked_count,
    }
    return render(request, "plans/versions.html", context)


@require_POST
def bring_back(request: KitchenRequest, pk: uuid.UUID, number: int) -> HttpResponse:
    """Restore an earlier version, as a new version."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    version = get_object_or_404(plan.versions, number=number)
    actions.bring_back(plan, request.user, version)
    messages.success(request, f"Version {number} restored.")
    return redirect("plans:edit", pk=plan.pk)


def export(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Download the plan as a file."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    body = json.dumps(plan.document, ensure_ascii=False, indent=2) + "\n"
    return _file(body, "application/json; charset=utf-8", plan, ".ember.json")


def _file(body: str, kind: str, plan: Plan, ending: str) -> HttpResponse:
    response = HttpResponse(body, content_type=kind)
    response.headers["Content-Disposition"] = attachment(plan.name, ending)
    return response


def _worked_out(request: KitchenRequest, pk: uuid.UUID) -> tuple[Plan, Bench]:
    """A saved plan with its result.

    Raises Http404 if it cannot be cooked any more.
    """
    plan = get_object_or_404(plans_of(request), pk=pk)
    bench = Bench.of_document(plan.document, request.user.units)
    if not bench.work_out_document({**plan.document, **rules_of(request), "depth_map": True}):
        raise Http404("This plan cannot be simulated.")
    return plan, bench


def curves_csv(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The curves in seconds and °C, whatever units the person reads."""
    plan, bench = _worked_out(request, pk)
    result = bench.result
    assert result is not None  # noqa: S101  (worked out above)
    columns = {
        "seconds": result.curves.t_s, "core_c": result.curves.core_c, "outside_c": result.curves.surface_c,
        "reading_c": result.curves.reading_c,
    }  # fmt: skip
    if result.thin is not None and result.thick is not None:
        columns |= {"thin_core_c": result.thin.curve_c, "thick_core_c": result.thick.curve_c}
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(cells(columns))
    writer.writerows(zip(*columns.values(), strict=True))
    return _file(out.getvalue(), "text/csv; charset=utf-8", plan, "-curves.csv")


def drawing_svg(request: KitchenRequest, pk: uuid.UUID, what: str) -> HttpResponse:
    """The chart or the cut face as a standalone drawing."""
    plan, bench = _worked_out(request, pk)
    context = bench_context(
        request,
        bench,
        plan,
        units=request.user.units,
        style="".join(static_file(name).read_text("utf-8") for name in STYLES),
    )
    return _file(render_to_string(f"plans/{what}_svg.html", context), "image/svg+xml", plan, f"-{what}.svg")


def _evaluate_first(request: KitchenRequest) -> None:
    upload = request.FILES.get("file")
    if upload is not None and (upload.size or 0) <= IMPORT_MAX_BYTES:
        with suppress(UnicodeDecodeError, ValueError, RecursionError, EmberError):
            evaluated(parse_plan(json.loads(upload.read().decode("utf-8"))))
        upload.seek(0)


@works_out_first(_evaluate_first)
@require_POST
def import_plan(request: KitchenRequest) -> HttpResponse:
    """Import a plan from a file; an error is shown with its place."""
    upload = request.FILES.get("file")
    try:
        if upload is None:
            raise BadInput("Choose a .ember.json file first.")
        if (upload.size or 0) > IMPORT_MAX_BYTES:
            raise BadInput("This file is too large for a plan.")
        try:
            data = json.loads(upload.read().decode("utf-8"))
        except (UnicodeDecodeError, ValueError, RecursionError):
            raise BadInput("This file is not JSON.") from None
        plan = actions.import_document(request.kitchen, request.user, data)
    except EmberError as error:
        place = f" (at {error.at})" if error.at else ""
        messages.error(request, f"Not imported: {error.message}{place}")
        return redirect("plans:list")
    messages.success(request, f"Imported {plan.name}.")
    return redirect("plans:edit", pk=plan.pk)
