"""Which oven, bath or pan a cook's stages happen on."""

from __future__ import annotations

from collections import Counter
from typing import Any

from ember.files.plan import Plan as CorePlan
from ember.files.stages import Stage
from ember.heat.media import medium_c
from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Equipment

from .models import Cook, CookEvent

KIND_OF = {
    "bath": "bath", "oven": "oven", "pan": "pan", "plancha": "plancha", "grill": "grill", "fry": "fryer",
    "simmer": "hob", "poach": "hob", "boil": "hob", "steam": "hob", "rest": "shelf", "hold": "cupboard",
    "chill": "fridge", "brine": "fridge", "reheat": "oven",
}  # fmt: skip
SHARED_K = 0.5  # a bath or an oven is shared at the same setting only
SHARED_KINDS = ("bath", "oven", "fryer")
HEATS = ("water_c", "air_c", "oil_c", "pan_c", "plate_c")


def kind_of(stage: Stage) -> str:
    """The kind of equipment a stage needs; empty where it needs none."""
    if stage.kind == "chill" and stage.blast:
        return "chiller"
    if stage.kind == "reheat":
        return {"oven": "oven", "bath": "bath", "pan": "pan", "sauce": "hob", "steam": "hob"}[stage.where]
    return KIND_OF.get(stage.kind, "")


def told(equipment: Equipment) -> dict[str, Any]:
    """What an event keeps of a place: it reads so even when the equipment is gone."""
    return {"id": equipment.pk, "name": equipment.name, "station": equipment.station}


def kit_of(cook: Cook) -> dict[int, dict[str, Any]]:
    """{stage: {"id", "name", "station"}} as its events say, the newest last."""
    found: dict[int, dict[str, Any]] = {}
    for event in cook.events.all():
        if event.kind in (CookEvent.Kind.STARTED, CookEvent.Kind.PLACED):
            found |= {int(stage): row for stage, row in event.data.get("kit", {}).items()}
    return found


def assign(kitchen: Kitchen, core: CorePlan) -> dict[str, dict[str, Any]]:
    """Equipment for each stage: one at the same setting already, else the least busy of its kind.

    A pan that the plan describes is that pan where there is one like it.
    """
    there = list(Equipment.objects.of(kitchen).current())
    busy, settings = _in_use(kitchen)
    found: dict[str, dict[str, Any]] = {}
    for i, stage in enumerate(core.stages):
        fitting = [e for e in there if e.kind == kind_of(stage)]
        vessel = getattr(stage, "pan", None)
        if vessel is not None:
            alike = [e for e in fitting if e.diameter_mm == vessel.diameter_mm and e.material == vessel.material]
            fitting = alike or fitting
        if not fitting:
            continue
        celsius = medium_c(stage)

        def cost(equipment: Equipment, celsius: float | None = celsius) -> tuple[int, int, str]:
            others = settings.get(equipment.pk, [])
            clash = celsius is not None and any(abs(other - celsius) > SHARED_K for other in others)
            shared = bool(others) and not clash and equipment.kind in SHARED_KINDS
            return (2 if clash else 0 if shared else 1, busy[equipment.pk], equipment.name)

        best = min(fitting, key=cost)
        found[str(i)] = told(best)
    return found


def _in_use(kitchen: Kitchen) -> tuple[Counter[int], dict[int, list[float]]]:
    """How many running cooks use each piece of equipment, and the settings they want of it, °C."""
    busy: Counter[int] = Counter()
    settings: dict[int, list[float]] = {}
    for cook in Cook.objects.of(kitchen).of_plans().filter(finished_at=None).prefetch_related("events"):
        stages = cook.document["stages"]
        for i, row in kit_of(cook).items():
            busy[row["id"]] += 1
            heat = next((stages[i][k] for k in HEATS if stages[i].get(k) is not None), None)
            if heat is not None:
                settings.setdefault(row["id"], []).append(float(heat))
    return busy, settings
