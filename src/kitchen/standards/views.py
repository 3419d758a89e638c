"""Views of rules: standards, the chef's choice, the house's limits."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from ember.errors import BadInput
from ember.food.catalogue import cuts
from ember.judge.categories import CATEGORIES
from ember.judge.doneness import official_scales, scales
from ember.judge.standards import Standard, standards
from ember.kinetics.lethality import FLOOR_C, organisms
from ember.quantities import parse_temperature
from kitchen.accounts.access import chef_required
from kitchen.drawings.doneness_chart import doneness_chart
from kitchen.web import KitchenRequest

from . import actions
from .forms import HouseForm

KILLS = (("salmonella", 6.5), ("salmonella", 7.0), ("listeria", 6.0), ("e-coli-o157", 6.5), ("botulinum-np", 6.0))
USUAL_C = 60.0
MOST_H = 48.0


def _asked(rules: Standard) -> list[dict[str, Any]]:
    """Categories with equal requirements, grouped."""
    rows: dict[tuple[str, ...], list[str]] = {}
    for category, words in CATEGORIES.items():
        rows.setdefault(rules.categories[category], []).append(words)
    return [
        {
            "what": words,
            "rules": [rules.rules[name] for name in names],
            "cautions": [(w, rules.cautions[c]) for c, w in CATEGORIES.items() if w in words and c in rules.cautions],
        }
        for names, words in rows.items()
    ]


def kill_rows(celsius: float) -> list[dict[str, Any]]:
    """Times at a temperature for what the rules require; no credit below the floor of the tables."""
    rows_shown = []
    for key, log10 in KILLS:
        organism = organisms()[key]
        seconds = 60.0 * log10 * organism.d_minutes(celsius)
        credited = celsius >= FLOOR_C - 1e-9
        too_long = credited and seconds > MOST_H * 3600
        rows_shown.append(
            {
                "name": organism.name,
                "log10": log10,
                "seconds": max(seconds, 1.0) if credited and not too_long else None,
                "too_long": too_long,
            }
        )
    return rows_shown


def standard_page(
    request: KitchenRequest, standard_id: str = "", form: HouseForm | None = None, status: int = 200
) -> HttpResponse:
    """Show one standard: the kitchen's, or another."""
    rules = standards().get(standard_id or request.kitchen.standard)
    if rules is None:
        raise Http404
    context = {
        "rules": rules,
        "all": standards().values(),
        "asked": _asked(rules),
        "phases": rules.phases.values(),
        "chosen": rules.id == request.kitchen.standard,
        "form": form or HouseForm(None, request.user.units, request.kitchen.house),
        "house": request.kitchen.house,
        "celsius": USUAL_C,
        "kills": kill_rows(USUAL_C),
        "floor_c": FLOOR_C,
    }
    return render(request, "standards/standard.html", context, status=status)


@require_POST
@chef_required
def choose(request: KitchenRequest) -> HttpResponse:
    """Choose the kitchen's standard."""
    wanted = request.POST.get("standard", "")
    if wanted not in standards():
        raise Http404
    actions.choose_standard(request.kitchen, wanted)
    messages.success(request, f"Plans and records now use {standards()[wanted].name}.")
    return redirect("standards:mine")


@require_POST
@chef_required
def house(request: KitchenRequest) -> HttpResponse:
    """Set the house's own limits."""
    form = HouseForm(request.POST, request.user.units, request.kitchen.house)
    if not form.is_valid():
        return standard_page(request, form=form, status=422)
    actions.set_house(request.kitchen, form.house())
    messages.success(request, "House limits saved.")
    return redirect("standards:mine")


def kill(request: KitchenRequest) -> HttpResponse:
    """The table of one temperature, as it is typed."""
    units = request.user.units
    problem, celsius = "", None
    try:
        celsius = parse_temperature(request.GET.get("c", ""), units.temperature)
        if not 0 <= celsius <= 121:
            raise BadInput("Enter a core temperature.")
    except BadInput as error:
        problem = error.message
    rows = [] if problem or celsius is None else kill_rows(celsius)
    return render(request, "standards/_kill.html", {"kills": rows, "problem": problem, "celsius": celsius})


def doneness(request: KitchenRequest) -> HttpResponse:
    """All doneness words in one drawing, by species."""
    families: dict[str, list[str]] = {}
    for cut_entry in cuts().values():
        families.setdefault(cut_entry.doneness, [])
        if cut_entry.species not in families[cut_entry.doneness]:
            families[cut_entry.doneness].append(cut_entry.species)
    rows = []
    for name in (name for name in scales() if name in families):
        rows.append((name, families[name], scales()[name]))
        if name in official_scales():
            rows.append((f"{name}, in guides", ["words as other guides use them"], official_scales()[name]))
    return render(request, "standards/doneness.html", {"chart": doneness_chart(rows, 1232.0)})
