"""Photographs of a cook's cut face, which their own app registers: to be shown, and as they stand in its record."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from .models import Cook

Shown = Callable[[Cook], Sequence[Any]]
Recorded = Callable[[Cook], list[dict[str, Any]]]

_shown: list[Shown] = []
_recorded: list[Recorded] = []


def register(shown: Shown, recorded: Recorded) -> None:
    """Register who knows the photographs; a later one replaces an earlier."""
    _shown[:] = [shown]
    _recorded[:] = [recorded]


def faces_shown(cook: Cook) -> Sequence[Any]:
    """The photographs of a cook for a page, for `faces/_of_cook.html`."""
    return [face for shown in _shown for face in shown(cook)]


def faces_recorded(cook: Cook) -> list[dict[str, Any]]:
    """The photographs of a cook for its record: digest, when, by whom, what was measured."""
    return [row for recorded in _recorded for row in recorded(cook)]
