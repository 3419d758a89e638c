"""The page on which a kitchen begins."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters

from kitchen.accounts.signing_in import BACKEND

from . import actions
from .forms import SetupForm


@sensitive_post_parameters()
@never_cache
@login_not_required
def begin(request: HttpRequest, secret: str) -> HttpResponse:
    """Set up the first kitchen and sign its chef in. Looking at the page does not use the address up."""
    if not actions.is_open(secret):
        return render(request, "setup/over.html", status=404)
    form = SetupForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            chef = actions.create_first_kitchen(form.wanted())
        except actions.AlreadySetUpError:
            return render(request, "setup/over.html", status=409)
        login(request, chef, backend=BACKEND)
        messages.success(request, f"{form.cleaned_data['name']} is set up.")
        return redirect("home")
    status = 422 if form.errors else 200
    return render(request, "setup/begin.html", {"form": form}, status=status)
