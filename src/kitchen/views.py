"""The service worker, the manifest and the health check."""

from __future__ import annotations

from pathlib import Path

from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles import finders
from django.http import HttpResponse, JsonResponse
from django.templatetags.static import static

from kitchen.web import KitchenRequest


@login_not_required
def service_worker(request: KitchenRequest) -> HttpResponse:
    """The service worker, served from the root so that it covers all pages."""
    path = finders.find("sw.js")
    text = Path(path).read_text(encoding="utf-8") if path else ""
    response = HttpResponse(text, content_type="text/javascript; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


@login_not_required
def manifest(request: KitchenRequest) -> HttpResponse:
    """The web app manifest."""
    icons = [
        {"src": static(f"icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png", "purpose": purpose}
        for size, purpose in ((192, "any"), (512, "any"), (512, "maskable"))
    ]
    document = {
        "name": "Open Ember", "short_name": "Ember", "start_url": "/line/", "scope": "/", "display": "standalone",
        "background_color": "#f4efe6", "theme_color": "#1b1a18", "icons": icons,
    }  # fmt: skip
    return JsonResponse(document, content_type="application/manifest+json")
