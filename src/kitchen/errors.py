"""Error pages in the kitchen's words; the API and htmx get short ones."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render


def _answer(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    if request.path.startswith("/api/"):
        return JsonResponse({"error": {"code": str(status), "message": text}}, status=status)
    context = {"title": title, "text": text}
    try:
        return render(request, "error.html", context, status=status)
    except Exception:  # the database may be what is broken
        return HttpResponse(f"{title}. {text}", status=status, content_type="text/plain; charset=utf-8")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """403."""
    return _answer(request, 403, "Not yours to do", str(exception) or "Ask a chef of this kitchen.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404."""
    return _answer(request, 404, "Not here", "There is nothing at this address in your kitchen.")


def server_error(request: HttpRequest) -> HttpResponse:
    """500."""
    return _answer(request, 500, "Something broke", "Nothing you saved is lost. Go back and try again.")


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form from an old page."""
    return _answer(request, 403, "This page is too old", "Go back, reload it, and do it again. Nothing was changed.")
