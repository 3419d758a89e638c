"""Error pages in the kitchen's words; short ones for the API and htmx."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from http import HTTPStatus

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from psycopg.errors import LockNotAvailable, QueryCanceled

from ember.errors import EmberError

RETRY_S = "2"


class Busy(EmberError):
    """So much is being calculated that one more has to come back."""

    code = "busy"

    def __init__(self) -> None:
        super().__init__("Other plans are being calculated just now. Try again in a moment.")


def problem(
    status: int, code: str, message: str, at: str = "", more: Mapping[str, object] | None = None
) -> JsonResponse:
    """A failure for programs: RFC 9457 problem details, with code, message and place."""
    own = {"code": code, "message": message} | ({"at": at} if at else {})
    details = {"type": "about:blank", "title": HTTPStatus(status).phrase, "status": status, "detail": message}
    body = {**details, "error": own, **(more or {})}
    return JsonResponse(body, status=status, content_type="application/problem+json")


class NotAllowedMiddleware:
    """Replaces the blank page of a 405: somebody opened the address of a form."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The response, with a page if it had none."""
        response = self.get_response(request)
        if response.status_code != HTTPStatus.METHOD_NOT_ALLOWED or response.content:
            return response
        page = _answer(
            request, 405, "Nothing to open here", "This address only accepts forms sent from a page. Go back."
        )
        page.headers["Allow"] = response.headers.get("Allow", "")
        return page


def _answer(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    if request.path.startswith("/api/"):
        return problem(status, str(status), text)
    context = {"title": title, "text": text, "request_id": getattr(request, "id", "")}
    try:
        return render(request, "error.html", context, status=status)
    except Exception:  # the database may be what is broken
        return HttpResponse(f"{title}. {text}", status=status, content_type="text/plain; charset=utf-8")


def refused_work(request: HttpRequest, error: EmberError) -> HttpResponse:
    """The page of something that cannot be calculated, or not just now."""
    if isinstance(error, Busy):
        is_asked_for = request.headers.get("HX-Request") != "true"  # else the page asks again by itself
        response = _answer(request, 503, "Busy", error.message) if is_asked_for else HttpResponse(status=503)
        response.headers["Retry-After"] = RETRY_S
        return response
    return _answer(request, 422, "That cannot be calculated", error.message)


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """The page of a 403."""
    return _answer(request, 403, "Not allowed", str(exception) or "Ask a chef of this kitchen.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """The page of a 404."""
    return _answer(request, 404, "Page not found", "There is no such page in your kitchen.")


def server_error(request: HttpRequest) -> HttpResponse:
    """The page of a 500, or of a 503 where the database made somebody wait too long for another."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError) and isinstance(error.__cause__, LockNotAvailable | QueryCanceled):
        return refused_work(request, Busy())
    return _answer(
        request,
        500,
        "Something went wrong",
        "What you just sent may not be saved. Go back and look before you send it again.",
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """The page of a form whose token is too old."""
    return _answer(
        request, 403, "This page has expired", "Go back, reload the page and try again. Nothing was changed."
    )
