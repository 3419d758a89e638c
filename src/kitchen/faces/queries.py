"""Photographs and cooks as addresses name them."""

from __future__ import annotations

import uuid

from django.http import Http404
from django.shortcuts import get_object_or_404

from kitchen.line.models import Cook
from kitchen.web import KitchenRequest, is_uuid

from .models import FacePhoto
from .presenters import with_all


def photo_of(request: KitchenRequest, pk: uuid.UUID) -> FacePhoto:
    """A photograph of the request's kitchen, or 404."""
    photo: FacePhoto = get_object_or_404(with_all(FacePhoto.objects.of(request.kitchen)), pk=pk)
    return photo


def cook_of(request: KitchenRequest, text: str | None) -> Cook | None:
    """The cook that a form or address names; None if it names none. Raises Http404 for another kitchen's."""
    if not text:
        return None
    if not is_uuid(text):
        raise Http404
    cook: Cook = get_object_or_404(Cook.objects.of(request.kitchen).of_plans().select_related("kitchen"), pk=text)
    return cook
