"""Choosing a password: by a link, or one's own anew."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import PasswordChangeForm, SetPasswordForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters

from kitchen.web import KitchenRequest

from . import actions
from .forms import PinForm
from .models import PasswordLink
from .signing_in import BACKEND


@sensitive_post_parameters()
@never_cache
@login_not_required
def choose(request: HttpRequest, secret: str) -> HttpResponse:
    """Choose a password by a link, and be signed in. Looking at the page does not use the link up."""
    link = PasswordLink.find(secret)
    if link is None:
        return render(request, "accounts/link_over.html", status=404)
    form = SetPasswordForm(link.person, request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = actions.use_password_link(secret, form.cleaned_data["new_password1"])
        if person is None:
            return render(request, "accounts/link_over.html", status=404)
        login(request, person, backend=BACKEND)
        return redirect("home")
    status = 422 if form.errors else 200
    return render(request, "accounts/choose_password.html", {"form": form, "person": link.person}, status=status)


@sensitive_post_parameters()
@never_cache
def change(request: KitchenRequest) -> HttpResponse:
    """Change one's own password; other devices are signed out."""
    form = PasswordChangeForm(request.user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        was_first = request.user.must_change_password
        actions.set_password(request.user, form.cleaned_data["new_password1"])
        update_session_auth_hash(request, request.user)
        messages.success(request, "Password changed. Your other devices are signed out.")
        return redirect("home" if was_first else "accounts:you")
    return render(request, "accounts/password.html", {"form": form}, status=422 if form.errors else 200)


@sensitive_post_parameters()
@never_cache
def choose_pin(request: KitchenRequest) -> HttpResponse:
    """Set one's PIN for shared tablets."""
    form = PinForm(request.user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        actions.set_pin(request.user, form.cleaned_data["pin"])
        messages.success(request, "PIN saved.")
        return redirect("accounts:you")
    return render(request, "accounts/choose_pin.html", {"form": form}, status=422 if form.errors else 200)
