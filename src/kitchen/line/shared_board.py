"""One rendering of the board for all the screens of a kitchen that ask within a moment.

Forty tablets ask every two seconds for the same thing. What differs between them is the token that guards their forms
against other sites: it is put in afterwards.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Hashable

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.template.loader import render_to_string

from .board_view import board

FRESH_S = 1.0
KEPT = 64
_TOKEN = "csrf-token-of-the-session"  # noqa: S105  (a place to put it, not a token)

_boards: dict[Hashable, tuple[float, str]] = {}
_locks: dict[Hashable, threading.Lock] = {}
_guard = threading.Lock()


def forget(kitchen_id: int) -> None:
    """Something was done in a kitchen: what this process rendered before is old."""
    with _guard:
        for key in [key for key in _boards if isinstance(key, tuple) and key[0] == kitchen_id]:
            del _boards[key]


def board_for(request: HttpRequest, everything: bool) -> HttpResponse:
    """The board as a fragment, at most a moment old."""
    units = request.user.units
    key = (request.kitchen.pk, units, everything)
    with _guard:
        lock = _locks.setdefault(key, threading.Lock())
        if len(_boards) > KEPT:
            _boards.clear()
    with lock:  # of many that ask at once, one renders
        made, text = _boards.get(key, (0.0, ""))
        if time.monotonic() - made > FRESH_S:
            context = {**board(request.kitchen, everything), "units": units, "kitchen": request.kitchen}
            text = render_to_string("line/_board.html", context | {"csrf_token": _TOKEN})
            _boards[key] = (time.monotonic(), text)
    return HttpResponse(text.replace(_TOKEN, get_token(request)))
