"""The catalogue to read and search; own cuts to make."""

from __future__ import annotations

import uuid

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.web import KitchenRequest, clean_text, parse_count

from . import actions
from .catalogue import WITHIN_MIN, Filters, animals, by_animal, methods_there, rows
from .forms import OwnCutForm
from .models import OwnCut


def _filters(request: KitchenRequest) -> Filters:
    """The filters of the address; unknown ones filter nothing."""
    known = {key for key, _ in methods_there()}
    there = {animal for _, family in animals() for animal in family}
    asked = request.GET
    within = parse_count(asked.get("within"))
    return Filters(
        text=clean_text(asked.get("q"), 120),
        animal=asked["animal"] if asked.get("animal") in there else "",
        method=asked["method"] if asked.get("method") in known else "",
        within_min=within if within in WITHIN_MIN else 0,
    )


def catalogue(request: KitchenRequest) -> HttpResponse:
    """Every cut with what sets it apart; filtered by words, animal, method and time."""
    filters = _filters(request)
    found = [row for row in rows() if filters.holds(row)]
    context = {
        "species": by_animal(found),
        "filters": filters,
        "count": len(found),
        "animals": animals(),
        "methods": methods_there(),
        "within": WITHIN_MIN,
        "own": OwnCut.objects.of(request.kitchen).current(),
    }
    if request.htmx and request.htmx.target == "cut-rows":
        return render(request, "cuts/_rows.html", context)
    return render(request, "cuts/catalogue.html", context)


@chef_required
def own(request: KitchenRequest, pk: uuid.UUID | None = None) -> HttpResponse:
    """Create or change an own cut."""
    own_cut = get_object_or_404(OwnCut.objects.of(request.kitchen).current(), pk=pk) if pk else None
    initial = OwnCutForm.initial_of(own_cut) if own_cut else {"base": request.GET.get("base", "")}
    form = OwnCutForm(request.POST or None, request.user.units, initial)
    if request.method == "POST" and form.is_valid():
        try:
            made = actions.keep(request.kitchen, own_cut, form.cleaned_data)
        except actions.NameTakenError as error:
            form.add_error("name", str(error))
        else:
            messages.success(request, f"{made.name} saved to your own cuts.")
            return redirect("cuts:catalogue")
    status = 422 if form.errors else 200
    return render(request, "cuts/own.html", {"form": form, "kept": own_cut}, status=status)


@require_POST
@chef_required
def remove(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Remove an own cut, with an undo."""
    own_cut = get_object_or_404(OwnCut.objects.of(request.kitchen).current(), pk=pk)
    actions.remove(own_cut)
    messages.success(
        request, f"{own_cut.name} removed. Plans that use it stay.", extra_tags=reverse("cuts:restore", args=[pk])
    )
    return redirect("cuts:catalogue")


@require_POST
@chef_required
def restore(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Restore a removed cut."""
    own_cut = get_object_or_404(OwnCut.objects.of(request.kitchen), pk=pk)
    try:
        actions.restore(own_cut)
    except actions.NameTakenError as error:
        messages.error(request, str(error))
    return redirect("cuts:catalogue")
