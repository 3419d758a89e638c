"""Commands on a batch, selected by the value of the page's buttons."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect

from ember.judge.standards import standard
from ember.quantities import show_duration
from kitchen.web import KitchenRequest, clean_text, token_of

from . import actions
from .forms import PortionForm, ReadingForm, UseForm
from .models import Batch

MOST_NOTE, MOST_PLACE = 200, 60


class Wrong(Exception):
    """Invalid input; `shown`: the template context that shows it."""

    def __init__(self, **shown: Any) -> None:
        super().__init__("wrong input")
        self.shown = shown


def _note(request: KitchenRequest) -> str:
    return clean_text(request.POST.get("note"), MOST_NOTE)


def _celsius(request: KitchenRequest, what: str) -> float:
    form = ReadingForm(request.POST, request.user.units)
    if not form.is_valid():
        raise Wrong(reading=form, wrong=what)
    return float(form.cleaned_data["celsius"])


def _cold(request: KitchenRequest, batch: Batch) -> None:
    place = clean_text(request.POST.get("place"), MOST_PLACE)
    if not place:
        raise Wrong(place_problem="Choose where it is.")
    actions.into_the_cold(batch, request.user, place)


def _read(request: KitchenRequest, batch: Batch) -> None:
    actions.read(batch, request.user, _celsius(request, "read"))


def held_words(batch: Batch) -> str:
    """How long the reheating rule holds its temperature, in words."""
    rule = standard(batch.document["standard"]).phases.get("reheat")
    return show_duration(rule.seconds if rule else 0.0)


def _reheated(request: KitchenRequest, batch: Batch) -> None:
    celsius = _celsius(request, "reheated")
    if not request.POST.get("held") and celsius >= actions.reheat_least_c(batch):
        problem = f"Hold it there for {held_words(batch)}, then tick the box."
        raise Wrong(held_problem=problem, wrong="reheated", reading=ReadingForm(request.POST, request.user.units))
    actions.reheated(batch, request.user, celsius, _note(request))


def _pressed(request: KitchenRequest, batch: Batch) -> None:
    actions.press(batch, request.user, _note(request))


def _portioned(request: KitchenRequest, batch: Batch) -> None:
    form = PortionForm(request.POST)
    if not form.is_valid():
        raise Wrong(portioning=form)
    actions.portion(batch, request.user, form.cleaned_data["cut_into"])


def _portions(request: KitchenRequest) -> int:
    form = UseForm(request.POST)
    if not form.is_valid():
        raise Wrong(using=form)
    return int(form.cleaned_data["portions"])


def _used(request: KitchenRequest, batch: Batch) -> None:
    actions.use(batch, request.user, _portions(request), _note(request))


def _bring(request: KitchenRequest, batch: Batch) -> HttpResponse:
    token = token_of(request.POST.get("token"))
    cook = actions.bring_back(batch, request.user, _portions(request), _note(request), token)
    return redirect("line:steps", pk=cook.pk)


def _back(request: KitchenRequest, batch: Batch) -> None:
    event = request.POST.get("event", "")
    if event.isascii() and event.isdecimal():
        actions.put_back(batch, request.user, int(event[:12]))


def _decided(request: KitchenRequest, batch: Batch) -> None:
    if not request.membership.is_chef:
        raise actions.BatchError("Only a chef can decide this.")
    actions.decide(batch, request.user, _note(request))


def _discarded(request: KitchenRequest, batch: Batch) -> None:
    actions.discard(batch, request.user, _note(request))


COMMANDS: dict[str, Callable[[KitchenRequest, Batch], HttpResponse | None]] = {
    "cold": _cold, "read": _read, "reheated": _reheated, "pressed": _pressed, "portioned": _portioned, "used": _used,
    "bring": _bring, "back": _back, "decided": _decided, "discarded": _discarded,
}  # fmt: skip
