"""The people of the kitchen: adding them, their roles, their password links, leaving and coming back."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from kitchen.web import KitchenRequest, day_in

from . import actions
from .access import chef_required
from .forms import AskForm, NewPersonForm
from .models import LINK_VALID_FOR, Membership

INSPECTED_FOR = dt.timedelta(days=7)


def _today(request: KitchenRequest) -> dt.date:
    return timezone.now().astimezone(request.kitchen.zone).date()


def people_page(request: KitchenRequest, status: int = 200, **more: Any) -> HttpResponse:
    """Render the page; `more` holds a form with errors, or a link that is shown once."""
    rows = request.kitchen.memberships.select_related("person").order_by("person__name")
    context = {
        "people": [row for row in rows if row.left_at is None],
        "today": _today(request),
        "people_gone": [row for row in rows if row.left_at is not None],
        "new_person": NewPersonForm(),
        "ask": AskForm(prefix="ask"),
        "asked": request.kitchen.invitations.filter(answered_at=None),
        "roles": Membership.Role.choices,
        "link_days": LINK_VALID_FOR.days,
        **more,
    }
    return render(request, "accounts/people.html", context, status=status)


def _with_link(request: KitchenRequest, membership: Membership, secret: str) -> HttpResponse:
    """The page with a link that is shown once."""
    address = request.build_absolute_uri(reverse("accounts:choose-password", args=[secret]))
    return people_page(request, link={"person": membership.person, "address": address})


def _current(request: KitchenRequest, pk: int) -> Membership:
    """The membership with this number. Raises Http404 if it ended or is another kitchen's."""
    rows = Membership.objects.select_related("person", "kitchen")
    return get_object_or_404(rows, pk=pk, kitchen=request.kitchen, left_at=None)


def people(request: KitchenRequest) -> HttpResponse:
    """Who works here; a chef adds a person, with a first password or a link to choose one."""
    if request.method != "POST":
        return people_page(request)
    if not request.membership.is_chef:
        raise PermissionDenied("Only a chef of this kitchen can do this.")
    form = NewPersonForm(request.POST)
    if not form.is_valid():
        return people_page(request, 422, new_person=form)
    data = form.cleaned_data
    person = actions.add_person(
        request.kitchen, data["username"], data["name"], data["password"] or None, data["role"], is_first_password=True,
        by=request.user, last_day=data["last_day"],
    )  # fmt: skip
    if not data["password"]:
        membership = person.memberships.get()
        return _with_link(request, membership, actions.make_password_link(membership, request.user))
    messages.success(request, f"{person} can sign in now, and will choose a new password then.")
    return redirect("accounts:people")


@require_POST
@chef_required
def ask(request: KitchenRequest) -> HttpResponse:
    """Ask somebody who signs in already to work here, too; they answer under You."""
    form = AskForm(request.POST, prefix="ask")
    if not form.is_valid():
        return people_page(request, 422, ask=form)
    data = form.cleaned_data
    actions.ask_in(request.kitchen, data["username"], data["role"], data["last_day"], request.user)
    messages.success(request, f"Whoever signs in as {data['username']} is asked on their page You.")
    return redirect("accounts:people")


@require_POST
@chef_required
def ask_no_more(request: KitchenRequest, pk: int) -> HttpResponse:
    """Take a question back."""
    get_object_or_404(request.kitchen.invitations.filter(answered_at=None), pk=pk).delete()
    return redirect("accounts:people")


@require_POST
@chef_required
def change_role(request: KitchenRequest, pk: int) -> HttpResponse:
    """Change a person's role; an inspector's last day is in a week, unless one is sent."""
    membership = _current(request, pk)
    role = request.POST.get("role")
    if role in Membership.Role.values:
        last_day = None
        if role == Membership.Role.INSPECTOR:
            last_day = day_in(request.POST.get("last_day")) or _today(request) + INSPECTED_FOR
        try:
            actions.set_role(membership, role, last_day)
        except actions.LastChefError as error:
            messages.error(request, str(error))
    return redirect("accounts:people")


@require_POST
@chef_required
def make_link(request: KitchenRequest, pk: int) -> HttpResponse:
    """Make a link by which a person chooses a new password; it is shown once."""
    membership = _current(request, pk)
    try:
        secret = actions.make_password_link(membership, request.user)
    except actions.OtherKitchenError as error:
        messages.error(request, str(error))
        return redirect("accounts:people")
    return _with_link(request, membership, secret)


@require_POST
@chef_required
def leave(request: KitchenRequest, pk: int) -> HttpResponse:
    """Let a person leave the kitchen, with an undo."""
    membership = _current(request, pk)
    try:
        actions.end_membership(membership)
    except actions.LastChefError as error:
        messages.error(request, str(error))
    else:
        undo = reverse("accounts:come-back", args=[membership.pk])
        words = f"{membership.person} can no longer sign in here. Their records stay."
        messages.success(request, words, extra_tags="" if membership.person == request.user else undo)
    return redirect("accounts:people")


@require_POST
@chef_required
def come_back(request: KitchenRequest, pk: int) -> HttpResponse:
    """Let a person who left come back."""
    membership = get_object_or_404(Membership, pk=pk, kitchen=request.kitchen)
    actions.resume_membership(membership)
    messages.success(request, f"{membership.person} can sign in again.")
    return redirect("accounts:people")
