"""What a view works out before its transaction begins, handed on with the request."""

from __future__ import annotations

from typing import Any, TypeVar

from kitchen.web import KitchenRequest

T = TypeVar("T")
NAME = "prepared"


def prepare(request: KitchenRequest, value: Any) -> None:
    """Hand a value on to the view."""
    setattr(request, NAME, value)


def prepared(request: KitchenRequest, kind: type[T]) -> T:
    """The value that was handed on."""
    value: T = getattr(request, NAME)
    return value
