"""The kitchen's own pans, ovens and baths on the bench: a pan's mass and material, offsets by check or calibration."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.core.exceptions import ValidationError

from ember.errors import BadInput
from ember.quantities import Units, parse_temperature
from kitchen.accounts.models import Kitchen
from kitchen.kit.calibration import facts_taught
from kitchen.kit.models import Equipment
from kitchen.kit.queries import off_of
from kitchen.web import parse_count

from .bench import Bench
from .stage_form import ALONG, StageForm, passthrough_of
from .stage_kinds import LOAD_KEYS, STAGE_KINDS

STAGES = {"pan": "pan", "oven": "oven", "bath": "bath", "fry": "fryer"}  # the equipment of each kind of stage
TOLD = ("pan", "offset_k", "back_k_min", "load")  # what a stage says of its equipment
SETTINGS = {"oven": "air_c", "bath": "water_c", "fry": "oil_c"}


@dataclass(frozen=True)
class KitChoice:
    """Equipment for a stage; `chosen` is its key, empty for a typical one."""

    stage: int
    rows: tuple[Equipment, ...]
    chosen: int | None


def _there(kitchen: Kitchen) -> list[Equipment]:
    return list(
        Equipment.objects.of(kitchen).current().filter(kind__in=STAGES.values()).prefetch_related("checks", "taught")
    )


def _facts(equipment: Equipment, setting_c: float | None) -> dict[str, Any]:
    """The fields of a stage that describe its equipment."""
    taught = facts_taught(equipment)
    if equipment.kind == "pan":
        return {"pan": equipment.vessel | taught}
    off = off_of(equipment, setting_c) if setting_c is not None and equipment.kind != "fryer" else 0.0
    load = {"load": equipment.load} if equipment.load else {}
    return ({"offset_k": off} if off else {}) | taught | load


def _read_c(text: str, units: Units) -> float | None:
    try:
        return parse_temperature(text, units.temperature)
    except BadInput:
        return None


def _setting_c(form: StageForm) -> float | None:
    key = SETTINGS.get(form.kind, "")
    value = form[key].value() if key in form.fields else None
    return float(value) if isinstance(value, int | float) else _read_c(str(value), form.units)


def _load_typed(form: StageForm) -> dict[str, float]:
    """Volume and heater in a stage's fields; empty if it has none, or they cannot be read."""
    load = {}
    for name, key in LOAD_KEYS.items():
        value = form[name].value() if name in form.fields else None
        try:
            number = value if isinstance(value, int | float) else form.fields[name].clean(value) if value else None
        except ValidationError:
            number = None
        if number is not None:
            load[key] = float(number)
    return load


def _load_texts(equipment: Equipment | None, units: Units) -> dict[str, str]:
    """Volume and heater as the fields of a stage show them; without equipment empty, so that usual ones apply."""
    load = equipment.load if equipment is not None else {}
    litres, power_w = load.get("litres"), load.get("power_w")
    return {
        "load_volume": "" if litres is None else f"{round(units.pot_volume_value(litres), 1):g}",
        "load_power": "" if power_w is None else f"{power_w:g}",
    }


def _alike(facts: Mapping[str, Any], carried: Mapping[str, Any]) -> bool:
    """Whether a stage says what its equipment says; a volume is as its field shows it."""
    loads = [dict(values.get("load", {})) for values in (facts, carried)]
    near = loads[0].keys() == loads[1].keys() and all(
        math.isclose(value, loads[1][key], rel_tol=0.02) for key, value in loads[0].items()
    )
    rest = [{key: value for key, value in values.items() if key != "load"} for values in (facts, carried)]
    return near and rest[0] == rest[1]


def choices_for(kitchen: Kitchen, bench: Bench) -> dict[int, KitChoice]:
    """For each stage on a pan, oven, bath or fryer the kitchen's own, and the one that the plan describes."""
    wanted = [form for form in bench.stages if form.kind in STAGES]
    there = _there(kitchen) if wanted else []
    choices = {}
    for form in wanted:
        rows = tuple(e for e in there if e.kind == STAGES[form.kind])
        along = passthrough_of(form[ALONG].value())
        carried = {key: along[key] for key in TOLD if along.get(key)}
        if load := _load_typed(form):
            carried["load"] = load
        chosen = next((e.pk for e in rows if carried and _alike(_facts(e, _setting_c(form)), carried)), None)
        if rows:
            choices[form.index] = KitChoice(form.index, rows, chosen)
    return choices


def with_kit(data: Mapping[str, str], kitchen: Kitchen, units: Units) -> Mapping[str, str]:
    """The posted data; with "do" of kit:STAGE the stage takes over the chosen equipment's values."""
    verb, _, stage = data.get("do", "").partition(":")
    if verb != "kit" or data.get(f"s{stage}-kind") not in STAGES:
        return data
    values = dict(data.items())
    key, kind = parse_count(values.get(f"s{stage}-kit")), values[f"s{stage}-kind"]
    along = passthrough_of(values.get(f"s{stage}-{ALONG}"))
    along = {name: value for name, value in along.items() if name not in (TOLD[:1] if kind == "pan" else TOLD[1:])}
    fitting = (e for e in _there(kitchen) if e.pk == key and e.kind == STAGES.get(kind))
    chosen = next(fitting, None) if key is not None else None
    if chosen is not None:
        facts = _facts(chosen, _read_c(values.get(f"s{stage}-{SETTINGS.get(kind, '')}", ""), units))
        along |= {name: value for name, value in facts.items() if name != "load" or kind == "oven"}
    for name, shown in _load_texts(chosen, units).items():
        if name in STAGE_KINDS[kind].fields:
            values[f"s{stage}-{name}"] = shown
    values[f"s{stage}-{ALONG}"] = json.dumps(along) if along else ""
    return values


def without_kit(document: dict[str, Any]) -> dict[str, Any]:
    """A plan's document without what it says of a kitchen's own equipment, for another kitchen."""
    stages = [{key: value for key, value in stage.items() if key not in TOLD} for stage in document["stages"]]
    return {**document, "stages": stages}
