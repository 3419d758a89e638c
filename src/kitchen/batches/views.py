"""Batches: the shelf, one batch with its clock, its label."""

from __future__ import annotations

import uuid
from contextlib import suppress
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.chill.cold import words
from ember.errors import EmberError
from kitchen.accounts.once import works_out_first
from kitchen.desk.pages import code_of
from kitchen.drawings.chill_chart import chill_chart, reckoned_gates
from kitchen.kit.models import Equipment
from kitchen.line.step_actions import settle_steps
from kitchen.units.number_text import in_units
from kitchen.web import KitchenRequest

from . import actions
from .commands import COMMANDS, Wrong, held_words
from .cooling_status import cooling_status_of, shelf_of
from .forms import ReadingForm
from .models import Batch

COLD_KINDS = ("fridge", "chiller")


def shelf(request: KitchenRequest) -> HttpResponse:
    """All batches: missed coolings first, then those cooling, then by use-by date."""
    there, gone = shelf_of(request.kitchen, request.kitchen.now())
    return render(request, "batches/shelf.html", {"there": there, "gone": gone[:20]})


def _batch_of(request: KitchenRequest, pk: uuid.UUID) -> Batch:
    return get_object_or_404(Batch.objects.of(request.kitchen).select_related("kitchen", "out_by", "cook"), pk=pk)


def _page(request: KitchenRequest, batch: Batch, status: int = 200, **more: Any) -> HttpResponse:
    course = cooling_status_of(batch, request.kitchen.now())
    result = batch.result
    stages = [(stage.get("begins_min", 0.0), stage["to_c"], stage["allowed_min"]) for stage in result["stages"]]
    reckoned = reckoned_gates(result["t_s"], result["curve_c"], stages)
    gates = [
        (due if (due := course.seconds_out(stage.due_at)) is not None else gate[0], stage.to_c)
        for stage, gate in zip(course.stages, reckoned, strict=True)
    ]
    returned = {event.note for event in course.events if event.kind == "returned"}
    context = {
        "batch": batch,
        "course": course,
        "result": result,
        "chart": chill_chart(result["t_s"], result["curve_c"], [], gates, course.read_out),
        "reading": ReadingForm(None, request.user.units),
        "returned": returned,
        "token": uuid.uuid4(),
        "is_chef": request.membership.is_chef,
        "cold_places": ["Ice bath", *Equipment.objects.of(request.kitchen).current().filter(kind__in=COLD_KINDS)],
        "put_right": words()["put_right"]["late"],
        "reheat_held": held_words(batch),
        "ways": [words()["ways"][step["way"]]["name"] for step in batch.document["cold"]],
        **more,
    }
    return render(request, "batches/batch.html", context, status=status)


def batch(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """One batch: the next action, its clock, what is left."""
    return _page(request, _batch_of(request, pk))


def _settle_first(request: KitchenRequest, pk: uuid.UUID) -> None:
    if request.POST.get("what") == "bring":
        with suppress(EmberError):
            settle_steps(_batch_of(request, pk).document)


@works_out_first(_settle_first)
@require_POST
def act(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record an action on a batch. Invalid input is shown beside its field with what was typed."""
    batch = _batch_of(request, pk)
    do = COMMANDS.get(request.POST.get("what", ""))
    try:
        answer = do(request, batch) if do else None
    except Wrong as wrong:
        return _page(request, batch, 422, **wrong.shown)
    except actions.BatchError as error:
        messages.error(request, in_units(str(error), request.user.units))
        answer = None
    return answer or redirect("batches:batch", pk=batch.pk)


def label(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The label of a box: contents, date, person, use-by date, how to reheat; its code opens the batch."""
    batch = _batch_of(request, pk)
    code = code_of(request, reverse("batches:batch", args=[batch.pk]))
    course = cooling_status_of(batch, request.kitchen.now())
    context = {"batch": batch, "course": course, "result": batch.result, "code": code}
    return render(request, "batches/label.html", context)
