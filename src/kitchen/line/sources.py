"""Next actions from other apps, which register their sources."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from typing import Protocol

from kitchen.accounts.models import Kitchen


class OtherAction(Protocol):
    """A next action with a template of its own."""

    @property
    def due_at(self) -> dt.datetime:
        """When it is due."""

    @property
    def in_s(self) -> float:
        """Seconds until then; negative if it is overdue."""

    @property
    def template(self) -> str:
        """The template that renders it as `action`."""


Source = Callable[[Kitchen, dt.datetime], Sequence[OtherAction]]
_sources: list[Source] = []


def add_source(source: Source) -> None:
    """Register a source of next actions for the board."""
    if source not in _sources:
        _sources.append(source)


def other_actions(kitchen: Kitchen, now: dt.datetime) -> list[OtherAction]:
    """The next actions of all sources."""
    return [action for source in _sources for action in source(kitchen, now)]
