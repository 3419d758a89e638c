"""What a view works out before its transaction begins, handed on with the request."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from kitchen.errors import Busy
from kitchen.web import KitchenRequest

T = TypeVar("T")
NAME = "prepared"


def prepare(request: KitchenRequest, work: Callable[[], Any]) -> None:
    """Work something out for the view, at a place of its own among heavy work. That there is none is said by the view:
    before it nobody makes a page of it.
    """
    try:
        request.enter_gate()  # type: ignore[attr-defined]
        value = work()
    except Busy as busy:
        value = busy
    setattr(request, NAME, value)


def prepared(request: KitchenRequest, kind: type[T]) -> T:
    """What was worked out. Raises Busy."""
    value: T | Busy = getattr(request, NAME)
    if isinstance(value, Busy):
        raise value
    return value
