"""One's own settings and the kitchen's details."""

from __future__ import annotations

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from ember.judge.standards import standards
from kitchen.web import KitchenRequest

from . import actions
from .forms import KitchenForm, OwnSettingsForm
from .middleware import SESSION_KEY
from .models import KEPT_CHOICES, PHOTO_CHOICES, THINNED_CHOICES


def you(request: KitchenRequest) -> HttpResponse:
    """The person's own settings."""
    form = OwnSettingsForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved.")
        return redirect("accounts:you")
    context = {
        "form": form, "kitchens": request.user.current_memberships, "invitations": actions.invitations_of(request.user),
    }  # fmt: skip
    return render(request, "accounts/you.html", context, status=422 if form.errors else 200)


@require_POST
def answer(request: KitchenRequest, pk: int) -> HttpResponse:
    """Accept or decline to work in another kitchen."""
    invitation = get_object_or_404(actions.invitations_of(request.user), pk=pk)
    is_accepted = request.POST.get("answer") == "yes"
    actions.answer(invitation, request.user, is_accepted)
    if is_accepted:
        messages.success(request, f"You work in {invitation.kitchen}, too. Go there below.")
    return redirect("accounts:you")


@require_POST
def switch(request: KitchenRequest) -> HttpResponse:
    """Go on in another kitchen that the person belongs to; a shared tablet stays in its own."""
    chosen = next((m for m in request.user.current_memberships if str(m.pk) == request.POST.get("membership")), None)
    if chosen is None:
        raise PermissionDenied("You do not work in that kitchen.")
    if request.tablet is not None:
        raise PermissionDenied("This tablet belongs to one kitchen. Sign in on another device for the other.")
    request.session[SESSION_KEY] = chosen.kitchen_id
    messages.success(request, f"You are in {chosen.kitchen} now.")
    return redirect("home")


def kitchen_settings(request: KitchenRequest) -> HttpResponse:
    """The kitchen's name, place, time zone and standard; a chef changes them."""
    form = KitchenForm(request.POST or None, instance=request.kitchen)
    if request.method == "POST":
        if not request.membership.is_chef:
            raise PermissionDenied("Only a chef of this kitchen can do this.")
        if form.is_valid():
            form.save()
            messages.success(request, "Saved.")
            return redirect("accounts:kitchen")
        request.kitchen.refresh_from_db()  # the page goes on showing the name that holds
    context = {
        "kitchen_form": form,
        "kept_choices": KEPT_CHOICES,
        "thinned_choices": THINNED_CHOICES,
        "photo_choices": PHOTO_CHOICES,
        "standard": standards().get(request.kitchen.standard),
    }
    return render(request, "accounts/kitchen.html", context, status=422 if form.errors else 200)
