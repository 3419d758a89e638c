"""The screens of a shared tablet: its names, the PIN of one of them, locking, and enrolling a device."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_POST
from django_htmx.http import trigger_client_event

from kitchen.web import KitchenRequest, clean_text, parse_count

from . import tablets
from .access import chef_required
from .confirming import NotConfirmedError, check_pin, confirm_person
from .models import IDLE_CHOICES, Membership, Tablet
from .signing_in import BACKEND, held


@never_cache
@login_not_required
def names(request: KitchenRequest) -> HttpResponse:
    """Who can sign in on this tablet; a page, or the list for the dialog over one."""
    if request.tablet is None:
        return redirect("home" if request.user.is_authenticated else "accounts:sign-in")
    context: dict[str, Any] = {"names": tablets.names_of(request.tablet), "held": ""}
    if request.htmx:
        return render(request, "accounts/_names_dialog.html", context)
    return render(request, "accounts/names.html", context)


@sensitive_post_parameters()
@never_cache
@login_not_required
def pin(request: KitchenRequest, pk: int) -> HttpResponse:
    """Ask one person for their PIN, and sign them in."""
    if request.tablet is None:
        raise Http404("No chef enrolled this device as a shared tablet.")
    there = {row.pk: row for row in tablets.names_of(request.tablet)}
    if pk not in there:
        raise Http404("Nobody of this kitchen.")
    membership, problem = there[pk], ""
    if "pin" in request.POST:
        try:
            check_pin(request.tablet, membership.person, request.POST.get("pin", ""))
        except NotConfirmedError as error:
            problem = str(error)
        else:
            return _signed_in(request, membership)
    context = {"membership_asked": membership, "problem": problem, "held": request.POST.get("held", "")}
    template = "accounts/_pin.html" if request.htmx else "accounts/pin.html"
    return render(request, template, context, status=422 if problem else 200)


def _signed_in(request: KitchenRequest, membership: Membership) -> HttpResponse:
    """Sign a person in on the tablet, and go on where it was locked."""
    back = str(request.session.get(tablets.BACK, ""))
    login(request, membership.person, backend=BACKEND)
    tablets.unlock(request)
    if request.htmx:
        return trigger_client_event(HttpResponse(status=204), "signed-in", {"person": membership.person.pk})
    sent = held(request.POST.get("held", ""))
    if sent:
        return render(request, "accounts/held.html", {"sent": sent})
    return redirect(back or "line:board")


@require_POST
def lock(request: KitchenRequest) -> HttpResponse:
    """Lock the tablet, or only note that somebody touched it (`touched`)."""
    if request.tablet is None:
        raise Http404("No chef enrolled this device as a shared tablet.")
    if "touched" in request.POST:
        return HttpResponse(status=204)  # the middleware noted it
    back = request.POST.get("back", "")
    is_own = url_has_allowed_host_and_scheme(back, {request.get_host()}) and back.startswith("/")
    tablets.lock(request, back if is_own else "")
    return redirect("line:board" if request.POST.get("idle") else "accounts:names")


@sensitive_post_parameters()
@require_POST
@chef_required
def enrol(request: KitchenRequest) -> HttpResponse:
    """Make this device a shared tablet."""
    name = clean_text(request.POST.get("name"), 60)
    minutes = parse_count(request.POST.get("idle")) or 0
    problem = ""
    if not name:
        problem = "Enter a name for the tablet."
    elif minutes not in dict(IDLE_CHOICES):
        problem = "Choose after how long it goes back to the names."
    else:
        try:
            confirm_person(request)
        except NotConfirmedError as error:
            problem = str(error)
    if problem:
        messages.error(request, problem)
        return redirect("kit:devices")
    tablet, secret = tablets.enrol(request.kitchen, name, minutes, request.user)
    messages.success(request, f"{tablet} is a shared tablet now. People sign in on it with their name and PIN.")
    response = redirect("kit:devices")
    tablets.put_cookie(response, secret)
    return response


@require_POST
@chef_required
def revoke(request: KitchenRequest, pk: int) -> HttpResponse:
    """End a tablet's enrolment: from the next request on it is a device like any other."""
    tablet = get_object_or_404(Tablet, pk=pk, kitchen=request.kitchen, revoked_at=None)
    tablet.revoked_at = timezone.now()
    tablet.save(update_fields=["revoked_at"])
    messages.success(request, f"{tablet} is no longer a shared tablet.")
    return redirect("kit:devices")
