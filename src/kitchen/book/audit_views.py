"""Who did what."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from kitchen.accounts.models import Person
from kitchen.text import clean_text

from .audit import audit_entries, links_found

PER_PAGE = 60


def who(request: HttpRequest) -> HttpResponse:
    """The chain as people read it, the newest first; of one person, with a text in it."""
    people = Person.objects.filter(memberships__kitchen=request.kitchen).order_by("name")
    person_key = request.GET.get("person", "")
    person = person_key if any(str(one.pk) == person_key for one in people) else ""
    text = clean_text(request.GET.get("q"), 80)
    page = Paginator(links_found(request.kitchen, person, text), PER_PAGE).get_page(request.GET.get("page"))
    context = {"page": page, "deeds": audit_entries(page), "people": people, "person": person, "query": text}
    return render(request, "book/who.html", context)
