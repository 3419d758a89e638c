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
from ember.heat.budget import MOST_S, MOST_STEPS, Budget, within

from .errors import RETRY_S, Busy, refused_work

PLAN_S, PLAN_STEPS = 2.0, 300_000  # of a request about one plan, whatever somebody made of it
PLANS, BENCH = "/plans/", "/plans/bench/"
HEAVY_S = 0.25  # what takes longer has to wait for a place
AT_ONCE, WAITING, A_PERSON = 1, 6, 5
# What only calculates. A tap or a save is never sent away for others' sake before it turns out to be heavy itself.
HEAVY_VIEWS = ("plans:bench", "plans:prices", "plans:methods", "plans:fit", "plans:compare", "plans:import")
HEAVY_PDF = ("plans:card-pdf", "book:report-pdf")
PATIENCE_S, LOOK_EVERY_S = 4.0, 0.02
OF_THE_HOST = max((os.cpu_count() or 1) // 2, 1)


class Gate:
    """Places for heavy work, and a short bench to wait on; who finds both full is sent away.

    One place a process; and half of the host's processors for all processes together, so that the others are there for
    whoever taps. A newer request for the same by the same person sends the one that waits away: its page has gone on.
    """

    def __init__(
        self, at_once: int = AT_ONCE, waiting: int = WAITING, a_person: int = A_PERSON, host: int = OF_THE_HOST
    ) -> None:  # fmt: skip
        folder = Path(settings.LOCAL)
        folder.mkdir(parents=True, exist_ok=True)
        self.host_locks = [folder / f"heavy-{number}.lock" for number in range(host)]
        self.free = threading.BoundedSemaphore(at_once)
        self.most, self.a_person = at_once + waiting, a_person
        self.inside: Counter[Any] = Counter()  # requests that work or wait, by person
        self.newest: dict[tuple[Any, str], Visit] = {}
        self.lock = threading.Lock()

    def is_full(self, person: Any) -> bool:
        """Whether one more would be sent away just now."""
        return self.inside.total() >= self.most or self.inside[person] >= self.a_person

    @contextmanager
    def held(self, person: Any, wanted: str = "") -> Iterator[Callable[[], None]]:
        """What to call once work turns out to be heavy; the place is given back at the end. That call raises Busy.
        `wanted`: what is asked for, if a newer request for it makes this one needless.
        """
        visit = Visit(self, person, wanted)
        try:
            yield visit.enter
        finally:
            visit.leave()

    def place(self, is_wanted: Callable[[], bool]) -> IO[bytes]:
        """A place of this process and one of the host, as soon as both are free. Raises Busy."""
        deadline = time.monotonic() + PATIENCE_S
        while is_wanted() and time.monotonic() < deadline:
            if self.free.acquire(blocking=False):
                for path in self.host_locks:
                    host_lock = path.open("ab")
                    try:
                        fcntl.flock(host_lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    except OSError:
                        host_lock.close()
                    else:
                        return host_lock
                self.free.release()
            time.sleep(LOOK_EVERY_S)
        raise Busy


class Visit:
    """One request at the gate."""

    def __init__(self, gate: Gate, person: Any, wanted: str) -> None:
        self.gate, self.person, self.wanted = gate, person, wanted
        self.is_inside = False
        self.host_lock: IO[bytes] | None = None  # held while it works
        if wanted:
            gate.newest[person, wanted] = self

    def enter(self) -> None:
        """Take a place, once. Raises Busy."""
        if self.is_inside:
            return
        with self.gate.lock:
            if self.gate.is_full(self.person):
                raise Busy
            self.gate.inside[self.person] += 1
        self.is_inside = True
        self.host_lock = self.gate.place(self._is_newest)

    def leave(self) -> None:
        """Give back what was taken."""
        if self.host_lock is not None:
            self.host_lock.close()
            self.gate.free.release()
        with self.gate.lock:
            self.gate.inside[self.person] -= int(self.is_inside)
        if self.wanted and self._is_newest():
            del self.gate.newest[self.person, self.wanted]

    def _is_newest(self) -> bool:
        return not self.wanted or self.gate.newest.get((self.person, self.wanted)) is self


GATE = Gate()


@cache
def heavy_paths() -> frozenset[str]:
    """Addresses of what only calculates."""
    return frozenset(reverse(name) for name in HEAVY_VIEWS)


def _budget_of(request: HttpRequest, enter: Callable[[], None]) -> Budget:
    """What a request may cost: one plan little, a service with many dishes as much as a command."""
    if not request.path.startswith(PLANS):
        return Budget(10 * MOST_STEPS, MOST_S, HEAVY_S, enter)
    steps, seconds = (PLAN_STEPS, PLAN_S)
    if request.path.startswith(BENCH) and request.path != BENCH:  # methods, prices, ways to be ready: many plans
        steps, seconds = 3 * steps, 3.0 * seconds
    return Budget(steps, seconds, HEAVY_S, enter)


class WorkMiddleware:
    """Holds what a request calculates to its budget, and lets heavy views in one by one."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The answer, within the budget. Where there is no place it costs next to nothing to say so."""
        person = request.COOKIES.get(settings.SESSION_COOKIE_NAME, "nobody")
        wanted = request.path if request.method == "POST" and request.path in heavy_paths() else ""
        if wanted and GATE.is_full(person):
            return HttpResponse(str(Busy()), status=503, content_type="text/plain", headers={"Retry-After": RETRY_S})
        with GATE.held(person, wanted) as enter:
            request.enter_gate = enter
            with within(_budget_of(request, enter)):
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
        return refused_work(request, error) if isinstance(error, EmberError) else None
