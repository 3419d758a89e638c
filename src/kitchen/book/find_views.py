"""Find anything that was written down."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from kitchen.text import clean_text

from .find import found_of


def find(request: HttpRequest) -> HttpResponse:
    """By a name, a person, a note or a day, across all kinds of records."""
    query = clean_text(request.GET.get("q"), 80)
    matches = found_of(request.kitchen, query, request.user.units) if query else []
    return render(request, "book/find.html", {"query": query, "found": matches})
