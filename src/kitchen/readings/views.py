"""The readings API for those who build a device: as a page, and for machines."""

from __future__ import annotations

from django.http import HttpResponse, JsonResponse
from django.shortcuts import render

from kitchen.web import KitchenRequest

from . import openapi


def api_page(request: KitchenRequest) -> HttpResponse:
    """The page: every path with its input and output."""
    description = openapi.document()
    paths = [
        {"path": path, "method": method.upper(), **operation}
        for path, methods in description["paths"].items()
        for method, operation in methods.items()
    ]
    context = {"document": description, "paths": paths, "schemas": description["components"]["schemas"]}
    return render(request, "readings/api.html", context)


def api_json(request: KitchenRequest) -> HttpResponse:
    """The same as OpenAPI."""
    return JsonResponse(openapi.document(), json_dumps_params={"indent": 1})
