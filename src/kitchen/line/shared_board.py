"""One rendering of the board for all the screens of a kitchen that ask within a moment.

Forty tablets ask every two seconds for the same thing. What differs between them is the token that guards their forms
against other sites: it is put in afterwards.
"""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass

from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.template.loader import render_to_string
from django.utils import timezone

from ember.quantities import Units
from kitchen.accounts.models import Kitchen

from .board_view import board

FRESH_S = 1.9  # screens ask every two seconds
SLOW_S = 0.15  # a board that takes longer is rendered beside the requests, which are shown the one before
OLDEST_S = 6.0  # older than this nobody is shown it: they wait
KEPT = 64
_TOKEN = "csrf-token-of-the-session"  # noqa: S105  (a place to put it, not a token)


@dataclass(frozen=True)
class _Board:
    made: float
    took: float
    text: str


Key = tuple[int, Units, bool]
NONE = _Board(-1e9, 0.0, "")
_boards: dict[Key, _Board] = {}
_locks: dict[Key, threading.Lock] = {}
_guard = threading.Lock()


def forget(kitchen_id: int) -> None:
    """Something was done in a kitchen: what this process rendered before is old."""
    with _guard:
        for key in [key for key in _boards if key[0] == kitchen_id]:
            del _boards[key]


def _render(kitchen: Kitchen, key: Key) -> None:
    began = time.monotonic()
    _, units, everything = key
    context = {**board(kitchen, everything), "units": units, "kitchen": kitchen, "csrf_token": _TOKEN}
    with timezone.override(kitchen.zone):
        text = render_to_string("line/_board.html", context)
    _boards[key] = _Board(time.monotonic(), time.monotonic() - began, text)


def _render_beside(kitchen: Kitchen, key: Key, lock: threading.Lock) -> None:
    try:
        _render(kitchen, key)
    finally:
        lock.release()
        connection.close()


def board_for(request: HttpRequest, everything: bool) -> HttpResponse:
    """The board as a fragment, at most a moment old."""
    key: Key = (request.kitchen.pk, request.user.units, everything)
    with _guard:
        lock = _locks.setdefault(key, threading.Lock())
        if len(_boards) > KEPT:
            _boards.clear()
    found = _boards.get(key, NONE)
    age = time.monotonic() - found.made
    if age > FRESH_S and lock.acquire(blocking=age > OLDEST_S):  # one renders, the others are shown the one before
        if found.took > SLOW_S and age <= OLDEST_S:
            threading.Thread(target=_render_beside, args=(request.kitchen, key, lock), daemon=True).start()
        else:
            try:
                if time.monotonic() - _boards.get(key, NONE).made > FRESH_S:
                    _render(request.kitchen, key)
            finally:
                lock.release()
        found = _boards.get(key, found)
    return HttpResponse(found.text.replace(_TOKEN, get_token(request)))
