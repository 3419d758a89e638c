"""Reading several records one after the other, and signing those that were read."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render

from ember.judge.states import State
from kitchen.accounts.access import chef_required
from kitchen.accounts.confirming import NotConfirmedError, confirm_person
from kitchen.line.errors import LineError
from kitchen.line.models import Cook
from kitchen.web import KitchenRequest, is_uuid

from . import actions
from .queries import finished
from .record import record_of, record_state

MOST = 12  # of one page: each is read


@chef_required
def sign_several(request: KitchenRequest) -> HttpResponse:
    """Show unsigned records that can be signed, and sign the chosen ones with one PIN or password."""
    cooks = list(finished(request.kitchen).filter(sign_off=None)[:MOST])
    chosen = {key for key in request.POST.getlist("record") if is_uuid(key)}
    problem = ""
    if request.method == "POST":
        try:
            return _signed(request, [cook for cook in cooks if str(cook.pk) in chosen])
        except (NotConfirmedError, LineError) as error:
            problem = str(error)
    rows = []
    for cook in cooks:
        record = record_of(cook)
        state = record_state(record)
        is_open = state == State.NOT_MET and not record["corrections"]
        was_read = str(cook.pk) in chosen
        rows.append({"cook": cook, "record": record, "state": state, "is_open": is_open, "read": was_read})
    context = {"rows": rows, "problem": problem}
    return render(request, "logbook/sign_several.html", context, status=422 if problem else 200)


def _signed(request: KitchenRequest, cooks: list[Cook]) -> HttpResponse:
    """Sign those that can be. Raises LineError if none was chosen, NotConfirmedError for a wrong password."""
    if not cooks:
        raise LineError("Read and tick at least one record.")
    how = confirm_person(request)
    signed, refused = 0, []
    for cook in cooks:
        try:
            actions.sign(cook, request.user, how)
            signed += 1
        except LineError as error:
            refused.append(f"{cook.name}: {error}")
    if signed:
        messages.success(request, f"Signed {signed} record{'s' if signed > 1 else ''}.")
    for words in refused:
        messages.error(request, words)
    return redirect("logbook:sign-several" if refused else "home")
