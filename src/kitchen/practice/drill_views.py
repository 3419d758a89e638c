"""Drills without food."""

from __future__ import annotations

import json
import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from ember.practice.deal import LEVELS, deal
from ember.practice.drill import Look, look
from ember.practice.egg_drill import egg_deal, egg_look
from kitchen.web import KitchenRequest, parse_count

from . import drill_actions
from .models import Drill
from .presenters import drill_picture
from .words import DRILLS, PLACES, SIGNS

HISTORY = 12


def drills(request: KitchenRequest) -> HttpResponse:
    """The drills, and the results of recent ones."""
    mine = Drill.objects.of(request.kitchen).filter(person=request.user)
    open_one = mine.filter(finished_at=None).first()
    context = {
        "kinds": [(key, *DRILLS[key]) for key in drill_actions.KINDS], "levels": LEVELS, "open": open_one,
        "open_name": DRILLS[open_one.kind][0] if open_one else "",
        "last": [(drill_row, DRILLS[drill_row.kind][0]) for drill_row in mine.exclude(finished_at=None)[:HISTORY]],
    }  # fmt: skip
    return render(request, "practice/drills.html", context)


@require_POST
def begin(request: KitchenRequest) -> HttpResponse:
    """Start a drill; a number repeats the one of that number."""
    seed = parse_count(request.POST.get("seed"))
    level = parse_count(request.POST.get("level")) or 1
    try:
        drill = drill_actions.begin(request.kitchen, request.user, request.POST.get("kind", ""), level, seed)
    except drill_actions.DrillError as error:
        messages.error(request, str(error))
        return redirect("practice:drills")
    return redirect("practice:drill", pk=drill.pk)


def _mine(request: KitchenRequest, pk: uuid.UUID) -> Drill:
    rows = Drill.objects.of(request.kitchen).filter(person=request.user).select_related("kitchen")
    return get_object_or_404(rows, pk=pk)


def drill(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show a drill."""
    return _page(request, _mine(request, pk))


def _page(request: KitchenRequest, drill: Drill, problem: str = "", status: int = 200) -> HttpResponse:
    context: dict[str, Any] = {"drill": drill, "name": DRILLS[drill.kind][0], "problem": problem}
    if drill.kind == "lay":
        return render(request, "practice/lay.html", context | _lay(drill), status=status)
    if drill.kind == "pan":
        context |= _pan(drill)
    else:
        dealt = egg_deal(drill.kind, drill.level, drill.seed)
        context |= {"told": dealt.told, "wanted": dealt.wanted}
        context["seen"] = egg_look(dealt, drill.now_s) if not drill.finished_at else ""
        context["truth"] = dealt.request if drill.finished_at else None
    if drill.finished_at and drill.kind == "pan":
        context |= drill_picture(drill.outcome or {}, [tuple(move) for move in drill.moves], request.user.units)
    if request.htmx:
        return render(request, "practice/_drill.html", context, status=status)
    return render(request, "practice/drill.html", context, status=status)


def _pan(drill: Drill) -> dict[str, Any]:
    dealt = deal(drill.level, drill.seed)
    done = [kind for kind, _ in drill.moves]
    shown = Look("pan", (), True, False)
    if not drill.finished_at and drill.now_s >= 1.0:
        shown = look(dealt, drill_actions.moves_of(drill), drill.now_s, pin=bool(done) and done[-1] == "pin")
    return {
        "dealt": dealt, "signs": [(SIGNS[sense], word) for sense, word in shown.signs],
        "place": PLACES[shown.place], "can_oven": dealt.dish.oven_c is not None and "oven" not in done,
        "in_pan": "oven" not in done and "rest" not in done, "rests": "rest" in done,
    }  # fmt: skip


def _lay(drill: Drill) -> dict[str, Any]:
    number = drill_actions.pieces_of(drill)
    rows = []
    if drill.outcome:
        rows = list(zip(range(1, number + 1), drill.outcome["first_s"], drill.outcome["second_s"], strict=True))
    return {"number": number, "pieces": range(number), "side_s": drill_actions.side_s(drill), "rows": rows}


@require_POST
def act(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Wait, or do something."""
    drill = _mine(request, pk)
    try:
        drill = drill_actions.act(drill, request.POST.get("what", ""))
    except drill_actions.DrillError as error:
        return _page(request, drill, str(error), 422)
    if request.htmx:
        return _page(request, drill)
    return redirect("practice:drill", pk=pk)


@require_POST
def lay(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record the taps of a pan-order drill."""
    drill = _mine(request, pk)
    try:
        drill_actions.lay(drill, json.loads(request.POST.get("taps", "")[:4000]))
    except (ValueError, drill_actions.DrillError) as error:
        message = str(error) if isinstance(error, drill_actions.DrillError) else "That was not a drill in the pan."
        return _page(request, drill, message, 422)
    return redirect("practice:drill", pk=pk)
