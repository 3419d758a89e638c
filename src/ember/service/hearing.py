"""The listener of a planning run: it hears the progress and can stop it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Protocol


class Stopped(Exception):
    """Raised when planning was stopped before it had an answer."""


class Hearing(Protocol):
    """A listener."""

    def say(self, words: str) -> None:
        """Report the current step."""

    def is_stopped(self) -> bool:
        """Whether to stop; asked several times a second, from another thread too."""


_hearing: ContextVar[Hearing | None] = ContextVar("hearing", default=None)


@contextmanager
def heard_by(hearing: Hearing | None) -> Iterator[None]:
    """Context manager: planning inside is heard by `hearing`."""
    token = _hearing.set(hearing)
    try:
        yield
    finally:
        _hearing.reset(token)


def hearing() -> Hearing | None:
    """The present listener, if any."""
    return _hearing.get()


def say(words: str) -> None:
    """Report the current step to the listener; raises Stopped if it asked to stop."""
    who = _hearing.get()
    if who is None:
        return
    if who.is_stopped():
        raise Stopped
    who.say(words)
