"""Who waits for a plan: told how far it is, and able to stop it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Protocol


class Stopped(Exception):
    """Planning was stopped before there was anything to answer with."""


class Hearing(Protocol):
    """Somebody who waits."""

    def say(self, words: str) -> None:
        """What is being looked for now."""

    def is_stopped(self) -> bool:
        """Whether to stop; asked several times a second, from another thread too."""


_hearing: ContextVar[Hearing | None] = ContextVar("hearing", default=None)


@contextmanager
def heard_by(hearing: Hearing | None) -> Iterator[None]:
    """All planning within is heard by `hearing`."""
    token = _hearing.set(hearing)
    try:
        yield
    finally:
        _hearing.reset(token)


def hearing() -> Hearing | None:
    """Who listens; None where nobody does."""
    return _hearing.get()


def say(words: str) -> None:
    """Tell who waits; raises Stopped where it was stopped meanwhile."""
    who = _hearing.get()
    if who is None:
        return
    if who.is_stopped():
        raise Stopped
    who.say(words)
