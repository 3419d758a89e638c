"""The report as PDF: at once if it is short, else rendered by the worker while its progress is shown."""

from __future__ import annotations

import uuid

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.web import KitchenRequest, attachment

from .models import Paper
from .paper import ask_for, paper_of, parts_of
from .report_views import name_of, refused, report_asked
from .tasks import make_paper

PARTS_AT_ONCE = 2


def _sent(data: bytes, name: str) -> HttpResponse:
    response = HttpResponse(data, content_type="application/pdf")
    response.headers["Content-Disposition"] = attachment(name, ".pdf")
    return response


def ask(request: KitchenRequest) -> HttpResponse:
    """The PDF of a short report; for a long one, start a job and show its page."""
    period, problem = report_asked(request)
    if problem:
        return refused(problem)
    if len(parts_of(period)) <= PARTS_AT_ONCE:
        return _sent(paper_of(period, request.user), name_of(period.first, period.last))
    paper = ask_for(request.kitchen, request.user, period.first, period.last)
    make_paper.defer(paper_id=str(paper.pk))
    return redirect("book:paper", pk=paper.pk)


def _mine(request: KitchenRequest, pk: uuid.UUID) -> Paper:
    return get_object_or_404(Paper.objects.of(request.kitchen).defer("pdf"), pk=pk, by=request.user)


def paper(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The progress of a job, polled until the file is there."""
    paper = _mine(request, pk)
    is_there = Paper.objects.filter(pk=pk, pdf__isnull=False).exists()
    template = "book/_making.html" if request.htmx else "book/making.html"
    return render(request, template, {"paper": paper, "is_there": is_there})


@require_POST
def stop(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Stop a job that is not done yet."""
    paper = _mine(request, pk)
    Paper.objects.filter(pk=paper.pk, pdf__isnull=True, problem="").update(problem="Stopped.")
    return redirect("book:paper", pk=pk)


def download(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """The finished file."""
    paper = _mine(request, pk)
    if paper.pdf is None:
        return redirect("book:paper", pk=pk)
    return _sent(bytes(paper.pdf), name_of(paper.first, paper.last))
