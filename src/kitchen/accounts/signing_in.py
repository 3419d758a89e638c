"""Signing in, also in the middle of work: an expired session loses nothing that was on the screen or typed."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import login
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import LoginView
from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django_htmx.http import trigger_client_event

from kitchen.web import KitchenRequest

from . import lockouts, tablets
from .forms import SignInForm
from .models import Kitchen, Membership, Person

HELD_SALT = "held-form"
HELD_FOR_S = 12 * 3600  # a shift
NOT_HELD = ("csrfmiddlewaretoken", "password")  # nor any field whose name has one of these in it
PINS = ("pin", "pin_again")


def hold(request: HttpRequest) -> str:
    """Pack a posted form into a signed text, to be sent again after signing in. No files, passwords or PINs."""
    names = [name for name in request.POST if name not in PINS and not any(each in name for each in NOT_HELD)]
    fields = [[name, value] for name in names for value in request.POST.getlist(name)]
    sent = {"path": request.get_full_path(), "fields": fields, "files": sorted(request.FILES)}
    return signing.dumps(sent, salt=HELD_SALT, compress=True)


def held(text: str) -> dict[str, Any] | None:
    """The form that `hold` packed; None for any other text."""
    try:
        sent: dict[str, Any] = signing.loads(text, salt=HELD_SALT, max_age=HELD_FOR_S)
    except signing.BadSignature:
        return None
    return sent


def refuse_locked(request: Any) -> HttpResponse:
    """The names of a locked tablet, in place or as a page; what was posted is kept for whoever comes next."""
    context = {"names": tablets.names_of(request.tablet), "held": hold(request) if request.method == "POST" else ""}
    if request.htmx or request.headers.get("X-Kept-Tap"):
        return render(request, "accounts/_names_dialog.html", context, status=401)
    if request.method == "POST":
        return render(request, "accounts/names.html", context, status=401)
    request.session[tablets.BACK] = request.get_full_path()
    return redirect("accounts:names")


BACKEND = "kitchen.accounts.backends.MemberBackend"


def demo_people() -> list[Membership]:
    """Who can be tapped to look at the demonstration: nobody where a real kitchen is."""
    if Kitchen.objects.filter(is_demo=False).exists():
        return []
    rows = Membership.objects.filter(kitchen__is_demo=True, left_at=None).select_related("person", "kitchen")
    return [row for row in rows.order_by("pk") if row.is_current]


def demo_person(username: str) -> Person | None:
    """The person of the demonstration with this sign-in name."""
    return next((row.person for row in demo_people() if row.person.username == username), None) if username else None


class SignInMiddleware(LoginRequiredMiddleware):
    """Requires sign-in: 401 for a fragment, a page that keeps the input for a posted form, a redirect for the rest."""

    def handle_no_permission(self, request: Any, view_func: Any) -> Any:
        """The response to a request without a session."""
        if request.tablet is not None:
            return refuse_locked(request)
        if request.htmx or request.headers.get("X-Kept-Tap"):
            return render(request, "accounts/_sign_in.html", {"form": SignInForm(request)}, status=401)
        if request.method == "POST":
            context = {"form": SignInForm(request), "held": hold(request)}
            return render(request, "accounts/sign_in.html", context, status=401)
        return super().handle_no_permission(request, view_func)


class SignInView(LoginView):
    """The sign-in page, or a dialog over a page whose session ended."""

    template_name = "accounts/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    request: KitchenRequest

    def dispatch(self, request: Any, *args: Any, **kwargs: Any) -> Any:
        """Show the sign-in form, or a shared tablet's names; say so in place where the person signed in meanwhile."""
        is_locked = request.is_locked  # its person must sign in again
        if request.htmx and request.user.is_authenticated and not is_locked:
            return self._in_place()
        self.redirect_authenticated_user = not is_locked
        if request.method == "GET" and request.tablet is not None and "name" not in request.GET:
            return redirect("accounts:names")
        return super().dispatch(request, *args, **kwargs)

    def get_initial(self) -> dict[str, Any]:
        """The name that was tapped on a tablet."""
        return super().get_initial() | {"username": self.request.GET.get("name", "")}

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """Whether there is a kitchen to sign in to."""
        nobody_yet = not Kitchen.objects.exists()
        return super().get_context_data(**kwargs, nobody_yet=nobody_yet, demo_people=demo_people())

    def post(self, request: Any, *args: Any, **kwargs: Any) -> HttpResponse:
        """Try to sign in, unless this address or name was tried too often."""
        if (person := demo_person(request.POST.get("demo", ""))) is not None:
            login(request, person, backend=BACKEND)
            return redirect("home")
        if lockouts.is_slowed(request, request.POST.get("username", "")):
            return render(request, "accounts/locked.html", status=429)
        return super().post(request, *args, **kwargs)

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Sign in and continue what was being done."""
        back = str(self.request.session.get(tablets.BACK, ""))
        response = super().form_valid(form)
        if self.request.tablet is not None:
            tablets.unlock(self.request)
            response = redirect(back) if back else response
        if self.request.htmx:
            response = self._in_place()
        elif sent := held(self.request.POST.get("held", "")):
            response = render(self.request, "accounts/held.html", {"sent": sent})
        lockouts.remember(self.request, response, self.request.user)
        return response

    def form_invalid(self, form: AuthenticationForm) -> HttpResponse:
        """Show the errors; the packed form is kept."""
        if self.request.htmx:
            return render(self.request, "accounts/_sign_in.html", {"form": form}, status=422)
        return self.render_to_response(self.get_context_data(form=form, held=self.request.POST.get("held", "")))

    def _in_place(self) -> HttpResponse:
        response = HttpResponse(status=204)
        return trigger_client_event(response, "signed-in", {"person": self.request.user.pk})
