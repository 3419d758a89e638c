"""Access to cooks by kitchen."""

from __future__ import annotations

import uuid

from django.http import Http404
from django.shortcuts import get_object_or_404

from kitchen.web import KitchenRequest

from .models import Cook


def any_cook_of(request: KitchenRequest, pk: uuid.UUID) -> Cook:
    """A cook of the request's kitchen, of any kind, with what a page reads of it. Raises Http404."""
    cooks = Cook.objects.of(request.kitchen).select_related("kitchen", "started_by")
    return get_object_or_404(cooks.with_history(), pk=pk)


def tapped_cook_of(request: KitchenRequest, pk: uuid.UUID) -> Cook:
    """A cook for a tap: without plan and events, which the action reads under its lock.

    Raises Http404.
    """
    cooks = Cook.objects.of(request.kitchen).select_related("kitchen").defer("document", "result")
    cook: Cook = get_object_or_404(cooks, pk=pk)
    return any_cook_of(request, pk) if cook.goes_by_steps else cook


def cook_of(request: KitchenRequest, pk: uuid.UUID) -> Cook:
    """A plan's cook. Raises Http404 for one that goes by steps, which has no stages and no forecast."""
    cook = any_cook_of(request, pk)
    if cook.goes_by_steps:
        raise Http404("This cook is followed step by step.")
    return cook
