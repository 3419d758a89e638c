"""Equipment of a cook's stages."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ember.files.plan import Plan as CorePlan
from ember.heat.media import medium_c
from ember.kit.equipment import A_PLACE_EACH, held_in, tolerance_k
from ember.track.steps import MOVES
from kitchen.accounts.models import Kitchen
from kitchen.kit.allocation import Allocation, Wanted, room_of
from kitchen.kit.models import Equipment

from .errors import LineError
from .models import Cook, CookEvent
from .observations import done_steps, observations_of

HEATS = ("water_c", "air_c", "oil_c", "pan_c", "plate_c")
Chosen = Mapping[int, int]  # {stage: equipment} that a service settled


def equipment_snapshot(equipment: Equipment) -> dict[str, Any]:
    """A place as an event stores it, readable even when the equipment is gone."""
    return {"id": equipment.pk, "name": equipment.name, "station": equipment.station}


def kit_of(cook: Cook) -> dict[int, dict[str, Any]]:
    """{stage: {"id", "name", "station"}} by its events, the newest last."""
    kit: dict[int, dict[str, Any]] = {}
    for event in cook.history:
        if event.kind in (CookEvent.Kind.STARTED, CookEvent.Kind.PLACED):
            kit |= {int(stage): item for stage, item in event.data.get("kit", {}).items()}
    return kit


def assign(kitchen: Kitchen, core: CorePlan, chosen: Chosen | None = None) -> dict[str, dict[str, Any]]:
    """Equipment for each stage: the chosen one, else the best of its kind.

    Raises LineError for chosen equipment that was removed, is full, or is at another setting.
    """
    allocation, uses = _in_use(kitchen)
    there = {item.pk: item for item in allocation.there}
    equipment_by_stage: dict[str, dict[str, Any]] = {}
    for i, stage in enumerate(core.stages):
        kind = held_in(stage)
        amount = core.piece.count if kind in A_PLACE_EACH else 1
        wanted = Wanted(kind, medium_c(stage), amount, getattr(stage, "pan", None))
        if (key := (chosen or {}).get(i)) is not None:
            best: Equipment | None = there.get(key)
            _must_be_free(best, wanted, uses, i)
        else:
            best = allocation.choose(wanted)
        if best is not None:
            equipment_by_stage[str(i)] = equipment_snapshot(best)
            allocation.occupy(best, 1.0, wanted.setting_c)
    return equipment_by_stage


@dataclass(frozen=True)
class Use:
    """A running cook in a piece of equipment: places and setting, °C; `now` while it is in there."""

    cook: uuid.UUID
    name: str
    amount: int
    setting_c: float | None
    now: bool


def _must_be_free(equipment: Equipment | None, wanted: Wanted, uses: Mapping[int, list[Use]], stage: int) -> None:
    """Require room for the first stage only: later ones are checked when they come."""
    if equipment is None:
        raise LineError("The equipment chosen for this is no longer available. Choose another in the service.")
    here = [use for use in uses.get(equipment.pk, []) if use.now]
    if stage or not here:
        return
    for use in here:
        if None not in (use.setting_c, wanted.setting_c) and _is_far(equipment, use.setting_c, wanted.setting_c):
            raise LineError(
                f"{equipment.name} is at {use.setting_c:g} °C for {use.name}; this needs {wanted.setting_c:g} °C. "
                "Choose other equipment in the service, or finish that first."
            )
    taken = sum(use.amount for use in here)
    if taken + min(wanted.amount, room_of(equipment)) > room_of(equipment):
        raise LineError(
            f"{equipment.name} takes {room_of(equipment)} and {taken} are in it. "
            "Choose other equipment in the service, or finish those first."
        )


def _is_far(equipment: Equipment, one_c: float | None, other_c: float | None) -> bool:
    return abs((one_c or 0.0) - (other_c or 0.0)) > tolerance_k(equipment.kind)


def _in_use(kitchen: Kitchen) -> tuple[Allocation, dict[int, list[Use]]]:
    """Equipment that running cooks use or will use."""
    allocation = Allocation(list(Equipment.objects.of(kitchen).current()))
    uses: dict[int, list[Use]] = {}
    for cook in Cook.objects.of(kitchen).of_plans().filter(finished_at=None).with_events():
        stages, present = cook.document["stages"], _stage_now(cook)
        for i, item in kit_of(cook).items():
            setting_c = _setting_c(cook, i, stages[i])
            amount = cook.pieces if stages[i]["kind"] in A_PLACE_EACH else 1
            uses.setdefault(item["id"], []).append(Use(cook.pk, cook.name, amount, setting_c, present == i))
            if present is None or i >= present:
                allocation.occupy(item["id"], 1.0, setting_c)
    return allocation, uses


def _setting_c(cook: Cook, index: int, stage: Mapping[str, Any]) -> float | None:
    """A stage's setting as last changed, else as planned, °C."""
    settings_c = [
        e.data["c"] for e in observations_of(cook) if e.data["what"] == "setting" and e.data.get("stage") == index
    ]
    heat = settings_c[-1] if settings_c else next((stage[k] for k in HEATS if stage.get(k) is not None), None)
    return None if heat is None else float(heat)


def _stage_now(cook: Cook) -> int | None:
    """The stage a cook is in; None if it has not begun."""
    if cook.waits:
        return None
    steps = cook.result.get("steps") or []
    done = [n for n in done_steps(cook) if n < len(steps) and steps[n]["kind"] in MOVES]
    return steps[max(done)]["stage"] if done else None


def clash_words(kitchen: Kitchen, kit: Mapping[str, Mapping[str, Any]], cook: Cook) -> str:
    """Warning if a new cook's first stage shares equipment at another setting; else empty."""
    _, uses = _in_use(kitchen)
    first = kit.get("0")
    stage = cook.document["stages"][0]
    wanted = next((stage[k] for k in HEATS if stage.get(k) is not None), None)
    equipment = Equipment.objects.of(kitchen).filter(pk=first["id"]).first() if first else None
    if equipment is None or wanted is None:
        return ""
    for use in uses.get(equipment.pk, []):
        if use.cook != cook.pk and use.setting_c is not None and _is_far(equipment, use.setting_c, float(wanted)):
            return f"{equipment.name} is at {use.setting_c:g} °C for {use.name}; this needs {float(wanted):g} °C"
    return ""
