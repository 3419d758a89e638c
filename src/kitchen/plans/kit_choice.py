"""The kitchen's own pans, ovens and baths on the bench: a pan's mass and material, offsets by check or calibration."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ember.errors import BadInput
from ember.quantities import Units, parse_temperature
from kitchen.accounts.models import Kitchen
from kitchen.kit.calibration import facts_taught
from kitchen.kit.models import Equipment
from kitchen.kit.queries import off_of
from kitchen.web import parse_count

from .bench import Bench
from .stage_form import ALONG, StageForm, passthrough_of

KINDS = ("pan", "oven", "bath")
TOLD = ("pan", "offset_k", "back_k_min")  # what a stage says of its equipment
SETTINGS = {"oven": "air_c", "bath": "water_c"}


@dataclass(frozen=True)
class KitChoice:
    """Equipment for a stage; `chosen` is its key, empty for a typical one."""

    stage: int
    rows: tuple[Equipment, ...]
    chosen: int | None


def _there(kitchen: Kitchen) -> list[Equipment]:
    return list(Equipment.objects.of(kitchen).current().filter(kind__in=KINDS).prefetch_related("checks", "taught"))


def _facts(equipment: Equipment, setting_c: float | None) -> dict[str, Any]:
    """The fields of a stage that describe its equipment."""
    taught = facts_taught(equipment)
    if equipment.kind == "pan":
        return {"pan": equipment.vessel | taught}
    off = off_of(equipment, setting_c) if setting_c is not None else 0.0
    return ({"offset_k": off} if off else {}) | taught


def _read_c(text: str, units: Units) -> float | None:
    try:
        return parse_temperature(text, units.temperature)
    except BadInput:
        return None


def _setting_c(form: StageForm) -> float | None:
    key = SETTINGS.get(form.kind, "")
    value = form[key].value() if key in form.fields else None
    return float(value) if isinstance(value, int | float) else _read_c(str(value), form.units)


def choices_for(kitchen: Kitchen, bench: Bench) -> dict[int, KitChoice]:
    """For each pan and oven stage the kitchen's equipment, and the piece the plan describes."""
    wanted = [form for form in bench.stages if form.kind in KINDS]
    there = _there(kitchen) if wanted else []
    choices = {}
    for form in wanted:
        rows = tuple(e for e in there if e.kind == form.kind)
        along = passthrough_of(form[ALONG].value())
        carried = {key: along[key] for key in TOLD if along.get(key)}
        chosen = next((e.pk for e in rows if carried and _facts(e, _setting_c(form)) == carried), None)
        if rows:
            choices[form.index] = KitChoice(form.index, rows, chosen)
    return choices


def with_kit(data: Mapping[str, str], kitchen: Kitchen, units: Units) -> Mapping[str, str]:
    """The posted data; with "do" of kit:STAGE the stage takes over the chosen equipment's values."""
    verb, _, stage = data.get("do", "").partition(":")
    if verb != "kit" or f"s{stage}-kind" not in data:
        return data
    values = dict(data.items())
    key, kind = parse_count(values.get(f"s{stage}-kit")), values[f"s{stage}-kind"]
    along = passthrough_of(values.get(f"s{stage}-{ALONG}"))
    along = {name: value for name, value in along.items() if name not in (TOLD[:1] if kind == "pan" else TOLD[1:])}
    chosen = next((e for e in _there(kitchen) if e.pk == key and e.kind == kind), None) if key is not None else None
    if chosen is not None:
        along |= _facts(chosen, _read_c(values.get(f"s{stage}-{SETTINGS.get(kind, '')}", ""), units))
    values[f"s{stage}-{ALONG}"] = json.dumps(along) if along else ""
    return values
