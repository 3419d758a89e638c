"""Heavy calculations within requests: what one may cost, and how many run at once. A tap never waits for a plan."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.http import HttpRequest, HttpResponse

from ember.errors import EmberError
from ember.heat.budget import Budget, within

REQUEST_S, REQUEST_STEPS = 2.5, 300_000
HEAVY_S = 0.25  # what takes longer has to wait for a place
AT_ONCE, WAITING, A_PERSON = 2, 2, 2
PATIENCE_S = 4.0
RETRY_S = "2"


class Busy(EmberError):
    """So much is being calculated that one more has to come back."""

    code = "busy"

    def __init__(self) -> None:
        super().__init__("Other plans are being calculated just now. Try again in a moment.")


class Gate:
    """Places for heavy work in one process, and a short bench to wait on; who finds both full is sent away."""

    def __init__(self, at_once: int = AT_ONCE, waiting: int = WAITING, a_person: int = A_PERSON) -> None:
        self.free = threading.BoundedSemaphore(at_once)
        self.most, self.a_person = at_once + waiting, a_person
        self.inside: Counter[Any] = Counter()
        self.lock = threading.Lock()

    @contextmanager
    def held(self, person: Any) -> Iterator[Callable[[], None]]:
        """What to call once work turns out to be heavy; the place is given back at the end. That call raises Busy."""
        has: list[str] = []

        def enter() -> None:
            with self.lock:
                if self.inside.total() >= self.most or self.inside[person] >= self.a_person:
                    raise Busy
                self.inside[person] += 1
            has.append("in")
            if not self.free.acquire(timeout=PATIENCE_S):
                raise Busy
            has.append("place")

        try:
            yield enter
        finally:
            if "place" in has:
                self.free.release()
            if "in" in has:
                with self.lock:
                    self.inside[person] -= 1


GATE = Gate()


class WorkMiddleware:
    """Holds what a request calculates to its budget."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The answer, within the budget."""
        person = request.user.pk or "nobody"
        with GATE.held(person) as enter:
            budget = Budget(REQUEST_STEPS, REQUEST_S, HEAVY_S, enter)
            with within(budget):
                return self.get_response(request)

    def process_exception(self, request: Any, error: Exception) -> HttpResponse | None:
        """A page or problem for what no view turned into words of its own."""
        from kitchen.errors import refused_work

        return refused_work(request, error) if isinstance(error, EmberError) else None
