"""Forms that Today sends lead back to Today."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.urls import reverse

FIELD = "from_today"


class BackToTodayMiddleware:
    """Redirects to Today where another page would follow a form of Today; a page with an error stays as it is."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """The response, leading back if the form came from Today."""
        response = self.get_response(request)
        if request.method == "POST" and isinstance(response, HttpResponseRedirect) and FIELD in request.POST:
            response.headers["Location"] = reverse("home")
        return response
