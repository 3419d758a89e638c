"""Heavy calculations within requests: what one may cost, and how many run at once. A tap never waits for a plan."""

from __future__ import annotations

import fcntl
import os
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from ember.errors import EmberError
from ember.heat.budget import Budget, within

REQUEST_S, REQUEST_STEPS = 2.0, 300_000
HEAVY_S = 0.25  # what takes longer has to wait for a place
AT_ONCE, WAITING, A_PERSON = 1, 3, 2
# What only calculates. A tap or a save is never sent away for others' sake before it turns out to be heavy itself.
HEAVY_VIEWS = ("plans:bench", "plans:prices", "plans:methods", "plans:fit", "plans:compare", "plans:import")
HEAVY_PDF = ("plans:card-pdf", "book:report-pdf")
PATIENCE_S, LOOK_EVERY_S = 4.0, 0.02
RETRY_S = "2"
OF_THE_HOST = max((os.cpu_count() or 1) // 2, 1)


class Busy(EmberError):
    """So much is being calculated that one more has to come back."""

    code = "busy"

    def __init__(self) -> None:
        super().__init__("Other plans are being calculated just now. Try again in a moment.")


def _of_the_host(places: list[Path]) -> IO[bytes] | None:
    """One of the places that all processes of a host share, held while it is open; None if none came free in time."""
    deadline = time.monotonic() + PATIENCE_S
    while True:
        for place in places:
            file = place.open("ab")
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                file.close()
            else:
                return file
        if time.monotonic() > deadline:
            return None
        time.sleep(LOOK_EVERY_S)


class Gate:
    """Places for heavy work, and a short bench to wait on; who finds both full is sent away.

    One place a process; and half of the host's processors for all processes together, so that the others are there for
    whoever taps.
    """

    def __init__(
        self, at_once: int = AT_ONCE, waiting: int = WAITING, a_person: int = A_PERSON, host: int = OF_THE_HOST
    ) -> None:  # fmt: skip
        folder = Path(settings.LOCAL)
        folder.mkdir(parents=True, exist_ok=True)
        self.host = [folder / f"heavy-{number}.lock" for number in range(host)]
        self.free = threading.BoundedSemaphore(at_once)
        self.most, self.a_person = at_once + waiting, a_person
        self.inside: Counter[Any] = Counter()
        self.lock = threading.Lock()

    def is_full(self, person: Any) -> bool:
        """Whether one more would be sent away just now."""
        with self.lock:
            return self.inside.total() >= self.most or self.inside[person] >= self.a_person

    @contextmanager
    def held(self, person: Any) -> Iterator[Callable[[], None]]:
        """What to call once work turns out to be heavy; the place is given back at the end. That call raises Busy."""
        has: list[str] = []
        locks: list[IO[bytes]] = []

        def enter() -> None:
            if has:
                return
            if self.is_full(person):
                raise Busy
            with self.lock:
                self.inside[person] += 1
            has.append("in")
            if not self.free.acquire(timeout=PATIENCE_S):
                raise Busy
            has.append("place")
            if (lock := _of_the_host(self.host)) is None:
                raise Busy
            locks.append(lock)

        try:
            yield enter
        finally:
            for lock in locks:
                lock.close()
            if "place" in has:
                self.free.release()
            if "in" in has:
                with self.lock:
                    self.inside[person] -= 1


GATE = Gate()


@cache
def heavy_paths() -> frozenset[str]:
    """Addresses of what only calculates."""
    return frozenset(reverse(name) for name in HEAVY_VIEWS)


class WorkMiddleware:
    """Holds what a request calculates to its budget, and lets heavy views in one by one."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The answer, within the budget. Where there is no place it costs next to nothing to say so."""
        person = request.COOKIES.get(settings.SESSION_COOKIE_NAME, "nobody")
        if request.method == "POST" and request.path in heavy_paths() and GATE.is_full(person):
            return HttpResponse(str(Busy()), status=503, content_type="text/plain", headers={"Retry-After": RETRY_S})
        with GATE.held(person) as enter:
            request.enter_gate = enter
            with within(Budget(REQUEST_STEPS, REQUEST_S, HEAVY_S, enter)):
                return self.get_response(request)

    def process_view(self, request: Any, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        """A view that is known to calculate takes its place before it begins, or is told to come back."""
        if request.resolver_match.view_name not in (HEAVY_PDF if request.method == "GET" else HEAVY_VIEWS):
            return None
        try:
            request.enter_gate()
        except Busy as busy:
            return self.process_exception(request, busy)
        return None

    def process_exception(self, request: Any, error: Exception) -> HttpResponse | None:
        """A page or problem for what no view turned into words of its own."""
        from kitchen.errors import refused_work

        return refused_work(request, error) if isinstance(error, EmberError) else None
