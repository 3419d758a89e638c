"""What was learned of the kitchen's things, as plans take it in: an oven's and a bath's offset, a pan's contact, how
thick a cut is for its mass."""

from __future__ import annotations

import copy
from collections.abc import Mapping
from typing import Any

from kitchen.accounts.models import Kitchen

from .models import Equipment, Taught

OFFSETS = ("oven", "bath")


def facts_taught(equipment: Equipment) -> dict[str, float]:
    """What a stage says of equipment by what was learned of it; empty where nothing counts."""
    row = next((taught for taught in equipment.taught.all() if taught.undone_at is None), None)
    if row is None:
        return {}
    return {"contact": round(row.value, 3)} if row.kind == Taught.Kind.PAN else {"offset_k": round(row.value, 1)}


def size_factor_of(kitchen: Kitchen, cut: str) -> float | None:
    """How thick the kitchen's pieces of a cut are for their mass; None where nothing was learned."""
    row = Taught.objects.of(kitchen).current().filter(cut=cut).first()
    return None if row is None else round(row.value, 3)


def as_cooked(kitchen: Kitchen, document: dict[str, Any], kit: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    """A plan's document with what was learned of the equipment it is cooked on (`kit`: {stage: {"id"}}) and of its cut.

    What the plan itself says of a thing stays. The same document where nothing was learned.
    """
    rows = Equipment.objects.of(kitchen).filter(pk__in=[row["id"] for row in kit.values()]).prefetch_related("taught")
    there = {row.pk: row for row in rows}
    found = copy.deepcopy(document)
    for index, told in kit.items():
        stage, equipment = found["stages"][int(index)], there.get(told["id"])
        facts = facts_taught(equipment) if equipment else {}
        if stage["kind"] in OFFSETS and stage["kind"] == equipment.kind and not stage.get("offset_k"):  # type: ignore[union-attr]
            stage |= facts
        elif stage["kind"] == "pan" and facts and stage.get("pan") and stage["pan"].get("contact", 1.0) == 1.0:
            stage["pan"] |= facts
    shape = found["piece"]["shape"]
    if shape["kind"] == "from_mass" and shape.get("size_factor", 1.0) == 1.0:
        factor = size_factor_of(kitchen, found["piece"]["cut"])
        if factor is not None:
            shape["size_factor"] = factor
    return found if found != document else document
