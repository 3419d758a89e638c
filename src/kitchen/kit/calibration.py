"""Calibrated values of the kitchen's equipment in the form of plans: offsets of ovens and baths, pan contact, and
thickness of a cut for its mass.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping
from typing import Any

from ember.quantities import Units
from kitchen.accounts.models import Kitchen
from kitchen.units.number_text import fixed

from .models import Equipment, Taught

OFFSETS = ("oven", "bath")
HAVE_LOAD = ("oven", "bath", "fry")  # kinds of stages that stand on equipment with a volume and a heater of its own
# What a stage says of a thing, and to how many digits.
KEYS = {"oven": "offset_k", "bath": "offset_k", "pan": "contact", "door": "back_k_min"}
DIGITS = {"offset_k": 1, "contact": 3, "back_k_min": 1}


def facts_taught(equipment: Equipment) -> dict[str, float]:
    """Calibrated values for a stage's equipment; empty if none apply."""
    rows = [taught for taught in equipment.taught.all() if taught.undone_at is None]
    return {KEYS[fact.kind]: round(fact.value, DIGITS[KEYS[fact.kind]]) for fact in rows}


def size_factor_of(kitchen: Kitchen, cut: str) -> float | None:
    """Thickness of a cut's pieces in this kitchen relative to its standard for their mass; None without calibration."""
    fact = Taught.objects.of(kitchen).current().filter(cut=cut).first()
    return None if fact is None else round(fact.value, 3)


def as_cooked(kitchen: Kitchen, document: dict[str, Any], kit: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    """A plan's document with the calibrated values, volume and heater of its equipment (`kit`: {stage: {"id"}}) and
    the calibrated size of its cut.

    Values stated in the plan stay. The same document if there is nothing to add.
    """
    rows = (
        Equipment.objects.of(kitchen).filter(pk__in=[place["id"] for place in kit.values()]).prefetch_related("taught")
    )
    there = {place.pk: place for place in rows}
    cooked = copy.deepcopy(document)
    for index, values in kit.items():
        stage, equipment = cooked["stages"][int(index)], there.get(values["id"])
        if equipment is not None:
            _calibrate(stage, facts_taught(equipment))
            fill_load(stage, equipment)
    shape = cooked["piece"]["shape"]
    if shape["kind"] == "from_mass" and shape.get("size_factor", 1.0) == 1.0:
        factor = size_factor_of(kitchen, cooked["piece"]["cut"])
        if factor is not None:
            shape["size_factor"] = factor
    return cooked if cooked != document else document


def fill_load(stage: dict[str, Any], equipment: Equipment) -> None:
    """Add volume and heater of a stage's equipment where the plan states none."""
    if stage["kind"] in HAVE_LOAD and equipment.load and not stage.get("load"):
        stage["load"] = equipment.load


def _calibrate(stage: dict[str, Any], facts: Mapping[str, float]) -> None:
    """Add calibrated values of a stage's equipment where the plan states none."""
    if stage["kind"] in OFFSETS:
        stage |= {key: value for key, value in facts.items() if not stage.get(key)}
    elif stage["kind"] == "pan" and stage.get("pan") and stage["pan"].get("contact", 1.0) == 1.0:
        stage["pan"] |= facts


def amount(kind: str, value: float, units: Units) -> str:
    """A value in words: "8.3 cool", "12 % more heat", "4 % thicker", "14.2 a minute"."""
    if kind == "door":
        return f"{fixed(units.temperature_step(value), 1)}\u00b0 a minute"
    if kind in ("oven", "bath"):
        word = "hot" if value > 0 else "cool"
        return f"{fixed(abs(units.temperature_step(value)), 1)}\u00b0 {word}"
    word = {"pan": ("more heat", "less heat"), "cut": ("thicker", "thinner")}[kind][0 if value > 1 else 1]
    return f"{fixed(abs(100.0 * (value - 1.0)), 0)} % {word}"


def worked_in(said: dict[str, Any], cooked: dict[str, Any], kit: Mapping[str, Mapping[str, Any]], units: Units) -> str:
    """Calibrated values used by a cook beyond those stated in its plan, in words; empty if none."""
    sentences = []
    for index, (before, after) in enumerate(zip(said["stages"], cooked["stages"], strict=True)):
        name = kit.get(str(index), {}).get("name", "")
        if after.get("offset_k", 0) != before.get("offset_k", 0):
            sentences.append(f"{name} runs {amount('oven', after['offset_k'], units)}")
        if after.get("back_k_min") != before.get("back_k_min"):
            sentences.append(f"{name} comes back {amount('door', after['back_k_min'], units)} after its door")
        contact = [(stage.get("pan") or {}).get("contact", 1.0) for stage in (before, after)]
        if contact[0] != contact[1]:
            sentences.append(f"{name} passes {amount('pan', contact[1], units)}")
    sizes = [document["piece"]["shape"].get("size_factor", 1.0) for document in (said, cooked)]
    if sizes[0] != sizes[1]:
        sentences.append(f"the piece comes {amount('cut', sizes[1], units)} for its mass")
    return "; ".join(sentences)
