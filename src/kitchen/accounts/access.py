"""Who may do what: decorators for views."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http.response import HttpResponseBase

from kitchen.web import KitchenRequest

View = Callable[..., HttpResponseBase]


def chef_required(view: View) -> View:
    """Let only a chef of this kitchen in; anybody else gets a page that says so."""

    @wraps(view)
    def guarded(request: KitchenRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if request.membership is None or not request.membership.is_chef:
            raise PermissionDenied("Only a chef of this kitchen can do this.")
        return view(request, *args, **kwargs)

    return guarded
