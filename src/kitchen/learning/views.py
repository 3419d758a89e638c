"""Views of calibration: studies, proposals, accepted and withdrawn values."""

from __future__ import annotations

import uuid

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.kit.models import Taught
from kitchen.web import KitchenRequest

from . import actions
from .evidence import finished_cooks
from .models import Study
from .presenters import shown
from .tasks import make_study


def learned(request: KitchenRequest) -> HttpResponse:
    """The newest study, and the values that apply."""
    newest = Study.objects.of(request.kitchen).first()
    rows = Taught.objects.of(request.kitchen).select_related("equipment", "by", "undone_by")
    context = {
        "study": newest, "rows": shown(newest, rows.current(), request.user.units) if newest else [],
        "counts": rows.current(), "history": rows[:40], "is_chef": request.membership.is_chef,
        "there": finished_cooks(request.kitchen).count(),
    }  # fmt: skip
    template = "learning/_study.html" if request.htmx else "learning/learned.html"
    return render(request, template, context)


@require_POST
@chef_required
def look(request: KitchenRequest) -> HttpResponse:
    """Request a study of the finished cooks."""
    study = actions.ask(request.kitchen, request.user)
    make_study.defer(study_id=str(study.pk))
    return redirect("learning:learned")


@require_POST
@chef_required
def stop(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Stop a study that is not done yet."""
    Study.objects.of(request.kitchen).filter(pk=pk, found__isnull=True, problem="").update(problem="Stopped.")
    return redirect("learning:learned")


@require_POST
@chef_required
def accept(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Accept a proposal."""
    study = get_object_or_404(Study.objects.of(request.kitchen), pk=pk)
    kind, _, key = request.POST.get("thing", "").partition(":")
    try:
        taught = actions.accept(study, kind, key, request.user)
        messages.success(request, f"{taught.equipment or taught.cut} accepted: in use from now on.")
    except actions.LearningError as error:
        messages.error(request, str(error))
    return redirect("learning:learned")


@require_POST
@chef_required
def undo(request: KitchenRequest, pk: int) -> HttpResponse:
    """Withdraw an accepted value."""
    taught = get_object_or_404(Taught.objects.of(request.kitchen), pk=pk)
    actions.take_back(taught, request.user)
    messages.success(request, "Undone.")
    return redirect("learning:learned")
