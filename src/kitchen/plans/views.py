"""The list of plans, and the plan bench: shown, changed, saved."""

from __future__ import annotations

import uuid
from typing import Any

from django.contrib import messages
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from ember.food.catalogue import cuts
from ember.food.search import search
from kitchen.accounts.access import chef_required
from kitchen.accounts.editions import Meanwhile, edition_of, is_stale, wants_both
from kitchen.accounts.once import computes, works_out_first
from kitchen.cuts.models import OwnCut
from kitchen.drawings.hold_strip import hold_strip
from kitchen.drawings.plan_chart import plan_chart
from kitchen.kit.models import Probe
from kitchen.web import KitchenRequest, clean_text, is_uuid

from . import actions
from .access import kept_of, plans_of, posted_plan, rules_of
from .bench import Bench
from .brine_choice import brine_choices, brines_said, with_brine
from .chain import changed
from .changes import changes
from .first import first_document, name_from
from .hooks import send_to_line, settle_for_line
from .kit_choice import choices_for, with_kit
from .models import Plan
from .pictures import drawing_of, face_of, plan_view_of
from .send_form import SendForm
from .stage_kinds import STAGE_KINDS, STAGE_NAMES
from .words import changed_since

CHART_PX = 684.0
# Warnings whose own place on the page says them.
TOLD_ELSEWHERE = ("over-target", "under-target", "hold-drifts", "hold-dries", "nitrite-over")
ADDABLE = sorted(
    ((kind, row.title) for kind, row in STAGE_KINDS.items()), key=lambda pair: not STAGE_KINDS[pair[0]].common
)


def plan_list(request: KitchenRequest) -> HttpResponse:
    """All plans by name; `q` searches names, cuts and tags, `tag` filters by one."""
    query, tag = clean_text(request.GET.get("q"), 120), clean_text(request.GET.get("tag"), 40)
    plans = plans_of(request).select_related("updated_by")
    if query:
        plans = plans.matching(query)
    if tag:
        plans = plans.filter(tags__contains=[tag])
    plans = plans.annotate(cooked=Count("cooks", filter=Q(cooks__finished_at__isnull=False)))
    rows = [{"plan": plan, **summary(plan.document)} for plan in plans.order_by("name")]
    every_tag = sorted({tag for tags in plans_of(request).values_list("tags", flat=True) for tag in tags})
    context = {"rows": rows, "query": query, "tag": tag, "tags": every_tag, "count": plans_of(request).count()}
    if request.htmx and request.htmx.target == "plan-rows":
        return render(request, "plans/_rows.html", context)
    return render(request, "plans/list.html", context)


def summary(document: dict[str, Any]) -> dict[str, Any]:
    """A plan's row in lists, without computing its result."""
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


def bench_context(request: KitchenRequest, bench: Bench, plan: Plan | None, **more: Any) -> dict[str, Any]:
    """Context of the bench's templates."""
    chart = face = None
    if bench.result is not None and bench.core is not None:
        chart = plan_chart(bench.result, bench.core.stages, CHART_PX)
        face = face_of(bench.core, bench.cut, bench.result, chart.time)
        for form, run in zip(bench.stages, bench.result.stages, strict=True):
            form.run = run
    return {
        "bench": bench,
        "plan": plan,
        "result": bench.result,
        "chart": chart,
        "face": face,
        "face_data": face and {
            "frames": face.frames, "bands": face.band_frames, "inches": bench.units.length == "in",
            "fahrenheit": bench.units.temperature == "F",
        },
        "drawing": drawing_of(bench), "above": plan_view_of(bench),
        "tags": request.POST.get("tags", "") if request.method == "POST" else ", ".join(plan.tags if plan else []),
        "past": _past_cooks(plan),
        "addable": ADDABLE,
        "told_elsewhere": TOLD_ELSEWHERE,
        "kit": choices_for(request.kitchen, bench),
        "holds": [{"hold": hold, "strip": hold_strip(hold)} for hold in bench.result.holds] if bench.result else [],
        "brine_choices": brine_choices(request.kitchen, bench),
        "brines": brines_said(request.kitchen, bench.stated, bench.result.brines, bench.units) if bench.result else [],
        "probes": Probe.objects.of(request.kitchen).filter(device__revoked_at=None, fixed_in=None).exclude(
            uses__during__endswith=None, uses__isnull=False
        ),
        "edition": request.POST.get("edition") or (edition_of(plan.document) if plan else ""),
        "probe_wanted": request.POST.get("probe", ""),
        "up_at": request.POST.get("up_at", ""),
        "start_token": uuid.uuid4(),
        **more,
    }  # fmt: skip


def _past_cooks(plan: Plan | None) -> dict[str, Any] | None:
    """How often the plan was cooked, and when last."""
    if plan is None:
        return None
    done = plan.cooks.filter(finished_at__isnull=False).order_by("-finished_at").only("finished_at")
    last = done.first()
    return {"count": done.count(), "last": last} if last else None


def _since_it_was_cooked(plan: Plan, bench: Bench) -> str:
    """What the same plan said when it was last cooked, if it says something else today."""
    last = plan.cooks.filter(finished_at__isnull=False).order_by("-finished_at").only("document", "result").first()
    if last is None or bench.result is None:
        return ""
    same = all(last.document.get(key) == plan.document.get(key) for key in ("piece", "stages"))
    return changed_since(last.result, bench.result, bench.units) if same else ""


def _work_out_first(request: KitchenRequest, pk: uuid.UUID | None = None) -> None:
    """What saving, and sending to the line, will ask for."""
    plan = plans_of(request).filter(pk=pk).first() if pk else None
    posted_bench = Bench.of_post(changed(request.POST, request.user.units), request.user.units)
    worked_out = posted_bench.work_out(kept_of(request, plan), depth_map=True)
    if worked_out and posted_bench.core is not None and request.POST.get("then") == "start":
        settle_for_line(request.kitchen, actions.as_document(posted_bench.core))


@works_out_first(_work_out_first)
def new(request: KitchenRequest) -> HttpResponse:
    """The bench with a first plan, which is stored at the first Save."""
    if request.method == "POST":
        return _save(request, None)
    wanted = request.GET.get("own")
    own = OwnCut.objects.of(request.kitchen).current().filter(pk=wanted).first() if is_uuid(wanted) else None
    if own is not None:
        document = first_document(own.row, own.doneness)
        document["piece"] |= own.piece
        document["name"] = name_from(own.name)
    else:
        document = first_document(cuts().get(request.GET.get("cut", "")) or next(iter(cuts().values())))
    document |= rules_of(request)
    bench = Bench.of_document(document, request.user.units)
    bench.work_out_document({**document, "depth_map": True})
    return render(request, "plans/bench.html", bench_context(request, bench, None))


@works_out_first(_work_out_first)
def edit(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The bench with a saved plan."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    if request.method == "POST":
        return _save(request, plan)
    bench = Bench.of_document(plan.document, request.user.units)
    bench.work_out_document({**plan.document, **rules_of(request), "depth_map": True})
    context = bench_context(request, bench, plan, since=_since_it_was_cooked(plan, bench))
    return render(request, "plans/bench.html", context)


@computes
@require_POST
def bench(request: KitchenRequest) -> HttpResponse:
    """The bench after a change, computed again. Nothing is stored.

    A whole page if the request came from elsewhere (a method picked on the compare page).
    """
    plan = posted_plan(request)
    posted = with_brine(with_kit(request.POST, request.kitchen, request.user.units), request.kitchen)
    posted_bench = Bench.of_post(changed(posted, request.user.units), request.user.units)
    posted_bench.work_out(kept_of(request, plan), depth_map=True)
    template = "plans/_bench.html" if request.htmx else "plans/bench.html"
    return render(request, template, bench_context(request, posted_bench, plan, changed=True))


def find_cuts(request: KitchenRequest) -> HttpResponse:
    """Cuts that match a text, the kitchen's own among them."""
    query = clean_text(request.GET.get("cut_q"), 60)
    own = OwnCut.objects.of(request.kitchen).current()
    context = {
        "query": query,
        "found": search(query),
        "own": own.filter(name__icontains=query)[:4] if query else own[:4],
    }
    return render(request, "plans/_cuts.html", context)


def _save(request: KitchenRequest, plan: Plan | None) -> HttpResponse:
    """Save the plan on the bench, and start it if that was asked."""
    posted_bench = Bench.of_post(changed(request.POST, request.user.units), request.user.units)
    refused = ""
    try:
        tags = actions.tags_of(request.POST.get("tags", ""))
    except BadInput as error:
        tags, refused = [], error.message
    worked_out = posted_bench.work_out(kept_of(request, plan), depth_map=True)
    sent = SendForm(request.POST)
    if not sent.is_valid():
        refused = "see the message beside the plating time."
    if refused or not worked_out or posted_bench.core is None or posted_bench.result is None:
        words = f"Not saved: {refused}" if refused else "Not saved: fix the highlighted fields first."
        context = bench_context(request, posted_bench, plan, changed=True, refused=words, sent=sent)
        return render(request, "plans/bench.html", context, status=422)
    if plan and (answer := _changed_meanwhile(request, plan, posted_bench, tags)):
        return answer
    if plan and wants_both(request):
        plan = actions.save_beside(plan, request.user, posted_bench.core, tags)
    elif plan:
        plan = actions.save(plan, request.user, posted_bench.core, tags)
    else:
        plan = actions.create(request.kitchen, request.user, posted_bench.core, tags)
    if request.POST.get("then") == "start":
        return send_to_line(request, plan, sent.begins_at(request.kitchen, posted_bench.result.stages[-1].end_s))
    messages.success(request, f"Saved {plan.name}.")
    return redirect("plans:edit", pk=plan.pk)


def _changed_meanwhile(
    request: KitchenRequest, plan: Plan, posted_bench: Bench, tags: list[str]
) -> HttpResponse | None:
    """What somebody else saved since the bench was opened, with mine beside it; None if nothing would be
    overwritten.
    """
    plan = Plan.objects.select_related("updated_by").get(pk=plan.pk)
    if posted_bench.core is None or not is_stale(request, plan.document, actions.as_document(posted_bench.core)):
        return None
    differences = tuple(changes(actions.as_document(posted_bench.core), plan.document))
    theirs = reverse("plans:edit", args=[plan.pk])
    meanwhile = Meanwhile(str(plan.updated_by), plan.updated_at, differences, theirs)
    context = bench_context(
        request, posted_bench, plan, changed=True, meanwhile=meanwhile, then=request.POST.get("then", "")
    )
    return render(request, "plans/bench.html", context, status=409)


@require_POST
def copy(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Copy a plan and open the copy."""
    plan = actions.copy(get_object_or_404(plans_of(request), pk=pk), request.user)
    return redirect("plans:edit", pk=plan.pk)


@require_POST
@chef_required
def delete(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Archive a plan, with an undo on the next page."""
    plan = get_object_or_404(plans_of(request), pk=pk)
    actions.delete(plan, request.user)
    messages.success(request, f"Archived: {plan.name}.", extra_tags=reverse("plans:restore", args=[plan.pk]))
    return redirect("plans:list")


@require_POST
@chef_required
def restore(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Restore an archived plan."""
    plan = get_object_or_404(Plan.objects.of(request.kitchen), pk=pk)
    actions.restore(plan, request.user)
    messages.success(request, f"{plan.name} restored.")
    return redirect("plans:list")
