"""The search page, and its results as they are typed."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render

from kitchen.web import KitchenRequest, clean_text

from .hits import hit_groups
from .records import record_groups

LONGEST = 80


def search(request: KitchenRequest) -> HttpResponse:
    """Everything that matches `q`: the results alone while somebody types, the box for the dialog, or the page."""
    text = clean_text(request.GET.get("q"), LONGEST)
    context = {
        "query": text,
        "groups": hit_groups(request.kitchen, text) if text else [],
        "records": record_groups(request.kitchen, text, request.user.units) if text else [],
    }
    if request.htmx:
        typing = request.htmx.target == "find-results"
        return render(request, "search/_results.html" if typing else "search/_box.html", context)
    return render(request, "search/search.html", context)
