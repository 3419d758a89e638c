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

PLAN_S, PLAN_STEPS = 2.0, 300_000  # of a request about one plan, whatever somebody made of it
PLANS, BENCH = "/plans/", "/plans/bench/"
HEAVY_S = 0.25  # what takes longer has to wait for a place
AT_ONCE, WAITING, A_PERSON = 1, 6, 5
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
        self.host = [folder / f"heavy-{number}.lock" for number in range(host)]
        self.free = threading.BoundedSemaphore(at_once)
        self.most, self.a_person = at_once + waiting, a_person
        self.inside: Counter[Any] = Counter()
        self.newest: dict[tuple[Any, str], object] = {}
        self.lock = threading.Lock()

    def is_full(self, person: Any) -> bool:
        """Whether one more would be sent away just now."""
        with self.lock:
            return self.inside.total() >= self.most or self.inside[person] >= self.a_person

    @contextmanager
    def held(self, person: Any, wanted: str = "") -> Iterator[Callable[[], None]]:
        """What to call once work turns out to be heavy; the place is given back at the end. That call raises Busy.
        `wanted`: what is asked for, if a newer request for it makes this one needless.
        """
        me, key = object(), (person, wanted)
        with self.lock:
            self.newest[key] = me
        has: list[IO[bytes]] = []
        is_in = False

        def enter() -> None:
            nonlocal is_in
            if is_in:
                return
            if self.is_full(person):
                raise Busy
            with self.lock:
                self.inside[person] += 1
            is_in = True
            has.append(self._place(lambda: not wanted or self.newest.get(key) is me))

        try:
            yield enter
        finally:
            for place in has:
                place.close()
                self.free.release()
            with self.lock:
                self.inside[person] -= int(is_in)
                if self.newest.get(key) is me:
                    del self.newest[key]

    def _place(self, is_wanted: Callable[[], bool]) -> IO[bytes]:
        """A place of this process and one of the host, as soon as both are free. Raises Busy."""
        deadline = time.monotonic() + PATIENCE_S
        while is_wanted() and time.monotonic() < deadline:
            if self.free.acquire(blocking=False):
                for path in self.host:
                    file = path.open("ab")
                    try:
                        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    except OSError:
                        file.close()
                    else:
                        return file
                self.free.release()
            time.sleep(LOOK_EVERY_S)
        raise Busy


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
        if request.method == "POST" and request.path in heavy_paths() and GATE.is_full(person):
            return HttpResponse(str(Busy()), status=503, content_type="text/plain", headers={"Retry-After": RETRY_S})
        wanted = request.path if request.method == "POST" and request.path in heavy_paths() else ""
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
        from kitchen.errors import refused_work

        return refused_work(request, error) if isinstance(error, EmberError) else None
