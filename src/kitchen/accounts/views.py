"""One's own settings and the kitchen's details."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from ember.judge.standards import standards
from kitchen.web import KitchenRequest

from .access import chef_required
from .forms import KitchenForm, NewPersonForm, OwnSettingsForm
from .models import KEPT_CHOICES, LINK_VALID_FOR, Membership


def more_page(request: KitchenRequest, status: int = 200, **more: Any) -> HttpResponse:
    """Render the page under More; `more` holds a form with errors, or a link that is shown once."""
    people = request.kitchen.memberships.select_related("person").order_by("person__name")
    context = {
        "form": OwnSettingsForm(instance=request.user),
        "people": [row for row in people if row.left_at is None],
        "people_gone": [row for row in people if row.left_at is not None],
        "new_person": NewPersonForm(),
        "kitchen_form": KitchenForm(instance=request.kitchen),
        "roles": Membership.Role.choices,
        "kept_choices": KEPT_CHOICES,
        "link_days": LINK_VALID_FOR.days,
        "standard": standards().get(request.kitchen.standard),
        **more,
    }
    return render(request, "accounts/more.html", context, status=status)


def more(request: KitchenRequest) -> HttpResponse:
    """The person's own settings; for a chef also the kitchen and its people."""
    form = OwnSettingsForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved.")
        return redirect("accounts:more")
    return more_page(request, form=form)


@require_POST
@chef_required
def change_kitchen(request: KitchenRequest) -> HttpResponse:
    """Change the kitchen's name, place and time zone."""
    form = KitchenForm(request.POST, instance=request.kitchen)
    if not form.is_valid():
        request.kitchen.refresh_from_db()  # the rail goes on showing the name that holds
        return more_page(request, 422, kitchen_form=form)
    form.save()
    messages.success(request, "Saved.")
    return redirect("accounts:more")
