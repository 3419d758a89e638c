"""One rendering of the board for all screens of a kitchen that ask within a moment.

Forty tablets poll every two seconds for the same thing. Only the token of their forms differs: it is inserted
afterwards.
"""

from __future__ import annotations

import math
import threading
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from django.core.cache import caches
from django.db import connection, transaction
from django.http import HttpResponse
from django.middleware.csrf import get_token
from django.template.loader import render_to_string
from django.utils import timezone

from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.accounts.once import AfterCommit
from kitchen.web import KitchenRequest

from . import board_listener
from .board_view import board
from .lane_text import TOKEN, kept_lanes, take_lanes
from .models import Cook

FRESH_S = 1.9  # screens ask every two seconds
SLOW_S = 0.04  # a board that takes longer is rendered beside the requests, which are shown the one before
OLDEST_S = 6.0  # older than this a screen waits for the next, but not long: a waiting request holds a thread
WAIT_S = 0.5
REST = 2.0  # times as long as a rendering took: sooner no other is begun, so that a busy server has time for its posts
BUSY = "-busy"
BUSY_FOR_S = 3.0  # a process that died while it rendered holds the others up no longer
KEPT = 64
KEPT_FOR_S = 60
OLD_S = 1e9
LANES_S = 3.9  # a lane in which nothing happened moves by less than a pixel in this time
AFTER_TAP_S = 5.0  # the next look, two seconds later, draws them anew


@dataclass(frozen=True)
class _Board:
    """A rendering: when it was begun (wall clock, since processes share it), its duration, s, and its text."""

    made: float
    took: float
    text: str


Key = tuple[int, Units, bool]
NONE = _Board(0.0, 0.0, "")
_boards: dict[Key, _Board] = {}
_locks: dict[Key, threading.Lock] = {}
_guard = threading.Lock()
_renderer = ThreadPoolExecutor(1, "board")


def forget(kitchen_id: int) -> None:
    """Outdate a kitchen's boards after a change, and again once it is committed; on other hosts then, too."""
    drop(kitchen_id)
    board_listener.tell(kitchen_id)
    transaction.on_commit(lambda: drop(kitchen_id))


def forget_before(sender: type[Cook], instance: Cook, created: bool, **_: object) -> None:
    """Receiver of `post_save`: a board that does not show a new cook is outdated."""
    if created:
        forget(instance.kitchen_id)


def drop_all() -> None:
    """Outdate every board of this process, after a time in which it may have missed what other hosts said."""
    with _guard:
        kitchens = {key[0] for key in _boards}
    for kitchen_id in kitchens:
        drop(kitchen_id)


def drop(kitchen_id: int) -> None:
    """Outdate the boards a kitchen rendered before this moment, in every process of this host."""
    with _guard:
        for key in [key for key in _boards if key[0] == kitchen_id]:
            del _boards[key]
    caches["boards"].set(f"forgotten-{kitchen_id}", time.time(), KEPT_FOR_S)


def _render(kitchen: Kitchen, key: Key) -> _Board:
    """A current board: another process's if it is fresh, else rendered here for all."""
    began = time.time()
    _, units, everything = key
    shared: _Board
    shared, drawn = caches["boards"].get(_name(key), (NONE, {}))
    take_lanes(drawn)
    if began - shared.made < FRESH_S and shared.made > _forgotten_at(kitchen.pk):
        _boards[key] = shared
        return shared
    caches["boards"].set(_name(key) + BUSY, began, BUSY_FOR_S)
    context = {**board(kitchen, everything, units, LANES_S), "units": units, "kitchen": kitchen, "csrf_token": TOKEN}
    with timezone.override(kitchen.zone):
        text = render_to_string("line/_board.html", context)
    rendered = _Board(began, time.time() - began, text)
    _keep(key, rendered, context["cooks"])
    caches["boards"].delete(_name(key) + BUSY)
    return rendered


def _another_renders(key: Key) -> bool:
    """Whether some process is rendering this board."""
    return caches["boards"].get(_name(key) + BUSY) is not None


def _name(key: Key) -> str:
    kitchen, units, everything = key
    return f"{kitchen}-{units.temperature}-{units.length}-{units.mass}-{everything}"


def _forgotten_at(kitchen_id: int) -> float:
    """When something last changed in a kitchen: boards begun earlier are outdated."""
    return float(caches["boards"].get(f"forgotten-{kitchen_id}", 0.0))


def _keep(key: Key, rendered: _Board, cooks: set[uuid.UUID]) -> None:
    _boards[key] = rendered
    caches["boards"].set(_name(key), (rendered, kept_lanes(cooks, key[1])), KEPT_FOR_S)


def _render_beside(kitchen: Kitchen, key: Key, lock: threading.Lock) -> None:
    try:
        _render(kitchen, key)
    finally:
        lock.release()
        connection.close()


def board_after_tap(request: KitchenRequest, problem: str = "") -> HttpResponse:
    """The board after a tap, rendered once that is committed: lanes in which nothing happened are reused.

    It becomes everybody's board, unless something else changed meanwhile.
    """
    forget(request.kitchen.pk)
    return AfterCommit(lambda: _board_now(request, problem))


def _board_now(request: KitchenRequest, problem: str) -> HttpResponse:
    key: Key = (request.kitchen.pk, request.user.units, False)
    before, began = _forgotten_at(request.kitchen.pk), time.time()
    context = {
        **board(request.kitchen, False, key[1], AFTER_TAP_S), "units": key[1], "kitchen": request.kitchen,
        "csrf_token": TOKEN, "problem": problem,
    }  # fmt: skip
    text = render_to_string("line/_board.html", context)
    if _forgotten_at(request.kitchen.pk) == before and not problem:
        made = max(began, math.nextafter(before, math.inf))
        _boards[key] = _Board(made, time.time() - began, text)
        _renderer.submit(_keep, key, _boards[key], context["cooks"])
    return HttpResponse(text.replace(TOKEN, get_token(request)))


def board_page(request: KitchenRequest, everything: bool) -> HttpResponse:
    """The whole page of the board."""
    context = board(request.kitchen, everything, request.user.units)
    text = render_to_string("line/board.html", context, request)
    return HttpResponse(text.replace(TOKEN, get_token(request)))


def _take(lock: threading.Lock, age_s: float) -> bool:
    """Whether this request renders; the others get the board before, while that is acceptable."""
    if age_s == OLD_S:
        return lock.acquire()
    return lock.acquire(timeout=WAIT_S) if age_s > OLDEST_S else lock.acquire(blocking=False)


def board_for(request: KitchenRequest, everything: bool) -> HttpResponse:
    """The board as a fragment, at most a few seconds old."""
    key: Key = (request.kitchen.pk, request.user.units, everything)
    with _guard:
        lock = _locks.setdefault(key, threading.Lock())
        if len(_boards) > KEPT:
            _boards.clear()
    board = _boards.get(key, NONE)
    age = time.time() - board.made if board.made > _forgotten_at(request.kitchen.pk) else OLD_S
    if age > min(max(FRESH_S, REST * board.took), OLDEST_S) and _take(lock, age):
        if age <= OLDEST_S and _another_renders(key):
            lock.release()
        elif board.took > SLOW_S and age <= OLDEST_S:
            _renderer.submit(_render_beside, request.kitchen, key, lock)
        else:
            try:
                board = _boards.get(key, NONE)
                if time.time() - board.made > FRESH_S or board.made <= _forgotten_at(request.kitchen.pk):
                    board = _render(request.kitchen, key)
            finally:
                lock.release()
    return HttpResponse(board.text.replace(TOKEN, get_token(request)))
