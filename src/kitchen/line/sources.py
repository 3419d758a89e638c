"""Where the line's next hands come from beside the cooks: other parts of the kitchen tell theirs."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from typing import Protocol

from kitchen.accounts.models import Kitchen


class OtherHand(Protocol):
    """A hand with a template of its own."""

    @property
    def due_at(self) -> dt.datetime:
        """When it is due."""

    @property
    def in_s(self) -> float:
        """Seconds until then; negative when it is past."""

    @property
    def template(self) -> str:
        """What draws it, as `h`."""


Source = Callable[[Kitchen, dt.datetime], Sequence[OtherHand]]
_sources: list[Source] = []


def add_source(source: Source) -> None:
    """From now on the board asks this for hands too."""
    if source not in _sources:
        _sources.append(source)


def other_hands(kitchen: Kitchen, now: dt.datetime) -> list[OtherHand]:
    """What all of them tell."""
    return [hand for source in _sources for hand in source(kitchen, now)]
