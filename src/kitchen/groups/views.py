"""A kitchen's group: beginning and joining one, its roles, what it shares."""

from __future__ import annotations

import uuid
from collections.abc import Callable

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kitchen.accounts.access import chef_required
from kitchen.accounts.models import Person
from kitchen.plans.access import plans_of
from kitchen.plans.models import Plan
from kitchen.web import KitchenRequest, clean_text, day_in, is_uuid, parse_count

from . import belonging, sharing
from .belonging import GroupError, group_of, role_of
from .models import JOIN_WITHIN, Group, GroupRole, JoinCode, Share


def group_page(request: KitchenRequest, status: int = 200, **more: object) -> HttpResponse:
    """Render the page; `more` holds a code that is shown once."""
    mine = group_of(request.kitchen)
    context: dict[str, object] = {"group": mine, **more}
    if mine is not None:
        role = role_of(request.user, mine, request.kitchen)
        context |= {
            "role": role,
            "kitchens": mine.kitchens,
            "news": sharing.news_for(request.kitchen),
            "shared": Share.objects.filter(group=mine).newest().select_related("kitchen", "by"),
            "join_days": JOIN_WITHIN.days,
        }
        if role is not None and role.is_chef:
            context |= {
                "roles": mine.roles.select_related("person"), "candidates": belonging.candidates(mine),
                "role_names": GroupRole.Role.choices, "plans": plans_of(request).order_by("name"),
            }  # fmt: skip
    return render(request, "groups/group.html", context, status=status)


def group(request: KitchenRequest) -> HttpResponse:
    """The kitchen's group, or how to begin or join one."""
    return group_page(request)


def _done(request: KitchenRequest, act: Callable[[], object], words: str) -> HttpResponse:
    """Carry an action out and go back to the page, which says what was done, or why not."""
    try:
        act()
    except GroupError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, words)
    return redirect("groups:group")


@require_POST
@chef_required
def begin(request: KitchenRequest) -> HttpResponse:
    """Begin a group with this kitchen."""
    name = clean_text(request.POST.get("name"), 80)
    return _done(request, lambda: belonging.begin_group(request.kitchen, request.user, name), f"{name} is a group now.")


@require_POST
@chef_required
def join(request: KitchenRequest) -> HttpResponse:
    """Join a group by its code."""
    code = clean_text(request.POST.get("code"), 80)
    return _done(
        request, lambda: belonging.join(request.kitchen, request.user, code),
        "This kitchen is in the group. Its group chefs and inspectors can read your records.",
    )  # fmt: skip


@require_POST
@chef_required
def leave(request: KitchenRequest) -> HttpResponse:
    """Leave the group."""
    return _done(
        request, lambda: belonging.leave(request.kitchen),
        "This kitchen left the group. Nobody reads its records from there any more.",
    )  # fmt: skip


def _group_as_chef(request: KitchenRequest) -> Group:
    """The kitchen's group, for its chef. Raises PermissionDenied for anybody else."""
    mine = group_of(request.kitchen)
    role = role_of(request.user, mine, request.kitchen) if mine else None
    if mine is None or role is None or not role.is_chef:
        raise PermissionDenied("Only a group chef can do this.")
    return mine


@require_POST
def make_code(request: KitchenRequest) -> HttpResponse:
    """Make a code by which another kitchen joins; it is shown once."""
    return group_page(request, code=JoinCode.make(_group_as_chef(request), request.user))


@require_POST
def give_role(request: KitchenRequest) -> HttpResponse:
    """Give a person of the group's kitchens a role."""
    mine = _group_as_chef(request)
    person = get_object_or_404(Person, pk=parse_count(request.POST.get("person")) or 0)
    role = request.POST.get("role", "")
    if role not in GroupRole.Role.values:
        raise Http404
    last_day = day_in(request.POST.get("last_day") or "")
    return _done(
        request, lambda: belonging.give_role(mine, person, role, last_day), f"{person} reads across the kitchens now."
    )


@require_POST
def end_role(request: KitchenRequest, pk: int) -> HttpResponse:
    """Take a role back."""
    role = get_object_or_404(GroupRole.objects.select_related("person", "group"), pk=pk, group=_group_as_chef(request))
    return _done(request, lambda: belonging.end_role(role), f"{role.person} no longer reads across the kitchens.")


@require_POST
@chef_required
def share(request: KitchenRequest) -> HttpResponse:
    """Share a plan of this kitchen, or its standard and house limits."""
    mine, subject = _group_as_chef(request), request.POST.get("subject", "")
    if subject == Share.RULES:
        return _done(
            request, lambda: sharing.share_rules(mine, request.kitchen, request.user), "The group is told of it."
        )
    plan: Plan = get_object_or_404(plans_of(request), pk=subject if is_uuid(subject) else uuid.UUID(int=0))
    return _done(request, lambda: sharing.share_plan(mine, plan, request.user), "The group is told of it.")


@require_POST
@chef_required
def withdraw(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Offer a shared version no longer."""
    row = get_object_or_404(Share.objects.filter(group=_group_as_chef(request)), pk=pk)
    return _done(request, lambda: sharing.withdraw(row), f"{row.name} is no longer offered. Who has it keeps it.")


@require_POST
@chef_required
def take(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Take a shared version over as this kitchen's own."""
    row = get_object_or_404(Share.objects.filter(group=group_of(request.kitchen), withdrawn_at=None), pk=pk)
    return _done(
        request, lambda: sharing.take_over(request.kitchen, row, request.user), f"{row} is this kitchen's own now."
    )
