"""The demonstration's own bar: its pace, and the evening from its start."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from kitchen.kit.actions import set_clock
from kitchen.web import KitchenRequest

from .clock import PACES
from .tasks import restart_soon


def _must_be_demo(request: KitchenRequest) -> None:
    if not request.kitchen.is_demo:
        raise Http404("This kitchen is no demonstration.")


@require_POST
def pace(request: KitchenRequest) -> HttpResponse:
    """Let the demonstration's clock run at one of its paces, or hold it."""
    _must_be_demo(request)
    wanted = request.POST.get("pace", "")
    chosen = next((pace for pace in PACES if f"{pace:g}" == wanted), None)
    if chosen is not None:
        set_clock(request.kitchen, chosen)
    back = request.POST.get("back", "")
    return redirect(back if back.startswith("/") and not back.startswith("//") else "home")


def again(request: KitchenRequest) -> HttpResponse:
    """Start the evening again; the page waits until the new galley is there."""
    _must_be_demo(request)
    if request.method == "POST":
        restart_soon(request.kitchen)
        return redirect(f"{request.path}?of={request.kitchen.pk}")
    is_ready = request.GET.get("of") != str(request.kitchen.pk)
    if is_ready:
        return redirect("home")
    return render(request, "demo/again.html", {"of": request.kitchen.pk})
