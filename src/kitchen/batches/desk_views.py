"""The chill desk, and the moment a batch leaves the heat."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.chill.answer import answer_chill
from ember.chill.cold import words
from ember.errors import EmberError
from ember.files.chill import ChillAnswer, parse_chill
from kitchen.desk.pages import address, fragment, is_fragment
from kitchen.desk.presenters import Row, Table
from kitchen.drawings.chill_chart import chill_chart, reckoned_gates
from kitchen.line.models import Cook
from kitchen.units.number_text import hours_and_minutes
from kitchen.web import KitchenRequest, is_uuid, token_of

from . import actions
from .forms import ChillForm
from .of_cook import chill_of, why_not_chilled


def _typed(data: Mapping[str, str]) -> dict[str, Any]:
    values = dict(data.items())
    name, _, value = values.pop("set", "").partition(":")
    if name == "way":
        values["way"], values["then"] = value, values.get("then", "") if value == "ice-bath" else ""
    return values


def _worked(request: KitchenRequest, typed: Mapping[str, Any] | None) -> tuple[ChillForm, ChillAnswer | None, str]:
    form = ChillForm(typed, request.user.units)
    if not form.is_valid():
        return form, None, ""
    try:
        return form, answer_chill(parse_chill({**form.document(), "standard": request.kitchen.standard})), ""
    except EmberError as error:
        return form, None, form.refuse(error)


def _cook_of(request: KitchenRequest) -> Cook | None:
    key = request.POST.get("cook")
    return Cook.objects.of(request.kitchen).filter(pk=key).first() if is_uuid(key) else None


def _ways(answer: ChillAnswer, chosen: str) -> Table:
    """Each cooling method on its own, stage by stage."""
    heads = tuple(f"to {stage.to_c:g} °C" for stage in answer.stages)
    rows = []
    for way in answer.ways:
        cells = tuple("never" if m is None else hours_and_minutes(m) for m in way.minutes)
        texts = words()["ways"][way.way]
        line = texts["line"] if way.way == chosen else "" if way.met else "misses the rule"
        rows.append(Row(texts["name"], line, cells, way.way, way.way == chosen))
    return Table("Each method on its own", heads, tuple(rows), "way")


def _context(request: KitchenRequest, form: ChillForm, answer: ChillAnswer | None, problem: str) -> dict[str, Any]:
    context: dict[str, Any] = {"form": form, "answer": answer, "problem": problem, "token": uuid.uuid4()}
    if answer is not None:
        stages = [(stage.begins_min, stage.to_c, stage.allowed_min) for stage in answer.stages]
        gates = reckoned_gates(answer.t_s, answer.curve_c, stages)
        context |= {
            "chart": chill_chart(answer.t_s, answer.curve_c, answer.surface_c, gates),
            "wait": hours_and_minutes(answer.latest_wait_min or 0.0),
            "table": _ways(answer, form.cleaned_data["way"]),
        }
    return context


def desk(request: KitchenRequest) -> HttpResponse:
    """Show the desk; its state is its address."""
    typed = _typed(request.GET) if request.GET else None
    context = _context(request, *_worked(request, typed))
    if is_fragment(request):
        return fragment(request, "batches/_desk.html", context, reverse("batches:desk"), typed)
    return render(request, "batches/desk.html", context)


@require_POST
def out(request: KitchenRequest) -> HttpResponse:
    """Start a batch: it has left the heat and its clock runs."""
    form, answer, problem = _worked(request, _typed(request.POST))
    if answer is not None and not form.title:
        form.add_error("name", "Enter a name first.")
    if answer is None or form.errors:
        context = _context(request, form, answer, problem)
        return render(request, "batches/desk.html", context, status=422)
    try:
        batch = actions.out_of_the_heat(
            request.kitchen, request.user, form.title, form.document(), form.cleaned_data["portions"],
            token_of(request.POST.get("token")), _cook_of(request),
        )  # fmt: skip
    except actions.BatchError as error:
        return render(request, "batches/desk.html", _context(request, form, answer, str(error)), status=422)
    return redirect("batches:batch", pk=batch.pk)


def from_cook(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show the desk filled in from a finished cook."""
    cook = get_object_or_404(Cook.objects.of(request.kitchen).of_plans(), pk=pk)
    if why := why_not_chilled(cook, request.kitchen.now()):
        messages.error(request, why)
        return redirect("logbook:record", pk=cook.pk) if cook.finished_at else redirect("line:board")
    return redirect(address(reverse("batches:desk"), chill_of(cook, request.user.units)))
