"""Views of the book: entries, additions to signed records, the chain and the export."""

from __future__ import annotations

import json
import tempfile
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import FileResponse, Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.accounts.models import Person
from kitchen.line.models import Cook
from kitchen.units.number_text import in_units
from kitchen.web import KitchenRequest, attachment, clean_text, parse_count, token_of

from . import actions, retention
from .audit import audit_entries, links_found
from .export import write_export
from .forms import EntryForm
from .models import Entry, Link, ScheduledCheck
from .schedule import ScheduledCheckForm, add_check, end_check, scheduled_checks
from .verify import links_of
from .words import WHAT

PER_PAGE = 40
WRITTEN = (Entry.Kind.COLD, Entry.Kind.HOT, Entry.Kind.REHEAT, Entry.Kind.DELIVERY, Entry.Kind.NOTE)

MOST_MONTHS = 1200  # a hundred years
MOST_DAYS = 32_000


def _kind(text: str) -> str:
    if text not in WRITTEN:
        raise Http404("There is no entry of that kind.")
    return text


def _page(
    request: KitchenRequest, form: EntryForm, status: int = 200, problem: str = "", **more: Any
) -> HttpResponse:  # fmt: skip
    query = clean_text(request.GET.get("q"), 80)
    rows = Entry.objects.of(request.kitchen).select_related("by", "equipment", "cook")
    if query:
        rows = rows.filter(what__icontains=query) | rows.filter(note__icontains=query)
    last = Link.objects.of(request.kitchen).order_by("-number").first()
    context: dict[str, Any] = {
        "form": form, "kinds": [(kind.value, kind.label) for kind in WRITTEN], "kind": form.kind.value, "query": query,
        "page": Paginator(rows, PER_PAGE).get_page(request.GET.get("page")), "what": WHAT[form.kind],
        "problem": problem, "rule": actions.rule_for(request.kitchen, form.kind),
        "token": request.POST.get("token") or uuid.uuid4(), "links": last.number if last else 0,
        "is_chef": request.membership.is_chef, **more,
    }  # fmt: skip
    context |= {"schedule": scheduled_checks(request.kitchen), "now": request.kitchen.now()}
    context.setdefault("schedule_form", ScheduledCheckForm(request.kitchen))
    return render(request, "book/book.html", context, status=status)


def book(request: KitchenRequest) -> HttpResponse:
    """The entries, newest first."""
    kind = request.GET.get("kind", Entry.Kind.COLD)
    kind = kind if kind in WRITTEN else Entry.Kind.COLD
    return _page(request, EntryForm(kind, None, request.kitchen, request.user.units))


@require_POST
@chef_required
def add_scheduled(request: KitchenRequest) -> HttpResponse:
    """Put a check on the kitchen's schedule."""
    form = ScheduledCheckForm(request.kitchen, request.POST)
    if not form.is_valid():
        entry_form = EntryForm(Entry.Kind.COLD, None, request.kitchen, request.user.units)
        return _page(request, entry_form, 422, schedule_form=form)
    add_check(request.kitchen, form.cleaned_data)
    return redirect("book:book")


@require_POST
@chef_required
def end_scheduled(request: KitchenRequest, pk: int) -> HttpResponse:
    """Take a check off the schedule."""
    end_check(get_object_or_404(ScheduledCheck.objects.of(request.kitchen), pk=pk, ended_at=None))
    return redirect("book:book")


@require_POST
def write(request: KitchenRequest, kind: str) -> HttpResponse:
    """Add an entry. Errors are shown beside their fields."""
    form = EntryForm(_kind(kind), request.POST, request.kitchen, request.user.units)
    if not form.is_valid():
        return _page(request, form, 422)
    try:
        actions.write(request.kitchen, request.user, form.found(), token_of(request.POST.get("token")))
    except actions.BookError as error:
        return _page(request, form, 422, in_units(str(error), request.user.units))
    return redirect(f"{request.path.rsplit('write/', 1)[0]}?kind={kind}")


@require_POST
def add(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Add a note to a signed record."""
    cook = get_object_or_404(Cook.objects.of(request.kitchen).select_related("kitchen", "sign_off"), pk=pk)
    try:
        actions.add_to(
            cook, request.user, clean_text(request.POST.get("note"), 500), token_of(request.POST.get("token"))
        )
    except actions.BookError as error:
        messages.error(request, str(error))
    return redirect("logbook:record", pk=pk)


@require_POST
@chef_required
def keep(request: KitchenRequest) -> HttpResponse:
    """Set how long raw readings are kept (`months`), after how long they are thinned (`days`), and how long photographs
    are kept (`photos`).
    """
    for key, most, decide in (
        ("months", MOST_MONTHS, retention.keep_for), ("days", MOST_DAYS, retention.thin_after),
        ("photos", MOST_MONTHS, retention.keep_photos_for),
    ):  # fmt: skip
        text = request.POST.get(key)
        if text is None:
            continue
        value = parse_count(text)
        if text and (value is None or value > most):
            messages.error(request, "Choose how long to keep them.")
            continue
        try:
            decide(request.kitchen, request.user, value)
        except retention.RetentionError as error:
            messages.error(request, str(error))
    return redirect("accounts:kitchen")


@chef_required
def chain(request: KitchenRequest) -> StreamingHttpResponse:
    """The whole chain, a link a line, to be checked with its script."""

    def lines() -> Iterator[str]:
        for link in links_of(request.kitchen):
            link_values = {key: link[key] for key in ("number", "before", "payload", "digest")}
            yield json.dumps(link_values, ensure_ascii=False) + "\n"

    response = StreamingHttpResponse(lines(), content_type="application/x-ndjson; charset=utf-8")
    response.headers["Content-Disposition"] = attachment("chain", ".jsonl")
    return response


def script(request: KitchenRequest) -> HttpResponse:
    """The script that checks an exported chain."""
    text = (Path(__file__).parent / "check_chain.py").read_text("utf-8")
    response = HttpResponse(text, content_type="text/x-python; charset=utf-8")
    response.headers["Content-Disposition"] = attachment("check_chain", ".py")
    return response


@chef_required
def everything(request: KitchenRequest) -> FileResponse:
    """All of the kitchen's data as one archive."""
    file = tempfile.TemporaryFile()  # noqa: SIM115  (the answer closes it)
    write_export(request.kitchen, file)
    file.seek(0)
    return FileResponse(file, as_attachment=True, filename="kitchen.zip", content_type="application/zip")


PER_PAGE = 60


def who(request: KitchenRequest) -> HttpResponse:
    """The chain in readable form, newest first; filtered by person and text."""
    people = Person.objects.filter(memberships__kitchen=request.kitchen).order_by("name")
    person_key = request.GET.get("person", "")
    person = person_key if any(str(one.pk) == person_key for one in people) else ""
    text = clean_text(request.GET.get("q"), 80)
    page = Paginator(links_found(request.kitchen, person, text), PER_PAGE).get_page(request.GET.get("page"))
    context = {"page": page, "deeds": audit_entries(page), "people": people, "person": person, "query": text}
    return render(request, "book/who.html", context)
