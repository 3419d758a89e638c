"""Sets the signed-in person's kitchen on every request."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from ember.quantities import Units

SESSION_KEY = "kitchen"
WITH_A_FIRST_PASSWORD = ("accounts:password", "accounts:sign-out")


class KitchenMiddleware:
    """Sets `request.membership` and `request.kitchen`, and the time zone of the kitchen."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The view's response, or a page for a person who belongs to no kitchen."""
        request.membership = request.kitchen = None
        if not request.user.is_authenticated:
            return self.get_response(request)
        memberships = request.user.current_memberships  # the sign-in backend fetched them with their kitchens
        wanted = request.session.get(SESSION_KEY)
        chosen = next((m for m in memberships if m.kitchen_id == wanted), memberships[0] if memberships else None)
        if chosen is None:
            if request.resolver_match is None and request.path == "/sign-out/":
                return self.get_response(request)
            return render(request, "accounts/no_kitchen.html", status=403)
        request.membership, request.kitchen = chosen, chosen.kitchen
        with timezone.override(chosen.kitchen.zone):
            return self.get_response(request)

    def process_view(self, request: Any, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        """A redirect to the choice of an own password, while a person still has the one somebody gave them."""
        is_open = not getattr(view, "login_required", True)  # the service worker and the like
        if request.kitchen is None or not request.user.must_change_password or is_open:
            return None
        return None if request.resolver_match.view_name in WITH_A_FIRST_PASSWORD else redirect("accounts:password")


def kitchen(request: HttpRequest) -> dict[str, Any]:
    """Template context: the request's kitchen, its clock and the person's units."""
    here = getattr(request, "kitchen", None)
    person = getattr(request, "user", None)
    signed_in = person is not None and bool(person.is_authenticated)
    return {
        "kitchen": here,
        "membership": getattr(request, "membership", None),
        "kitchen_now": here.now() if here else None,
        "units": person.units if person is not None and signed_in else Units(),
        "theme": person.theme if person is not None and signed_in else "day",
    }
