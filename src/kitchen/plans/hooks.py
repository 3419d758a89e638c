"""Hooks for apps above plans: the way to the line, and past cooks.

The line and the log know plans; plans do not know them. Each registers when the applications are ready.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from typing import Any

from django.http import HttpResponse

from kitchen.accounts.models import Kitchen
from kitchen.web import KitchenRequest

from .models import Plan

SendToLine = Callable[[KitchenRequest, Plan, dt.datetime | None], HttpResponse]
Settle = Callable[[Kitchen, dict[str, Any]], None]
PastCooks = Callable[[Plan, int], tuple[Sequence[Any], int]]

_send: list[SendToLine] = []
_settle: list[Settle] = []
_past: list[PastCooks] = []


def register(
    send_to_line: SendToLine | None = None, past_cooks: PastCooks | None = None, settle: Settle | None = None
) -> None:
    """Register functions for the plans' pages; a later one replaces an earlier."""
    if send_to_line is not None:
        _send[:] = [send_to_line]
    if settle is not None:
        _settle[:] = [settle]
    if past_cooks is not None:
        _past[:] = [past_cooks]


def send_to_line(request: KitchenRequest, plan: Plan, due_at: dt.datetime | None) -> HttpResponse:
    """Send a saved plan to the line; returns the response to go on with."""
    return _send[0](request, plan, due_at)


def settle_for_line(kitchen: Kitchen, document: dict[str, Any]) -> None:
    """Calculate what sending a plan to the line will ask for."""
    _settle[0](kitchen, document)


def past_cooks(plan: Plan, most: int) -> tuple[Sequence[Any], int]:
    """The newest finished cooks of a plan as rows of the log, at most that many; and how many there are."""
    return _past[0](plan, most)
