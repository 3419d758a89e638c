"""Carries out each creating or changing request once, however often it is sent.

A form carries a token. Its claim is a row with a unique key, written in the transaction of the work itself: of twenty
concurrent sends one does the work, and the others wait and get its response. A refused request claims nothing.
"""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Callable, Sequence
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django_htmx.http import HttpResponseClientRedirect, HttpResponseClientRefresh

from ember.errors import EmberError
from kitchen.errors import refused_work
from kitchen.web import KitchenRequest

from .models import Claim, Kitchen

FIELD = "token"
NOT_CLAIMED = {FIELD, "csrfmiddlewaretoken"}


def key_of(request: KitchenRequest, token: uuid.UUID) -> str:
    """The key that is claimed: a hash of token, address and all fields, so that another button is another request."""
    fields = sorted((name, request.POST.getlist(name)) for name in request.POST if name not in NOT_CLAIMED)
    files = sorted((name, sent.name, sent.size) for name in request.FILES for sent in request.FILES.getlist(name))
    return hashlib.sha256(repr((str(token), request.path, fields, files)).encode()).hexdigest()


def token_in(request: KitchenRequest) -> uuid.UUID | None:
    """The token a request carries, or None."""
    try:
        return uuid.UUID(request.POST.get(FIELD, ""))
    except ValueError:
        return None


View = Callable[..., HttpResponse]


def computes(view: View) -> View:
    """Mark a view that only computes something and may be repeated freely."""
    view.computes = True  # type: ignore[attr-defined]
    return view


def answers_again(by: View) -> Callable[[View], View]:
    """Name the view that responds to a repeated request; it takes the same arguments as the decorated view."""

    def decorate(view: View) -> View:
        view.again = by  # type: ignore[attr-defined]
        return view

    return decorate


def works_out_first(prepare: Callable[..., object]) -> Callable[[View], View]:
    """Name what a view calculates, which is done before its transaction begins; it takes the same arguments, and what
    it finds out is remembered where it was calculated.
    """

    def decorate(view: View) -> View:
        view.prepare = prepare  # type: ignore[attr-defined]
        return view

    return decorate


class AfterCommit(HttpResponse):
    """The response of a view that is rendered once its transaction is committed."""

    def __init__(self, render: Callable[[], HttpResponse]) -> None:
        super().__init__()
        self.render_now = render


class OnceMiddleware:
    """Carries out each POST with a token once."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: KitchenRequest) -> HttpResponse:
        """Pass the request on: the claim is made in `process_view`, where the view is known."""
        response = self.get_response(request)
        return response.render_now() if isinstance(response, AfterCommit) else response

    def process_view(
        self, request: KitchenRequest, view: View, args: Sequence[Any], kwargs: dict[str, Any]
    ) -> HttpResponse | None:
        """The view's response, or the response to the first send."""
        kitchen = getattr(request, "kitchen", None)
        if request.method != "POST" or kitchen is None or getattr(view, "computes", False):
            return None
        try:
            return self._carried_out(request, view, args, kwargs, kitchen)
        except EmberError as error:  # raised here it is past every middleware that makes a page of a view's errors
            return refused_work(request, error)

    def _carried_out(
        self, request: KitchenRequest, view: View, args: Sequence[Any], kwargs: dict[str, Any], kitchen: Kitchen
    ) -> HttpResponse | None:
        if (prepare := getattr(view, "prepare", None)) is not None:
            prepare(request, *args, **kwargs)
        token = token_in(request)
        if token is None:
            return None
        with transaction.atomic():
            claim, is_new = Claim.take(kitchen, request.user, key_of(request, token))
            if not is_new:
                again = getattr(view, "again", None)
                return again(request, *args, **kwargs) if again and not claim.location else _again(request, claim)
            response = view(request, *args, **kwargs)
            if response.status_code >= 400:
                transaction.set_rollback(True)  # refused: the same may be sent again, put right
            else:
                claim.keep(response.headers.get("Location") or response.headers.get("HX-Redirect") or "")
        return response


def _again(request: KitchenRequest, claim: Claim) -> HttpResponse:
    """The response to a repeated request: the redirect of the first send, else the page as it is now."""
    if claim.location:
        return HttpResponseClientRedirect(claim.location) if request.htmx else HttpResponseRedirect(claim.location)
    if request.htmx:
        return HttpResponseClientRefresh()
    return HttpResponseRedirect(request.headers.get("Referer") or "/")
