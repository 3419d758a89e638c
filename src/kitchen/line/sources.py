"""Next actions from elsewhere than the cooks: other apps register theirs."""

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
        """Seconds until then; negative when it is past."""

    @property
    def template(self) -> str:
        """What draws it, as `h`."""


Source = Callable[[Kitchen, dt.datetime], Sequence[OtherAction]]
_sources: list[Source] = []


def add_source(source: Source) -> None:
    """From now on the board asks this for actions too."""
    if source not in _sources:
        _sources.append(source)


def other_actions(kitchen: Kitchen, now: dt.datetime) -> list[OtherAction]:
    """The actions of all of them."""
    return [action for source in _sources for action in source(kitchen, now)]
