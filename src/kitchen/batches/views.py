"""Batches: the shelf, the desk that plans a chill, one batch with its clock, its label."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.chill.answer import answer_chill
from ember.chill.cold import words
from ember.errors import EmberError
from ember.files.chill import ChillAnswer, parse_chill
from kitchen.desk.pages import code_of, fragment, is_fragment
from kitchen.desk.shown import Row, Table
from kitchen.drawings.chill_chart import chill_chart, reckoned_gates
from kitchen.line.access import token_of
from kitchen.text import tidy
from kitchen.units.show import hours_and_minutes, in_units

from . import actions
from .course import BatchCourse, course_of, courses_of
from .forms import ChillForm, ReadingForm, UseForm
from .models import Batch

MOST_SHOWN = 500
MOST_NOTE = 200


def _typed(data: Mapping[str, str]) -> dict[str, Any]:
    found = dict(data.items())
    name, _, value = found.pop("set", "").partition(":")
    if name == "way":
        found["way"], found["then"] = value, found.get("then", "") if value == "ice-bath" else ""
    return found


def _worked(request: HttpRequest, typed: Mapping[str, Any] | None) -> tuple[ChillForm, ChillAnswer | None, str]:
    form = ChillForm(typed, request.user.units)
    if not form.is_valid():
        return form, None, ""
    try:
        return form, answer_chill(parse_chill({**form.document(), "standard": request.kitchen.standard})), ""
    except EmberError as error:
        return form, None, form.refuse(error)


def _ways(answer: ChillAnswer, chosen: str) -> Table:
    """Every way alone, stage by stage."""
    heads = tuple(f"to {stage.to_c:g} °C" for stage in answer.stages)
    rows = []
    for way in answer.ways:
        cells = tuple("never" if m is None else hours_and_minutes(m) for m in way.minutes)
        row = words()["ways"][way.way]
        line = row["line"] if way.way == chosen else "" if way.met else "misses the rule"
        rows.append(Row(row["name"], line, cells, way.way, way.way == chosen))
    return Table("Each way alone", heads, tuple(rows), "way")


def _context(request: HttpRequest, form: ChillForm, answer: ChillAnswer | None, problem: str) -> dict[str, Any]:
    context: dict[str, Any] = {"form": form, "answer": answer, "problem": problem, "token": uuid.uuid4()}
    if answer is not None:
        stages = [(stage.from_c, stage.to_c, stage.allowed_min) for stage in answer.stages]
        gates = reckoned_gates(answer.t_s, answer.curve_c, stages)
        context |= {
            "chart": chill_chart(answer.t_s, answer.curve_c, answer.surface_c, gates),
            "wait": hours_and_minutes(answer.latest_wait_min or 0.0),
            "table": _ways(answer, form.cleaned_data["way"]),
        }
    return context


def desk(request: HttpRequest) -> HttpResponse:
    """The desk; its state is its address."""
    typed = _typed(request.GET) if request.GET else None
    context = _context(request, *_worked(request, typed))
    if is_fragment(request):
        return fragment(request, "batches/_desk.html", context, reverse("batches:desk"), typed)
    return render(request, "batches/desk.html", context)


@require_POST
def out(request: HttpRequest) -> HttpResponse:
    """Out of the heat: the batch is there, and its clock runs."""
    form, answer, problem = _worked(request, _typed(request.POST))
    if answer is not None and not form.title:
        form.add_error("name", "Give it a name first.")
    if answer is None or form.errors:
        context = _context(request, form, answer, problem)
        return render(request, "batches/desk.html", context, status=422)
    batch = actions.out_of_the_heat(
        request.kitchen, request.user, form.title, form.document(), form.cleaned_data["portions"],
        token_of(request.POST.get("token")),
    )  # fmt: skip
    return redirect("batches:batch", pk=batch.pk)


def _order(course: BatchCourse) -> tuple[bool, bool, Any]:
    return (not course.is_missed, course.is_cold, course.use_by or course.batch.out_at.date())


def shelf(request: HttpRequest) -> HttpResponse:
    """What there is: missed first, what cools next, then by its last day."""
    rows = list(Batch.objects.of(request.kitchen).select_related("kitchen", "out_by")[:MOST_SHOWN])
    found = courses_of(rows, request.kitchen.now())
    there = sorted((course for course in found if course.is_open), key=_order)
    gone = [course for course in found if not course.is_open][:20]
    return render(request, "batches/shelf.html", {"there": there, "gone": gone})


def _batch_of(request: HttpRequest, pk: uuid.UUID) -> Batch:
    return get_object_or_404(Batch.objects.of(request.kitchen).select_related("kitchen", "out_by"), pk=pk)


def _page(request: HttpRequest, batch: Batch, status: int = 200, **more: Any) -> HttpResponse:
    course = course_of(batch, request.kitchen.now())
    result = batch.result
    stages = [(stage["from_c"], stage["to_c"], stage["allowed_min"]) for stage in result["stages"]]
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
        "put_right": words()["put_right"]["late"],
        "ways": [words()["ways"][step["way"]]["name"] for step in batch.document["cold"]],
        **more,
    }
    return render(request, "batches/batch.html", context, status=status)


def batch(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """One batch: what to do next, its clock, what is left."""
    return _page(request, _batch_of(request, pk))


@require_POST
def act(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Something was done with it. Wrong input comes back beside its field, with what was typed."""
    row, what = _batch_of(request, pk), request.POST.get("what", "")
    note = tidy(request.POST.get("note"), MOST_NOTE)
    try:
        if what in ("read", "reheated"):
            form = ReadingForm(request.POST, request.user.units)
            if not form.is_valid():
                return _page(request, row, 422, reading=form, wrong=what)
            celsius = form.cleaned_data["celsius"]
            if what == "read":
                actions.read(row, request.user, celsius)
            else:
                actions.reheated(row, request.user, celsius, note)
        elif what in ("used", "bring"):
            use = UseForm(request.POST)
            if not use.is_valid():
                return _page(request, row, 422, using=use)
            if what == "bring":
                token = token_of(request.POST.get("token"))
                cook = actions.bring_back(row, request.user, use.cleaned_data["portions"], note, token)
                return redirect("line:steps", pk=cook.pk)
            actions.use(row, request.user, use.cleaned_data["portions"], note)
        elif what == "decided":
            if not request.membership.is_chef:
                raise actions.BatchError("A chef decides that.")
            actions.decide(row, request.user, note)
        elif what == "discarded":
            actions.discard(row, request.user, note)
        elif what == "cold":
            actions.into_the_cold(row, request.user)
        elif what == "back" and request.POST.get("event", "").isdecimal():
            actions.put_back(row, request.user, int(request.POST["event"][:12]))
    except actions.BatchError as error:
        messages.error(request, in_units(str(error), request.user.units))
    return redirect("batches:batch", pk=row.pk)


def label(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What goes on the box: what, when, by whom, use by, how to bring it back; its code opens the batch."""
    row = _batch_of(request, pk)
    code = code_of(request, reverse("batches:batch", args=[row.pk]))
    course = course_of(row, request.kitchen.now())
    context = {"batch": row, "course": course, "result": row.result, "code": code}
    return render(request, "batches/label.html", context)
