"""Sessions on a tablet that several people use one after the other."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth.signals import user_logged_out
from django.contrib.sessions.middleware import SessionMiddleware
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse


@receiver(user_logged_out)
def _was_signed_out(request: HttpRequest | None, **_: Any) -> None:
    if request is not None:
        request.signs_out = True  # type: ignore[attr-defined]


class OwnSessionMiddleware(SessionMiddleware):
    """Sessions whose cookie only signing out takes away.

    Django takes it away too wherever a session is not known: the late answer to what somebody's page asked for before
    they signed out would take the cookie of who has signed in since.
    """

    def process_response(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        """Save the session; leave a cookie that is not known where it is."""
        response = super().process_response(request, response)
        cookie = response.cookies.get(settings.SESSION_COOKIE_NAME)
        if cookie is not None and not cookie.value and not getattr(request, "signs_out", False):
            del response.cookies[settings.SESSION_COOKIE_NAME]
        return response
