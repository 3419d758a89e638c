"""A method applied to a plan's piece: its stages with the numbers filled in."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..food.catalogue import cut
from ..kinetics.texture import factor_of, hours_to_tender
from .library import Method, body_of

ROUND_SIDES = 4
PAN_LIKE = ("pan", "plancha", "grill")
LIMITS_C = {"water_c": (0.0, 99.0), "air_c": (30.0, 320.0)}


def _filled(value: Any, aim_c: float, tender_min: float) -> Any:
    if isinstance(value, Mapping):
        return {key: _filled(inner, aim_c, tender_min) for key, inner in value.items()}
    if value == "tender":
        return tender_min
    if isinstance(value, str) and value.split(" ")[0] == "aim":
        _, *more = value.split(" ")
        sign = -1.0 if more and more[0] == "-" else 1.0
        return round(aim_c + (sign * float(more[1]) if more else 0.0), 1)
    return value


def _stage(template: Mapping[str, Any], aim_c: float, tender_min: float, turned_round: bool) -> dict[str, Any]:
    stage: dict[str, Any] = {key: _filled(value, aim_c, tender_min) for key, value in template.items()}
    for key, (low, high) in LIMITS_C.items():
        if key in stage and isinstance(template[key], str):
            stage[key] = min(max(stage[key], low), high)
    if turned_round and stage["kind"] in PAN_LIKE and stage.get("sides") == 2:
        stage["sides"] = ROUND_SIDES
    return stage


def applied(method: Method, cut_id: str, aim_c: float) -> dict[str, Any]:
    """What a method makes of a plan: "stages", "prep", "target" if the method has its own core, and "start_c" if it has
    its own start.

    `aim_c`: target peak core, °C. Raises BadInput for an unknown cut.
    """
    cut_entry = cut(cut_id)
    aim = method.aim_c if method.aim_c is not None else aim_c
    tender = 0.0
    if method.tender_c is not None:
        tender = float(5 * round(hours_to_tender(method.tender_c, factor_of(cut_id)) * 12))
    document: dict[str, Any] = {
        "stages": [_stage(stage, aim, tender, body_of(cut_entry) != "flat") for stage in method.stages],
        "prep": [dict(step) for step in method.prep],
    }
    if method.aim_c is not None:
        document["target"] = {"core_c": method.aim_c}
    if method.start_c is not None:
        document["start_c"] = method.start_c
    return document
