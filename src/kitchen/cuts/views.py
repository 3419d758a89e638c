"""The catalogue to read and search; own cuts to make."""

from __future__ import annotations

import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.food.catalogue import Cut, cuts
from ember.judge.categories import CATEGORIES
from ember.judge.doneness import scales
from kitchen.accounts.access import chef_required
from kitchen.web import KitchenRequest, clean_text

from . import actions
from .forms import OwnCutForm
from .models import OwnCut


def _matches(entry: Cut, words: list[str]) -> bool:
    text = " ".join([entry.name, entry.id, *entry.tissue, *entry.methods, CATEGORIES[entry.category]]).lower()
    return all(word in text for word in words)


def anchor_of(entry: Cut) -> str:
    """Where a cut stands on its page."""
    return f"cut-{entry.id.replace('/', '-')}"


def catalogue(request: KitchenRequest) -> HttpResponse:
    """Every cut with its doneness words and methods; `q` searches names, tissue and methods."""
    query = clean_text(request.GET.get("q"), 120)
    rows: dict[str, list[dict[str, Any]]] = {}
    for cut_entry in cuts().values():
        if _matches(cut_entry, query.lower().split()):
            words = scales()[cut_entry.doneness][1:]
            category = CATEGORIES[cut_entry.category]
            rows.setdefault(cut_entry.species.capitalize(), []).append(
                {"cut": cut_entry, "words": words, "category": category}
            )
    context = {
        "species": rows,
        "query": query,
        "count": sum(len(group) for group in rows.values()),
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
