"""Reports are read from a standby, where there is one: the line never waits for them.

A standby that applies before the primary acknowledges (synchronous_commit = remote_apply) shows all that was answered.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any

from django.db import connections
from django.http.response import HttpResponseBase

from kitchen.settings.databases import MAIN, STANDBY

_reads = ContextVar("reads", default=MAIN)


class Router:
    """Django's router: where the current code reads. Writes go to the primary."""

    def db_for_read(self, model: type, **hints: Any) -> str:
        """The connection by which a model is read."""
        return _reads.get()

    def db_for_write(self, model: type, **hints: Any) -> str:
        """Writes go to the primary, also of what was read elsewhere."""
        return MAIN

    def allow_relation(self, one: object, other: object, **hints: Any) -> bool:
        """Both are one database."""
        return True


def reading() -> Any:
    """The connection by which the current code reads, for its own SQL."""
    return connections[_reads.get()]


@contextmanager
def on_standby() -> Iterator[None]:
    """Read from the standby within; from the primary where there is none."""
    token = _reads.set(STANDBY if STANDBY in connections.settings else MAIN)
    try:
        yield
    finally:
        _reads.reset(token)


def reads_standby(view: Callable[..., HttpResponseBase]) -> Callable[..., HttpResponseBase]:
    """Decorator of a view that only reads, and much."""

    @wraps(view)
    def reading_view(*args: Any, **kwargs: Any) -> HttpResponseBase:
        with on_standby():
            return view(*args, **kwargs)

    return reading_view
