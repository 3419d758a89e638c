"""What a signed-in person was shown stays on no shared screen: in no cache, and not behind the back button."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse

OUT = ("/sign-out/",)


class PrivacyMiddleware:
    """Keeps the answers to signed-in people, and to devices, out of every cache; signing out clears what was kept."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The answer, with its headers."""
        response = self.get_response(request)
        is_personal = getattr(request, "membership", None) is not None or request.path.startswith("/api/")
        if is_personal and not response.has_header("Cache-Control"):
            response.headers["Cache-Control"] = "no-store, private"
        if request.path in OUT and request.method == "POST":
            response.headers["Clear-Site-Data"] = '"cache"'
            response.headers["Cache-Control"] = "no-store, private"
        return response
