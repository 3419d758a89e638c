"""What the views of every desk share: state in the address, fragments, codes of labels."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import urlencode

import segno
from django.http import HttpResponse
from django.shortcuts import render
from django.utils.safestring import SafeString, mark_safe

from kitchen.web import KitchenRequest

NOT_IN_ADDRESS = ("csrfmiddlewaretoken", "token", "set", "where")


def is_fragment(request: KitchenRequest) -> bool:
    """Whether the request is for the desk's fragment alone."""
    return bool(request.htmx and not request.htmx.boosted)


def address(path: str, data: Mapping[str, Any]) -> str:
    """The address of a desk for the values of its fields."""
    query = {k: ("on" if v is True else v) for k, v in data.items() if v not in (None, False, "")}
    return f"{path}?{urlencode(query)}"


def fragment(
    request: KitchenRequest, template: str, context: dict[str, Any], path: str, typed: Mapping[str, Any] | None
) -> HttpResponse:
    """Render the desk alone; the browser's address follows the input."""
    response = render(request, template, context)
    if typed is not None:
        response.headers["HX-Replace-Url"] = address(path, {k: v for k, v in typed.items() if k not in NOT_IN_ADDRESS})
    return response


def code_of(request: KitchenRequest, path: str) -> SafeString:
    """A label's code that opens a page of this server."""
    code = segno.make(request.build_absolute_uri(path), error="m").svg_inline(scale=4, border=1, dark="#000000")
    return mark_safe(code)  # noqa: S308
