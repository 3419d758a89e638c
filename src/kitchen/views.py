"""The front page and the health check."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from kitchen.line.models import Cook


def home(request: HttpRequest) -> HttpResponse:
    """To the line while something is cooking, else to the plans."""
    cooking = Cook.objects.of(request.kitchen).filter(finished_at=None).exists()
    return redirect("line:board" if cooking else "plans:list")


@login_not_required
def healthz(request: HttpRequest) -> HttpResponse:
    """Whether the server and its database answer."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return HttpResponse("ok", content_type="text/plain")
