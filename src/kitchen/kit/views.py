"""Views of equipment, probes, devices and their checks."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.kit.thermometers import PROBE_LIMIT_K, PROBE_RULE
from kitchen.accounts.access import chef_required
from kitchen.accounts.editions import Meanwhile, changed_fields, edition_of, is_stale
from kitchen.web import KitchenRequest, parse_count

from . import actions, queries
from .forms import AltitudeForm, EquipmentForm, ProbeCheckForm, SettingCheckForm
from .models import Equipment, Probe


def kit_page(request: KitchenRequest, status: int = 200, **more: Any) -> HttpResponse:
    """Render the page; `more` adds a form with errors."""
    context = {
        "rows": queries.equipment_rows(request.kitchen),
        "probes": queries.probe_rows(request.kitchen),
        "boils_c": queries.boils_at_c(request.kitchen),
        "wrong": {},
        "limit_k": PROBE_LIMIT_K,
        "probe_rule": PROBE_RULE,
        "fixable": Equipment.objects.of(request.kitchen).current(),
        **more,
    }
    return render(request, "kit/kit.html", context, status=status)


def kit(request: KitchenRequest) -> HttpResponse:
    """All equipment and probes with their offsets and next checks."""
    return kit_page(request)


def _initial_of(item: Equipment) -> dict[str, Any]:
    """Form values of a piece of equipment."""
    initial = {key: getattr(item, key) for key in ("kind", "name", "station", "places", "material", "check_days")}
    initial |= {"heat_min": item.heat_c_per_min, "cool_min": item.cool_c_per_min}
    initial |= {"volume": item.litres, "heater": item.power_w}
    return initial | {"diameter": item.diameter_mm, "mass": item.mass_kg * 1e3 if item.mass_kg else None}


@chef_required
def equipment(request: KitchenRequest, pk: int | None = None) -> HttpResponse:
    """Create or change a piece of equipment."""
    item = get_object_or_404(Equipment.objects.of(request.kitchen).current(), pk=pk) if pk is not None else None
    initial = _initial_of(item) if item else {"kind": "oven", "check_days": 28}
    form = EquipmentForm(request.POST or None, request.user.units, initial=initial)
    if request.method == "POST" and form.is_valid():
        entered = form.equipment()
        if item and is_stale(request, item.said, entered):
            changes = changed_fields(entered, item.said, {key: key.replace("_", " ") for key in entered})
            theirs = reverse("kit:equipment", args=[item.pk])
            meanwhile = Meanwhile(str(item.updated_by or "Somebody"), item.updated_at, changes, theirs, both=False)
            context = {"form": form, "equipment": item, "meanwhile": meanwhile, "edition": request.POST["edition"]}
            return render(request, "kit/equipment.html", context, status=409)
        try:
            equipment = actions.keep_equipment(request.kitchen, item, entered, request.user)
        except actions.EquipmentError as error:
            form.add_error("name", str(error))
        else:
            messages.success(request, f"Saved {equipment.name}.")
            return redirect("kit:kit")
    edition = edition_of(item.said) if item else ""
    context = {"form": form, "equipment": item, "edition": request.POST.get("edition", edition)}
    return render(request, "kit/equipment.html", context, status=422 if form.errors else 200)


@require_POST
@chef_required
def remove(request: KitchenRequest, pk: int) -> HttpResponse:
    """Remove a piece of equipment, with an undo."""
    item = get_object_or_404(Equipment.objects.of(request.kitchen).current(), pk=pk)
    actions.remove_equipment(item)
    messages.success(request, f"{item.name} archived.", extra_tags=reverse("kit:restore", args=[item.pk]))
    return redirect("kit:kit")


@require_POST
@chef_required
def restore(request: KitchenRequest, pk: int) -> HttpResponse:
    """Restore a piece of equipment."""
    item = get_object_or_404(Equipment.objects.of(request.kitchen), pk=pk)
    try:
        actions.restore_equipment(item)
    except actions.EquipmentError as error:
        messages.error(request, str(error))
    return redirect("kit:kit")


def _off(request: KitchenRequest, kelvin: float) -> str:
    units = request.user.units
    return f"{units.temperature_step(kelvin):+.1f} {units.degree}"


@require_POST
def check_equipment(request: KitchenRequest, pk: int) -> HttpResponse:
    """Record a thermometer reading in a piece of equipment."""
    item = get_object_or_404(Equipment.objects.of(request.kitchen).current(), pk=pk)
    form = SettingCheckForm(request.POST, request.user.units)
    if not form.is_valid():
        return kit_page(request, 422, wrong={"equipment": item.pk, "form": form})
    check = actions.check_kit(item, request.user, form.found())
    messages.success(
        request, f"{item.name}: {request.user.units.temperature_step(check.off_k):+.1f} {request.user.units.degree}."
    )
    return redirect("kit:kit")


@require_POST
def check_probe(request: KitchenRequest, pk: int) -> HttpResponse:
    """Record a probe reading in ice or boiling water."""
    probe = get_object_or_404(Probe.objects.of(request.kitchen), pk=pk)
    form = ProbeCheckForm(request.POST, request.user.units)
    if not form.is_valid():
        return kit_page(request, 422, wrong={"probe": probe.pk, "form": form})
    check = actions.check_kit(probe, request.user, form.found(request.kitchen))
    messages.success(
        request, f"{probe.name}: {request.user.units.temperature_step(check.off_k):+.1f} {request.user.units.degree}."
    )
    return redirect("kit:kit")


@require_POST
@chef_required
def altitude(request: KitchenRequest) -> HttpResponse:
    """Set the kitchen's altitude, which decides where water boils."""
    form = AltitudeForm(request.POST, request.user.units)
    if not form.is_valid():
        return kit_page(request, 422, wrong={"altitude": True, "form": form})
    request.kitchen.altitude_m = form.cleaned_data["altitude"]
    request.kitchen.save(update_fields=["altitude_m"])
    messages.success(request, "Saved.")
    return redirect("kit:kit")


@require_POST
@chef_required
def fix_probe(request: KitchenRequest, pk: int) -> HttpResponse:
    """Assign a probe to a bath or an oven, or free it for pieces."""
    probe = get_object_or_404(Probe.objects.of(request.kitchen), pk=pk)
    key = parse_count(request.POST.get("equipment"))
    there = Equipment.objects.of(request.kitchen).current()
    probe.fixed_in = get_object_or_404(there, pk=key) if key is not None else None
    probe.save(update_fields=["fixed_in"])
    return redirect("kit:kit")
