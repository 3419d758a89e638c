"""The list of plans and the plan bench."""

from __future__ import annotations

import json
import re
import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.errors import BadInput, EmberError
from ember.food.catalogue import cuts
from ember.heat.media import medium_c
from kitchen.cuts.models import OwnCut
from kitchen.downloads import attachment
from kitchen.drawings.plan_chart import plan_chart
from kitchen.kit.models import Probe
from kitchen.line import actions as line_actions
from kitchen.text import tidy

from . import actions
from .forms import Bench, first_document
from .models import Plan
from .stage_form import StageForm
from .stage_kinds import STAGE_KINDS, STAGE_NAMES

CHART_PX = 684.0
IMPORT_MAX_BYTES = 1_000_000


def _plans(request: HttpRequest) -> Any:
    return Plan.objects.of(request.kitchen).current()


def plan_list(request: HttpRequest) -> HttpResponse:
    """All plans by name; `q` searches names and cuts."""
    query = tidy(request.GET.get("q"), 120)
    plans = _plans(request).select_related("updated_by")
    if query:
        plans = plans.filter(name__icontains=query) | plans.filter(document__piece__cut__icontains=query)
    rows = [{"plan": plan, **summary(plan.document)} for plan in plans.order_by("name")]
    context = {"rows": rows, "query": query, "count": _plans(request).count()}
    if request.htmx and request.htmx.target == "plan-rows":
        return render(request, "plans/_rows.html", context)
    return render(request, "plans/list.html", context)


def summary(document: dict[str, Any]) -> dict[str, Any]:
    """What a list says of a plan, without working it out."""
    piece = document["piece"]
    known = cuts().get(piece["cut"])
    target = document.get("target") or {}
    return {
        "cut_name": known.name if known else piece["cut"],
        "size_mm": piece["shape"].get("thickness_mm") or piece["shape"].get("diameter_mm"),
        "mass_g": piece.get("mass_g"),
        "count": piece.get("count", 1),
        "wanted": target.get("doneness"),
        "wanted_c": target.get("core_c"),
        "stages": [{"kind": s["kind"], "name": STAGE_NAMES[s["kind"]]} for s in document["stages"]],
    }


def _context(request: HttpRequest, bench: Bench, plan: Plan | None, **more: Any) -> dict[str, Any]:
    chart = None
    if bench.result is not None and bench.core is not None:
        chart = plan_chart(bench.result, [stage.kind for stage in bench.core.stages], CHART_PX)
        for form, run in zip(bench.stages, bench.result.stages, strict=True):
            form.run = run
    return {
        "bench": bench,
        "plan": plan,
        "result": bench.result,
        "chart": chart,
        "common_stages": [(kind, row.title) for kind, row in STAGE_KINDS.items() if row.common],
        "other_stages": [(kind, row.title) for kind, row in STAGE_KINDS.items() if not row.common],
        "probes": Probe.objects.of(request.kitchen).filter(device__revoked_at=None).exclude(
            uses__during__endswith=None, uses__isnull=False
        ),
        "start_token": uuid.uuid4(),
        **more,
    }  # fmt: skip


def new(request: HttpRequest) -> HttpResponse:
    """The bench with a plan to begin with; kept at the first Save."""
    if request.method == "POST":
        return _save(request, None)
    wanted = request.GET.get("own")
    own = OwnCut.objects.of(request.kitchen).current().filter(pk=wanted).first() if _is_uuid(wanted) else None
    if own is not None:
        document = first_document(own.row, own.doneness)
        document["piece"] |= own.piece
        document["name"] = f"New {own.name.lower()}"
    else:
        document = first_document(cuts().get(request.GET.get("cut", "")) or next(iter(cuts().values())))
    document |= _rules_of(request)
    bench = Bench.of_document(document, request.user.units)
    bench.work_out_document({**document, "depth_map": True})
    return render(request, "plans/bench.html", _context(request, bench, None))


def edit(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The bench with a kept plan."""
    plan = get_object_or_404(_plans(request), pk=pk)
    if request.method == "POST":
        return _save(request, plan)
    bench = Bench.of_document(plan.document, request.user.units)
    bench.work_out_document({**plan.document, **_rules_of(request), "depth_map": True})
    return render(request, "plans/bench.html", _context(request, bench, plan))


def _rules_of(request: HttpRequest) -> dict[str, Any]:
    """What this kitchen holds its plans against."""
    return {"standard": request.kitchen.standard, "house": request.kitchen.house or None}


def card(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A kept plan on one sheet, to print and hang up."""
    plan = get_object_or_404(_plans(request), pk=pk)
    bench = Bench.of_document(plan.document, request.user.units)
    bench.work_out_document({**plan.document, **_rules_of(request)})
    rows = []
    if bench.core is not None and bench.result is not None:
        for i, (stage, run) in enumerate(zip(bench.core.stages, bench.result.stages, strict=True)):
            said = [caution.text for caution in bench.result.cautions if caution.stage == i]
            rows.append({"name": STAGE_NAMES[stage.kind], "at_c": medium_c(stage), "run": run, "cautions": said})
    context = {"plan": plan, "bench": bench, "result": bench.result, "rows": rows, "printed_at": request.kitchen.now()}
    return render(request, "plans/card.html", context)


def _kept_of(request: HttpRequest, plan: Plan | None) -> dict[str, Any]:
    return {**(plan.document if plan else {}), **_rules_of(request)}


@require_POST
def bench(request: HttpRequest) -> HttpResponse:
    """Every change lands here: the same bench, worked out again. Nothing is kept."""
    plan = _plans(request).filter(pk=request.POST["plan"]).first() if _is_uuid(request.POST.get("plan")) else None
    data = _with_chain_changed(request.POST, request.user.units)
    found = Bench.of_post(data, request.user.units)
    document = found.document(_kept_of(request, plan))
    if document is not None:
        found.work_out_document({**document, "depth_map": True})
    return render(request, "plans/_bench.html", _context(request, found, plan, changed=True))


def _is_uuid(text: str | None) -> bool:
    try:
        uuid.UUID(text or "")
    except ValueError:
        return False
    return True


def _with_chain_changed(data: QueryDict, units: Any) -> QueryDict:
    """Add, remove or move a stage: `do` is add:KIND, remove:N, left:N, right:N, or end:N after another kind of end.

    Stages keep what was typed in them, right or wrong.
    """
    verb, _, what = data.get("do", "").partition(":")
    changed = data.copy()
    stages: list[dict[str, str]] = []
    while f"s{len(stages)}-kind" in data:
        prefix = f"s{len(stages)}-"
        stages.append({key[len(prefix) :]: value for key, value in data.items() if key.startswith(prefix)})
    if verb == "add" and what in STAGE_KINDS:
        initial = StageForm.initial_of({"kind": what, **STAGE_KINDS[what].fresh})
        form = StageForm(what, 0, None, units, initial)
        fresh = {name: str(value) for name in form.fields if (value := form[name].value()) is not None}
        stages.append({"kind": what, **fresh})
    elif verb == "take" and (match := re.fullmatch(r"(\d+):(seconds_a_side|peak_c):([\d.]+)", what)):
        if int(match[1]) < len(stages):
            stage = stages[int(match[1])]
            stage |= {"ends": "peak_c", "end_value": match[3]} if match[2] == "peak_c" else {match[2]: match[3]}
    elif what.isdigit() and int(what) < len(stages):
        i = int(what)
        j = i + {"left": -1, "right": 1}.get(verb, 0)
        if verb == "remove":
            del stages[i]
        elif verb == "end":
            stages[i]["end_value"] = _usual_end(stages[i], data, units)
        elif 0 <= j < len(stages):
            stages[i], stages[j] = stages[j], stages[i]
    for key in [key for key in changed if key[:1] == "s" and key[1:2].isdigit()]:
        del changed[key]
    for i, stage in enumerate(stages):
        for key, value in stage.items():
            changed[f"s{i}-{key}"] = value
    return changed


def _usual_end(stage: dict[str, str], data: QueryDict, units: Any) -> str:
    """A number to begin with when a stage's end changes its kind."""
    if stage.get("ends") == "minutes":
        return "30"
    row = cuts().get(data.get("cut", "")) or next(iter(cuts().values()))
    document = first_document(row)
    peak = document["stages"][0]["until"]["peak_c"]
    return f"{units.temperature_value(peak):.1f}"


def _save(request: HttpRequest, plan: Plan | None) -> HttpResponse:
    """Keep what stands on the bench, and start it when that was asked."""
    found = Bench.of_post(request.POST, request.user.units)
    kept = _kept_of(request, plan)
    if not found.work_out(kept) or found.core is None:
        context = _context(request, found, plan, changed=True, refused="Not kept: put right what is marked first.")
        return render(request, "plans/bench.html", context, status=422)
    plan = actions.save(plan, request.user, found.core) if plan else actions.create(
        request.kitchen, request.user, found.core
    )  # fmt: skip
    if request.POST.get("then") == "start":
        return _start(request, plan)
    messages.success(request, f"Kept {plan.name}.")
    return redirect("plans:edit", pk=plan.pk)


def _start(request: HttpRequest, plan: Plan) -> HttpResponse:
    probe = None
    if request.POST.get("probe", "").isdigit():
        probe = Probe.objects.of(request.kitchen).filter(pk=request.POST["probe"]).first()
    token = uuid.UUID(request.POST["start_token"]) if _is_uuid(request.POST.get("start_token")) else None
    try:
        cook = line_actions.start(plan, request.user, probe, token)
    except (line_actions.LineError, EmberError) as error:
        messages.error(request, str(error))
        return redirect("plans:edit", pk=plan.pk)
    messages.success(request, f"{cook.name} is on the line.")
    return redirect("line:board")


@require_POST
def copy(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A copy, opened."""
    plan = actions.copy(get_object_or_404(_plans(request), pk=pk), request.user)
    return redirect("plans:edit", pk=plan.pk)


@require_POST
def delete(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Into the bin, with a way back on the next page."""
    plan = get_object_or_404(_plans(request), pk=pk)
    actions.delete(plan, request.user)
    messages.success(request, f"Deleted {plan.name}.", extra_tags=reverse("plans:restore", args=[plan.pk]))
    return redirect("plans:list")


@require_POST
def restore(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Undo a deletion."""
    plan = get_object_or_404(Plan.objects.of(request.kitchen), pk=pk)
    actions.restore(plan, request.user)
    messages.success(request, f"{plan.name} is back.")
    return redirect("plans:list")


def export(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """The plan as a file that travels."""
    plan = get_object_or_404(_plans(request), pk=pk)
    body = json.dumps(plan.document, ensure_ascii=False, indent=2) + "\n"
    response = HttpResponse(body, content_type="application/json; charset=utf-8")
    response.headers["Content-Disposition"] = attachment(plan.name, ".ember.json")
    return response


@require_POST
def import_plan(request: HttpRequest) -> HttpResponse:
    """A plan from a file; what is wrong with it is named with its place."""
    upload = request.FILES.get("file")
    try:
        if upload is None:
            raise BadInput("Choose a .ember.json file first.")
        if upload.size > IMPORT_MAX_BYTES:
            raise BadInput("This file is too large for a plan.")
        try:
            data = json.loads(upload.read().decode("utf-8"))
        except (UnicodeDecodeError, ValueError, RecursionError):
            raise BadInput("This file is not JSON.") from None
        plan = actions.import_document(request.kitchen, request.user, data)
    except EmberError as error:
        place = f" (at {error.at})" if error.at else ""
        messages.error(request, f"Not taken in: {error.message}{place}")
        return redirect("plans:list")
    messages.success(request, f"Took in {plan.name}.")
    return redirect("plans:edit", pk=plan.pk)
