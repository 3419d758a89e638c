"""Views of a service's menu: dishes, plate-up times, companions."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.service.companions import companion_kinds
from ember.service.task_ref import TaskKind, TaskRef
from kitchen.accounts.access import chef_required
from kitchen.accounts.editions import Meanwhile, changed_fields, edition_of, is_stale, wants_both
from kitchen.web import KitchenRequest

from . import actions
from .forms import MOST_BESIDE, CompanionForm, DishForm, ServiceForm
from .models import Dish, Service
from .presenters import side_dishes_of
from .views import service_of
from .words import DISH_WORDS, HEAD_WORDS


def new(request: KitchenRequest) -> HttpResponse:
    """Create a service without dishes."""
    form = ServiceForm(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        service = actions.create(request.kitchen, request.user, form.cleaned_data)
        return redirect("services:menu", pk=service.pk)
    status = 422 if request.method == "POST" else 200
    return render(request, "services/new.html", {"form": form}, status=status)


def _page(request: KitchenRequest, service: Service, status: int = 200, **more: Any) -> HttpResponse:
    wrong: Mapping[Any, DishForm] = more.pop("wrong", {})
    dishes = list(service.dishes.select_related("plan", "eggs"))
    context = {
        "service": service,
        "form": ServiceForm(None, service),
        "rows": [
            {
                "dish": dish,
                "edition": edition_of(said_of(dish)),
                "form": wrong.get(dish.pk) or DishForm(None, service, dish),
                "beside": side_dishes_of(dish),
            }
            for dish in dishes
        ],
        "fresh": wrong.get(None) or DishForm(None, service),
        "companion": CompanionForm(None, request.user.units),
        "kinds": companion_kinds(),
        "edition": edition_of(head_of(service)),
        "sent_edition": request.POST.get("edition", ""),
        **more,
    }
    return render(request, "services/menu.html", context, status=status)


def menu(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show the menu: head and dishes."""
    service = service_of(request, pk)
    if request.method != "POST":
        return _page(request, service)
    form = ServiceForm(request.POST)
    if not form.is_valid():
        return _page(request, service, 422, form=form)
    if is_stale(request, head_of(service), form.cleaned_data):
        return _page(
            request, service, 409, form=form, meanwhile=_meanwhile(service, form.cleaned_data, head_of(service))
        )
    actions.change(service, request.user, form.cleaned_data)
    return redirect("services:menu", pk=pk)


HEAD = ("name", "covers", "hands", "opens", "closes")


def head_of(service: Service) -> dict[str, Any]:
    """Form values of a service."""
    return {key: getattr(service, key) for key in HEAD}


def said_of(dish: Dish) -> dict[str, Any]:
    """Form values of a dish."""
    return {key: getattr(dish, key) for key in DISH_WORDS}


def _meanwhile(service: Service, mine: Mapping[str, Any], theirs: Mapping[str, Any], both: bool = False) -> Meanwhile:
    zone = service.kitchen.zone
    own, other = (
        {k: v.astimezone(zone) if isinstance(v, dt.datetime) else v for k, v in values.items()}
        for values in (mine, theirs)
    )
    words = HEAD_WORDS if "covers" in theirs else DISH_WORDS
    url = reverse("services:menu", args=[service.pk])
    return Meanwhile(str(service.updated_by), service.updated_at, changed_fields(own, other, words), url, both)


def _dish(service: Service, key: uuid.UUID) -> Dish:
    return get_object_or_404(service.dishes.select_related("plan", "eggs", "service__kitchen"), pk=key)


def _put(request: KitchenRequest, service: Service, dish: Dish | None) -> HttpResponse:
    form = DishForm(request.POST, service, dish)
    if not form.is_valid():
        return _page(request, service, 422, wrong={dish.pk if dish else None: form})
    if dish is not None and is_stale(request, said_of(dish), form.found()):
        meanwhile = _meanwhile(service, form.found(), said_of(dish), both=True)
        return _page(request, service, 409, wrong={dish.pk: form}, dish_meanwhile=meanwhile, meanwhile_of=dish.pk)
    if dish is not None and wants_both(request):
        dish = None  # theirs stays, mine comes beside it
    try:
        actions.put_dish(service, request.user, form.found(), dish)
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:menu", pk=service.pk)


@require_POST
def add_dish(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Add a dish."""
    return _put(request, service_of(request, pk), None)


@require_POST
def change_dish(request: KitchenRequest, pk: uuid.UUID, dish: uuid.UUID) -> HttpResponse:
    """Change a dish."""
    service = service_of(request, pk)
    return _put(request, service, _dish(service, dish))


@require_POST
def remove_dish(request: KitchenRequest, pk: uuid.UUID, dish: uuid.UUID) -> HttpResponse:
    """Remove a dish."""
    service = service_of(request, pk)
    try:
        actions.remove_dish(_dish(service, dish), request.user)
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:menu", pk=pk)


@require_POST
def add_beside(request: KitchenRequest, pk: uuid.UUID, dish: uuid.UUID) -> HttpResponse:
    """Add a companion to a dish."""
    service = service_of(request, pk)
    dish_row = _dish(service, dish)
    form = CompanionForm(request.POST, request.user.units)
    if not form.is_valid():
        return _page(request, service, 422, companion_wrong=form, companion_of=dish_row.pk)
    if len(dish_row.companions) >= MOST_BESIDE:
        messages.error(request, f"At most {MOST_BESIDE} beside a dish.")
        return redirect("services:menu", pk=pk)
    taken = {side["id"] for side in dish_row.companions}
    keys = (str(TaskRef(TaskKind.SIDE, n)) for n in range(1, MOST_BESIDE + 2))
    key = next(key for key in keys if key not in taken)
    return _companions(request, service, dish_row, [*dish_row.companions, form.row(key)])


@require_POST
def remove_beside(request: KitchenRequest, pk: uuid.UUID, dish: uuid.UUID, key: str) -> HttpResponse:
    """Remove a companion from a dish."""
    service = service_of(request, pk)
    dish_row = _dish(service, dish)
    return _companions(request, service, dish_row, [side for side in dish_row.companions if side["id"] != key])


def _companions(request: KitchenRequest, service: Service, dish: Dish, rows: list[dict[str, Any]]) -> HttpResponse:
    try:
        actions.put_dish(service, request.user, {"companions": rows}, dish)
    except actions.ServiceError as error:
        messages.error(request, str(error))
    return redirect("services:menu", pk=service.pk)


@require_POST
@chef_required
def put_away(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Archive a service, with an undo."""
    service = service_of(request, pk)
    actions.put_away(service)
    messages.success(request, f"Archived: {service.name}.", extra_tags=reverse("services:put-back", args=[pk]))
    return redirect("services:list")


@require_POST
@chef_required
def put_back(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Restore a service."""
    actions.put_back(get_object_or_404(Service.objects.of(request.kitchen), pk=pk))
    return redirect("services:service", pk=pk)
