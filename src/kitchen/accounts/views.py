"""One's own settings and the people of the kitchen."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from ember.judge.standards import standards
from kitchen.web import KitchenRequest

from . import actions
from .access import chef_required
from .forms import NewPersonForm, OwnSettingsForm
from .models import KEPT_CHOICES, Membership


def more_page(
    request: KitchenRequest,
    own: OwnSettingsForm | None = None,
    new_person: NewPersonForm | None = None,
    status: int = 200,
) -> HttpResponse:
    """Render the page under More."""
    context = {
        "form": own or OwnSettingsForm(instance=request.user),
        "people": request.kitchen.memberships.select_related("person").order_by("person__name"),
        "new_person": new_person or NewPersonForm(),
        "roles": Membership.Role.choices,
        "kept_choices": KEPT_CHOICES,
        "standard": standards().get(request.kitchen.standard),
    }
    return render(request, "accounts/more.html", context, status=status)


def more(request: KitchenRequest) -> HttpResponse:
    """The person's own settings; for a chef also people and devices."""
    form = OwnSettingsForm(request.POST or None, instance=request.user)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Kept.")
        return redirect("accounts:more")
    return more_page(request, own=form)


@require_POST
@chef_required
def people(request: KitchenRequest) -> HttpResponse:
    """Add a person."""
    form = NewPersonForm(request.POST)
    if not form.is_valid():
        return more_page(request, new_person=form, status=422)
    data = form.cleaned_data
    actions.add_person(request.kitchen, data["username"], data["name"], data["password"], data["role"])
    messages.success(request, f"{data['name']} can sign in now.")
    return redirect("accounts:more")


@require_POST
@chef_required
def change_role(request: KitchenRequest, pk: int) -> HttpResponse:
    """Change a person's role between cook and chef."""
    membership = get_object_or_404(Membership, pk=pk, kitchen=request.kitchen)
    role = request.POST.get("role")
    if role in Membership.Role.values:
        try:
            actions.set_role(membership, role)
        except actions.LastChefError as error:
            messages.error(request, str(error))
    return redirect("accounts:more")
