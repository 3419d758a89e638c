"""Views of a service on its day: begin, taps, replanning, end."""

from __future__ import annotations

import uuid

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from ember.errors import EmberError
from kitchen.accounts.access import chef_required
from kitchen.accounts.once import works_out_first
from kitchen.line import shared_board
from kitchen.line.errors import LineError
from kitchen.units.number_text import in_units
from kitchen.web import KitchenRequest, clean_text, parse_count, token_of

from . import actions, day
from .views import dish_of, page, service_of, tell

Refused = (actions.ServiceError, LineError, EmberError)


@require_POST
@chef_required
def begin(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Send it to the line."""
    try:
        day.begin(service_of(request, pk), request.user)
        shared_board.forget(request.kitchen.pk)
    except actions.ServiceError as error:
        messages.error(request, str(error))
        return redirect("services:service", pk=pk)
    return redirect("line:board")


@require_POST
@chef_required
def end(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """End it."""
    day.end(service_of(request, pk), request.user)
    return redirect("services:service", pk=pk)


def _settle_first(request: KitchenRequest, pk: uuid.UUID) -> None:
    service = service_of(request, pk)
    dish = dish_of(service, request.POST.get("dish"))
    if dish is not None and not request.POST.get("back"):
        day.settle(service, dish, clean_text(request.POST.get("task"), 40))


@works_out_first(_settle_first)
@require_POST
def tap(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record the next action of a task, or undo it."""
    service = service_of(request, pk)
    dish = dish_of(service, request.POST.get("dish"))
    task, n = clean_text(request.POST.get("task"), 40), request.POST.get("n", "0")
    if dish is not None and n.isdecimal():
        try:
            if request.POST.get("back"):
                day.untap(service, request.user, dish, task, int(n[:4]), parse_count(request.POST.get("event")))
            else:
                token = token_of(request.POST.get("token"))
                means = request.POST.get("means", "")
                day.tap(service, request.user, dish, task, int(n[:4]), token, means)
        except Refused as error:
            messages.error(request, in_units(str(error), request.user.units))
        shared_board.forget(request.kitchen.pk)
    if request.POST.get("from") == "line":
        return redirect("line:board")
    return redirect("services:lists" if request.POST.get("from") == "lists" else "services:service", pk=pk)


@require_POST
def replan(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Plan again from now on; the result waits for the chef."""
    try:
        tell(request, day.replan(service_of(request, pk), request.user))
    except Refused as error:
        messages.error(request, in_units(str(error), request.user.units))
    return redirect("services:service", pk=pk)


@require_POST
def watch(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The polled fragment of a running service."""
    service = day.watch(service_of(request, pk), request.user)
    return page(request, service, task=request.POST.get("task", ""))


@require_POST
@chef_required
def answer(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Accept or dismiss the proposal."""
    service = service_of(request, pk)
    try:
        if request.POST.get("take") == "yes":
            day.accept(service, request.user)
        else:
            day.dismiss(service)
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:service", pk=pk)
