"""The line: next hands and the board, and what a tap does."""

from __future__ import annotations

import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from ember.files.piece import Piece
from kitchen.text import tidy

from . import actions, board_view, queries
from .forms import CheckForm, ReadingForm
from .models import Cook
from .picture import cook_chart


def _cook(request: HttpRequest, pk: uuid.UUID) -> Cook:
    cooks = Cook.objects.of(request.kitchen).select_related("kitchen", "started_by")
    cooks = cooks.prefetch_related("events__by", "probe_uses__probe")
    return get_object_or_404(cooks, pk=pk)


def board(request: HttpRequest) -> HttpResponse:
    """The board; as a fragment every few seconds."""
    context = board_view.board(request.kitchen)
    template = "line/_board.html" if request.htmx and not request.htmx.boosted else "line/board.html"
    return render(request, template, context)


def _board_again(request: HttpRequest, problem: str = "") -> HttpResponse:
    if request.htmx:
        context = {**board_view.board(request.kitchen), "problem": problem}
        return render(request, "line/_board.html", context)
    if problem:
        messages.error(request, problem)
    return redirect("line:board")


def _token(request: HttpRequest) -> uuid.UUID:
    try:
        return uuid.UUID(request.POST.get("token", ""))
    except ValueError:
        return uuid.uuid4()


@require_POST
def do(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """One big tap: the next step is done."""
    cook = _cook(request, pk)
    step = request.POST.get("step", "")
    try:
        steps = len(queries.follow(cook).steps)
        actions.do_step(cook, request.user, int(step) if step.isdigit() else -1, _token(request), steps)
    except actions.LineError as error:
        return _board_again(request, str(error))
    return _board_again(request)


@require_POST
def undo(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Take the last step back."""
    try:
        actions.undo_step(_cook(request, pk), request.user, _token(request))
    except actions.LineError as error:
        return _board_again(request, str(error))
    return _board_again(request)


@require_POST
def reading(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A reading typed in."""
    form = ReadingForm(request.POST, request.user.units)
    if not form.is_valid():
        return _board_again(request, "; ".join(form.errors["celsius"]))
    try:
        actions.type_reading(_cook(request, pk), request.user, form.cleaned_data["celsius"])
    except actions.LineError as error:
        return _board_again(request, str(error))
    return _board_again(request)


def check(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """Check a cook and finish it."""
    cook = _cook(request, pk)
    following = queries.follow(cook)
    form = CheckForm(request.POST or None, request.user.units, Piece.model_validate(cook.document["piece"]))
    if cook.finished_at is not None:
        return redirect("logbook:record", pk=cook.pk)
    if request.method == "POST" and form.is_valid():
        try:
            actions.check(cook, request.user, form.found(), _token(request))
            if request.POST.get("then") == "finish":
                actions.finish(cook, request.user)
                return redirect("logbook:record", pk=cook.pk)
        except actions.LineError as error:
            messages.error(request, str(error))
        return redirect("line:check", pk=cook.pk)
    context: dict[str, Any] = {
        "form": form,
        "following": following,
        "cook": cook,
        "token": uuid.uuid4(),
        "chart": cook_chart(following),
        "checks": [event for event in cook.events.all() if event.kind == "checked"],
    }
    return render(request, "line/check.html", context, status=422 if request.method == "POST" else 200)


@require_POST
def stop(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """End a cook that will not be served, with the reason."""
    cook = _cook(request, pk)
    why = tidy(request.POST.get("why"), 300)
    if not why:
        messages.error(request, "Write why it is stopped: the record needs it.")
        return redirect("line:check", pk=cook.pk)
    actions.finish(cook, request.user, stopped_why=why)
    return redirect("logbook:record", pk=cook.pk)
