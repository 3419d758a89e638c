"""Taps stored on a device without a network: carried out with their time, answered briefly."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone

from kitchen.units.number_text import in_units
from kitchen.web import KitchenRequest

from . import shared_board
from .taps import Tap, kept_tap

HEADER = "X-Kept-Tap"  # the kitchen's time of the tap, ms since 1970


class KeptTapsMiddleware:
    """Answers a stored tap with its result: done, already done by somebody, or refused and why."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: KitchenRequest) -> HttpResponse:
        """The view's response, or the result of a stored tap."""
        at = _moment(request.headers.get(HEADER, ""))
        if at is None or request.method != "POST" or request.kitchen is None:
            return self.get_response(request)
        with kept_tap(at) as tap:
            response = self.get_response(request)
        if response.status_code >= 500 or response.status_code in (401, 403):
            return response
        shared_board.forget(request.kitchen.pk)
        return JsonResponse(_became(request, response, tap))


def _moment(text: str) -> dt.datetime | None:
    if not text.isdecimal() or len(text) > 14:
        return None
    try:
        return dt.datetime.fromtimestamp(int(text) / 1000.0, tz=dt.UTC)
    except (ValueError, OverflowError, OSError):
        return None


def _became(request: KitchenRequest, response: HttpResponse, tap: Tap) -> dict[str, str]:
    problems = [str(m) for m in messages.get_messages(request) if m.level >= messages.ERROR]
    if response.status_code == 404:
        problems = ["that step no longer exists"]
    elif response.status_code >= 400 and not problems:
        problems = ["it could not be read. Look again"]
    if problems:
        return {"result": "refused", "why": in_units(" ".join(problems), request.user.units)}
    if tap.done_at is not None:
        return {"result": "already", "by": tap.done_by, "at": f"{timezone.localtime(tap.done_at):%H:%M}"}
    return {"result": "done"}
