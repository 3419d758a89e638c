"""Sets the signed-in person's kitchen on every request, and refuses what a role or a locked tablet does not allow."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib.auth import logout
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from ember.quantities import Units
from kitchen.units.dates import dates_in

from . import tablets
from .actions import invitations_of
from .signing_in import refuse_locked

SESSION_KEY = "kitchen"
DEMO_PACES = (("0", "Pause"), ("1", "1×"), ("10", "10×"), ("60", "60×"))
ANSWERS = "/you/asked/"  # open to a person whom a first kitchen asks in
WITH_A_FIRST_PASSWORD = ("accounts:password", "accounts:sign-out")
WHO_ONLY_READS_SENDS = (
    "accounts:you",
    "accounts:answer",
    "accounts:switch",
    "accounts:password",
    "accounts:sign-out",
    "accounts:lock",
)


class KitchenMiddleware:
    """Sets `request.membership` and `request.kitchen`, and the time zone of the kitchen."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Any) -> HttpResponse:
        """The view's response, or a page for a person who belongs to no kitchen."""
        request.membership = request.kitchen = None
        request.tablet, request.is_locked = tablets.tablet_of(request), False
        if not request.user.is_authenticated:
            return self.get_response(request)
        memberships = request.user.current_memberships  # the sign-in backend fetched them with their kitchens
        wanted = request.session.get(SESSION_KEY)
        chosen = next((m for m in memberships if m.kitchen_id == wanted), memberships[0] if memberships else None)
        if chosen is None:
            if request.resolver_match is None and request.path == "/sign-out/":
                return self.get_response(request)
            if request.path.startswith(ANSWERS) and request.method == "POST":
                return self.get_response(request)
            return render(
                request, "accounts/no_kitchen.html", {"invitations": invitations_of(request.user)}, status=403
            )
        request.membership, request.kitchen = chosen, chosen.kitchen
        if request.tablet is not None and request.tablet.kitchen_id != chosen.kitchen_id:
            request.tablet = None  # another kitchen's
        if request.tablet is None and tablets.TOUCHED in request.session:
            logout(request)  # begun on a shared tablet: without its cookie the lock would not hold
            request.membership = request.kitchen = None
            return self.get_response(request)
        request.is_locked = tablets.is_locked(request)
        with timezone.override(chosen.kitchen.zone), dates_in(chosen.kitchen.date_language):
            return self.get_response(request)

    def process_view(self, request: Any, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        """What is done instead of the view: a locked tablet asks for a name and PIN, and a person whose password
        somebody else chose for a new one. Raises PermissionDenied where a person who only reads sends something.
        """
        is_open = not getattr(view, "login_required", True)  # the service worker and the like
        if request.kitchen is None or is_open:
            return None
        name = request.resolver_match.view_name
        if (
            request.is_locked
            and name not in tablets.OPEN
            and not (request.method == "GET" and name in tablets.READABLE)
        ):
            return refuse_locked(request)
        if request.user.must_change_password and name not in WITH_A_FIRST_PASSWORD:
            return redirect("accounts:password")
        is_write = request.method not in ("GET", "HEAD", "OPTIONS") and not getattr(view, "computes", False)
        if request.membership.only_reads and is_write and name not in WHO_ONLY_READS_SENDS:
            raise PermissionDenied("An inspector reads everything and changes nothing.")
        return None


def kitchen(request: HttpRequest) -> dict[str, Any]:
    """Template context: the request's kitchen, its clock and the person's units."""
    here = getattr(request, "kitchen", None)
    person = getattr(request, "user", None)
    signed_in = person is not None and bool(person.is_authenticated)
    return {
        "kitchen": here,
        "tablet": getattr(request, "tablet", None),
        "is_locked": getattr(request, "is_locked", False),
        "names_here": lambda: tablets.names_of(request.tablet),  # type: ignore[attr-defined]
        "membership": getattr(request, "membership", None),
        "demo_paces": DEMO_PACES,
        "kitchen_now": here.now() if here else None,
        "units": person.units if person is not None and signed_in else Units(),
        "theme": person.theme if person is not None and signed_in else "day",
    }
