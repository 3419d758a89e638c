"""Doneness calls: what a sense says before the probe is read, and how accurate one's senses are."""

from __future__ import annotations

import uuid
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from ember.practice.calls import NEAR_K, advice, best_by_cut, by_group, by_sense
from ember.practice.calls import Call as CoreCall
from ember.quantities import parse_temperature
from kitchen.accounts.models import Person
from kitchen.drawings.calls_chart import calls_chart
from kitchen.faces.eyes import score_of
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook
from kitchen.line.queries import running
from kitchen.web import KitchenRequest, token_of

from . import call_actions
from .models import Call, Sharing
from .presenters import advice_words, cut_name
from .words import SHORT

MOST = 400  # of the newest calls
LAST = 6
NAMES = dict(Call.Sense.choices)
PULL_SOON_S = 30.0


def _calls(request: KitchenRequest, person: Person) -> list[Call]:
    rows = Call.objects.of(request.kitchen).filter(person=person, read_c__isnull=False)[:MOST]
    return list(reversed(rows))


def scores(request: KitchenRequest, person: Person) -> dict[str, Any]:
    """A person's calls for the page."""
    rows = _calls(request, person)
    calls = [
        CoreCall(made_call.sense, made_call.called_c, float(made_call.read_c or 0.0), made_call.cut, made_call.wanted)
        for made_call in rows
    ]
    scored = by_sense(calls)
    degree = request.user.units.temperature_step(1.0)
    senses = [
        (
            made_call.name,
            NAMES[made_call.name].split(" on ")[0],
            [c.off_k * degree for c in calls if c.sense == made_call.name],
        )
        for made_call in scored
    ]
    advice_text = advice_words(advice(scored), request.user.units) if scored else []
    return {
        "scores": scored, "chart": calls_chart(senses, NEAR_K * degree, 8.0 * degree) if senses else None,
        "last": list(reversed(rows[-LAST:])), "advice": advice_text,
        "by_cut": [(cut_name(made_call.name), made_call) for made_call in by_group(calls, "cut")],
        "best": [(cut_name(cut), SHORT[made_call.name], made_call) for cut, made_call in best_by_cut(calls)],
        "by_word": [(made_call.name, made_call) for made_call in by_group(calls, "wanted")], "number": len(calls),
        "of": person, "eye": score_of(request.kitchen, person),
    }  # fmt: skip


def _chosen(request: KitchenRequest, cooks: list[CookStatus]) -> CookStatus | None:
    cook_key = request.GET.get("cook", "")
    return next((one for one in cooks if str(one.cook.pk) == cook_key), cooks[0] if cooks else None)


def calls(request: KitchenRequest) -> HttpResponse:
    """Call a running cook, and see one's accuracy."""
    return _page(request)


def _page(request: KitchenRequest, problem: str = "", status: int = 200) -> HttpResponse:
    cooks = [one for one in running(request.kitchen) if one.cook.finished_at is None]
    chosen = _chosen(request, cooks)
    newest = Call.objects.of(request.kitchen).filter(person=request.user).first()
    words = list(reversed(chosen.scale[1:])) if chosen else []
    due_s = None
    if chosen and chosen.due_pull_at and chosen.planned_pull_s is not None:
        due_s = (chosen.due_pull_at - request.kitchen.now()).total_seconds()
    sense_key = request.GET.get("sense", "")
    sharing = Sharing.objects.of(request.kitchen).filter(person=request.user).first()
    context = {
        "cooks": cooks, "chosen": chosen, "words": words, "senses": Call.Sense.choices, "token": uuid.uuid4(),
        "sense": sense_key if sense_key in NAMES else newest.sense if newest else Call.Sense.PRESS, "problem": problem,
        "pull_first": due_s is not None and due_s <= PULL_SOON_S, "is_shared": bool(sharing and sharing.is_shared),
        "shared": shared_people(request), **scores(request, request.user),
    }  # fmt: skip
    return render(request, "practice/calls.html", context, status=status)


def shared_people(request: KitchenRequest) -> list[Person]:
    """People who share their practice with the chef."""
    if not request.membership.is_chef:
        return []
    rows = Sharing.objects.of(request.kitchen).filter(is_shared=True).exclude(person=request.user)
    here = request.kitchen.memberships.values("person")
    return [share_row.person for share_row in rows.filter(person__in=here).select_related("person")]


@require_POST
def call(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Record a call; then show the probe's reading, or a field to type it."""
    cook = get_object_or_404(Cook.objects.of(request.kitchen).select_related("kitchen"), pk=pk)
    text = request.POST.get("celsius", "").strip()
    word = request.POST.get("word", "")
    try:
        celsius = None
        if text and not word:
            celsius = parse_temperature(text, request.user.units.temperature)
            if not -20 <= celsius <= 150:
                raise BadInput("Core: enter −20 to 150 °C.")
        token = token_of(request.POST.get("token"))
        made = call_actions.call(cook, request.user, request.POST.get("sense", ""), word, celsius, token)
    except (BadInput, call_actions.CallError) as error:
        return _page(request, str(error), 422)
    return redirect("practice:called", pk=made.pk)


def called(request: KitchenRequest, pk: int) -> HttpResponse:
    """The call and the probe's reading."""
    made = get_object_or_404(Call.objects.of(request.kitchen).filter(person=request.user), pk=pk)
    return render(request, "practice/called.html", {"call": made, "off": made.off_k, "near": NEAR_K})


@require_POST
def read(request: KitchenRequest, pk: int) -> HttpResponse:
    """Record the typed probe reading, or delete the call."""
    made = get_object_or_404(Call.objects.of(request.kitchen).filter(person=request.user), pk=pk)
    if request.POST.get("then") == "drop":
        call_actions.drop(made)
        messages.success(request, "Call discarded.")
        return redirect("practice:calls")
    try:
        celsius = parse_temperature(request.POST.get("celsius", ""), request.user.units.temperature)
        if not -20 <= celsius <= 150:
            raise BadInput("Core: enter −20 to 150 °C.")
    except BadInput as error:
        context = {"call": made, "problem": str(error), "typed": request.POST.get("celsius", "")[:20]}
        return render(request, "practice/called.html", context, status=422)
    call_actions.read(made, celsius)
    return redirect("practice:called", pk=pk)


@require_POST
def share(request: KitchenRequest) -> HttpResponse:
    """Let the chef see one's practice, or stop sharing it."""
    call_actions.share(request.kitchen, request.user, request.POST.get("share") == "yes")
    return redirect("practice:calls")


def of_person(request: KitchenRequest, pk: int) -> HttpResponse:
    """A person's shared practice, for the chef."""
    person = next((one for one in shared_people(request) if one.pk == pk), None)
    if person is None:
        raise Http404
    return render(request, "practice/of_person.html", scores(request, person))
