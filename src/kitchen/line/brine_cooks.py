"""Brines on the line: starting a saved brine, and the label of its vessel."""

from __future__ import annotations

import datetime as dt
import uuid
from contextlib import suppress
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.errors import EmberError
from kitchen.accounts.models import Person
from kitchen.accounts.once import works_out_first
from kitchen.brines.actions import BrineError, held_against, use_confirmation
from kitchen.brines.models import BrinePlan
from kitchen.brines.queries import vessel_places
from kitchen.desk.pages import code_of
from kitchen.web import KitchenRequest, token_of

from .access import any_cook_of
from .models import Cook
from .step_actions import settle_steps, start_steps, started_with
from .step_cooks import steps_running


@transaction.atomic
def start_brine(plan: BrinePlan, person: Person, token: uuid.UUID, place: str = "") -> Cook:
    """Start a saved brine. Raises BrineError for curing salt over its limit or without a second person's
    confirmation.
    """
    plan = BrinePlan.objects.select_for_update().select_related("kitchen").get(pk=plan.pk)
    document = held_against(plan)
    _, answered = settle_steps(document)
    if not answered["allowed"]:
        raise BrineError(f"Refused: {answered['why']}")
    if (there := started_with(plan.kitchen, token)) is not None:
        return there
    more: dict[str, Any] = {}
    confirmation = plan.confirmation if plan.has_nitrite else None
    if confirmation is not None:
        more = {
            "confirmed_by": str(confirmation.by), "confirmed_at": confirmation.at.isoformat(),
            "confirmed_how": confirmation.how,
        }  # fmt: skip
    elif plan.has_nitrite:
        raise BrineError("Curing salt: a second person must confirm this brine first, for each start.")
    cook = start_steps(
        plan.kitchen, person, plan.name, document, token, None, place, document.get("temp_c", 4.0), **more
    )
    if confirmation is not None:
        use_confirmation(confirmation, cook.pk, cook.started_at)
    return cook


def _settle_first(request: KitchenRequest, pk: uuid.UUID) -> None:
    plan = BrinePlan.objects.of(request.kitchen).current().filter(pk=pk).first()
    if plan is not None:
        with suppress(EmberError):
            settle_steps(held_against(plan))


@works_out_first(_settle_first)
@require_POST
def start(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Start a saved brine: its steps go to the line."""
    plan = get_object_or_404(BrinePlan.objects.of(request.kitchen).current(), pk=pk)
    places = vessel_places(request.kitchen)
    place = next((e.name for e in places if str(e.pk) == request.POST.get("where")), "")
    try:
        cook = start_brine(plan, request.user, token_of(request.POST.get("token")), place)
    except BrineError as error:
        messages.error(request, str(error))
        return redirect("brines:kept", pk=plan.pk)
    return redirect("line:steps", pk=cook.pk)


def in_progress(request: KitchenRequest) -> HttpResponse:
    """The brines that are on, the one to take out next in front."""
    now = request.kitchen.now()
    brines = [status for status in steps_running(request.kitchen, now) if status.cook.kind == Cook.Kind.BRINE]
    brines.sort(key=lambda status: status.next_due or now)
    return render(request, "brines/in_progress.html", {"brines": brines, "now": now})


def label(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The label of the vessel: contents, nitrite, times in and out, person; its code opens the cook."""
    cook = any_cook_of(request, pk)
    if cook.kind != cook.Kind.BRINE:
        return redirect("line:steps", pk=pk)
    code = code_of(request, reverse("line:steps", args=[cook.pk]))
    hours = cook.document.get("hours") or 0.0
    out = cook.started_at + dt.timedelta(hours=hours) if hours else None
    context = {"cook": cook, "code": code, "out": out, "result": cook.result, "document": cook.document}
    return render(request, "brines/label.html", context)
