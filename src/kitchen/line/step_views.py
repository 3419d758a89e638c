"""Views of a cook that goes by steps: one step at a time, for wet hands."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from django_htmx.http import HttpResponseClientRedirect

from kitchen.accounts.once import answers_again
from kitchen.drawings.egg_pot import egg_pot
from kitchen.web import KitchenRequest, clean_text, parse_count, token_of

from . import actions, shared_board
from .access import any_cook_of
from .errors import LineError
from .models import Cook
from .offline_steps import steps_coming
from .plan_steps import PlanSteps, plan_steps
from .step_cooks import MORE_S, StepCookStatus, step_status_of
from .verdicts import steps_verdict

AFTER_SHOWN = 2
PLAN_MORE_S = 120.0


def _due_at(status: StepCookStatus | PlanSteps) -> Callable[[Any], dt.datetime]:
    """When a step of this cook is due."""
    return status.due_at


def steps_context(status: StepCookStatus | PlanSteps) -> dict[str, Any]:
    """Context of the steps page."""
    coming, due_at = status.coming, _due_at(status)
    places = status.places
    pot = None
    is_plan = isinstance(status, PlanSteps)
    if status.cook.kind == Cook.Kind.EGGS and any(p.where != "out" for p in places):
        order = sorted(places, key=lambda p: (p.where == "waits", p.due_at, p.number))
        pot = egg_pot([(p.number, p.where, p.share, round(p.due_at.timestamp() * 1000)) for p in order])
    return {
        "f": status,
        "cook": status.cook,
        "step": status.next,
        "due_at": due_at(status.next) if status.next else None,
        "after": [{"step": step, "due_at": due_at(step)} for step in coming[1 : 1 + AFTER_SHOWN]],
        "left": max(len(coming) - 1 - AFTER_SHOWN, 0),
        "pot": pot,
        "one_by_one": len(places) > 1,
        "token": uuid.uuid4(),
        "now": status.now,
        "rate": status.cook.kitchen.clock_rate if status.cook.kitchen.is_demo else 1.0,
        "more_s": PLAN_MORE_S if is_plan else MORE_S,
        "rule": steps_verdict(status) if not isinstance(status, PlanSteps) and status.next is None else None,
        "is_plan": is_plan,
        "coming": status.action.coming if isinstance(status, PlanSteps) else steps_coming(status),
        "action": status.action if isinstance(status, PlanSteps) else None,
    }


def _following(cook: Cook) -> StepCookStatus | PlanSteps:
    return step_status_of(cook) if cook.goes_by_steps else plan_steps(cook)


def steps(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show the steps; as a fragment every few seconds."""
    cook = any_cook_of(request, pk)
    if cook.finished_at is not None:
        return _to_record(request, pk)
    name = "line/_steps.html" if request.htmx and not request.htmx.boosted else "line/steps.html"
    return render(request, name, steps_context(_following(cook)))


def _to_record(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Redirect the whole page to the record, even for a fragment."""
    if request.htmx:
        return HttpResponseClientRedirect(reverse("logbook:record", args=[pk]))
    return redirect("logbook:record", pk=pk)


def _to_check(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    if request.htmx:
        return HttpResponseClientRedirect(reverse("line:check", args=[pk]))
    return redirect("line:check", pk=pk)


def _act(request: KitchenRequest, cook: Cook, how: str) -> None:
    status = _following(cook)
    token = token_of(request.POST.get("token"))
    number = parse_count(request.POST.get("step"))
    more_s = MORE_S if cook.goes_by_steps else PLAN_MORE_S
    match how:
        case "each" | "missed":
            missed = 0 if how == "each" else parse_count(request.POST.get("missed"))
            if missed is None:
                raise LineError("Missed: enter how many, as a whole number.")
            actions.end_round(cook, request.user, -1 if number is None else number, token, status.steps, missed)  # type: ignore[arg-type]
        case "done" | "skip":
            wanted = -1 if number is None else number
            actions.do_step(cook, request.user, wanted, token, status.steps, how == "skip")  # type: ignore[arg-type]
        case "more" if number is not None:
            actions.put_off(cook, request.user, number, more_s / 60.0, token, status.steps)  # type: ignore[arg-type]
        case "undo":
            actions.undo_step(cook, request.user, token, parse_count(request.POST.get("event")))
        case "check":
            word = clean_text(request.POST.get("word"), 60)
            if word:
                values = {"sense": "look", "sense_name": "Looked", "word": word, "core_c": None, "note": ""}
                actions.check(cook, request.user, values, token)


def _once_more(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Respond to a repeated tap with the steps as they are."""
    cook = any_cook_of(request, pk)
    if cook.finished_at is not None:
        return _to_record(request, pk)
    if request.htmx:
        return render(request, "line/_steps.html", steps_context(_following(cook)))
    return redirect("line:steps", pk=pk)


@answers_again(_once_more)
@require_POST
def act(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Handle one tap: done, more time, undo, checked, or finish."""
    cook = any_cook_of(request, pk)
    how = "check" if request.POST.get("word") else request.POST.get("how", "done")
    problem = ""
    try:
        if how == "finish" and not cook.goes_by_steps:
            return _to_check(request, pk)
        if how in ("finish", "stop"):
            why = clean_text(request.POST.get("why"), 200) or "stopped from the line"
            actions.finish(cook, request.user, why if how == "stop" else "")
            shared_board.forget(request.kitchen.pk)
            return _to_record(request, pk)
        _act(request, cook, how)
    except LineError as error:
        problem = str(error)
    shared_board.forget(request.kitchen.pk)
    cook = any_cook_of(request, pk)
    if request.htmx:
        return render(request, "line/_steps.html", {**steps_context(_following(cook)), "problem": problem})
    if problem:
        messages.error(request, problem)
    return redirect("line:steps", pk=pk)
