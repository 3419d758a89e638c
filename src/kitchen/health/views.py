"""Signs of life: the process, what it stands on, and its numbers."""

from __future__ import annotations

import hmac
import os

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse, HttpResponseForbidden, JsonResponse

from kitchen.accounts.lockouts import address_of

from .metrics import everything
from .readiness import not_ready

HERE = ("127.0.0.1", "::1")


@login_not_required
def healthz(request: HttpRequest) -> HttpResponse:
    """200 while the process lives."""
    return HttpResponse("ok", content_type="text/plain")


@login_not_required
def readyz(request: HttpRequest) -> JsonResponse:
    """200, or 503 with what is not ready and why."""
    wrong = not_ready()
    return JsonResponse({"ready": not wrong, "not_ready": wrong}, status=503 if wrong else 200)


@login_not_required
def metrics(request: HttpRequest) -> HttpResponse:
    """Numbers for Prometheus: from this machine, or with the token in EMBER_METRICS_TOKEN."""
    token = os.environ.get("EMBER_METRICS_TOKEN", "")
    sent = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if not (token and hmac.compare_digest(sent.encode(), token.encode())) and address_of(request) not in HERE:
        return HttpResponseForbidden("Only from this machine, or with a token.", content_type="text/plain")
    text, kind = everything()
    return HttpResponse(text, content_type=kind)
