"""Differences between two versions of a plan, in a cook's words and in SI with units that pages convert."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from difflib import SequenceMatcher
from typing import Any

from ember.food.catalogue import cuts
from ember.judge.standards import standards
from ember.methods.prep import prep_kinds
from kitchen.units.number_text import figure, minutes_text

from .outline_form import EVEN, FLAT, ROLLS, ROW_WORDS, TRACED
from .stage_kinds import STAGE_KINDS, Choice

PIECE_WORDS = {
    "mass_g": ("Mass", "g"), "count": ("Pieces", ""), "spread_mm": ("Thin to thick", "mm"), "width_mm": ("Width", "mm"),
    "length_mm": ("Length", "mm"), "start_c": ("Start", "°C"),
    "fat_cap_mm": ("Fat cap", "mm"), "trim_pct": ("Trim", "%"), "bone_pct": ("Bone", "%"),
    "portions": ("Portions per piece", ""), "origin": ("Origin", ""), "stuffed": ("Stuffed", ""),
}  # fmt: skip
DEFAULT = {"count": 1, "spread_mm": 0, "origin": "farmed", "stuffed": False, "trim_pct": 0, "portions": 1}
ENDS = {
    "core_c": ("until core", " °C"), "peak_c": ("to peak at", " °C"), "surface_c": ("until outside", " °C"),
    "log10": ("until log", ""),
}  # fmt: skip
MOST = 20


def _said(value: Any, unit: str = "") -> str:
    if value is None or value == "":
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    text = figure(float(value), 2) if isinstance(value, int | float) else str(value)
    return f"{text} {unit}".strip() if not text.endswith(unit) or not unit else text


def _turned(what: str, before: Any, after: Any, unit: str = "") -> Iterator[str]:
    if before != after:
        yield f"{what} {_said(before, unit)} → {_said(after, unit)}"


def _size(piece: Mapping[str, Any]) -> float | None:
    shape = piece.get("shape", {})
    size: float | None = shape.get("thickness_mm") or shape.get("diameter_mm")
    return size


def _piece(old: Mapping[str, Any], new: Mapping[str, Any]) -> Iterator[str]:
    if old.get("cut") != new.get("cut"):
        names = [cuts()[p["cut"]].name if p.get("cut") in cuts() else str(p.get("cut")) for p in (old, new)]
        yield f"Cut {names[0]} → {names[1]}"
    if old.get("shape", {}).get("kind") != new.get("shape", {}).get("kind"):
        yield f"Shape {old['shape']['kind'].replace('_', ' ')} → {new['shape']['kind'].replace('_', ' ')}"
    yield from _turned("Size", _size(old), _size(new), "mm")
    factors = [piece.get("shape", {}).get("size_factor", 1.0) for piece in (old, new)]
    yield from _turned("Thickness for its mass ×", *factors)
    yield from _outline(old.get("outline") or {}, new.get("outline") or {})
    for key, (word, unit) in PIECE_WORDS.items():
        yield from _turned(word, old.get(key, DEFAULT.get(key)), new.get(key, DEFAULT.get(key)), unit)
    yield from _turned(
        "Inside", ", ".join(old.get("history", [])) or "whole", ", ".join(new.get("history", [])) or "whole"
    )


def _outline(old: Mapping[str, Any], new: Mapping[str, Any]) -> Iterator[str]:
    names = dict([EVEN, *FLAT, *ROLLS, TRACED])
    before, after = (names[outline.get("family", "")] for outline in (old, new))
    if before != after:
        yield f"Outline: {before.lower()} → {after.lower()}"
    row, other = ROW_WORDS.get(new.get("family") or old.get("family") or "", ("Row", "Across"))
    for key, word in (("row_mm", row), ("thin_mm", "Thin end"), ("other_mm", other)):
        yield from _turned(word, old.get(key), new.get(key), "mm")
    yield from _turned("Bone in it", (old.get("bone") or {}).get("mm"), (new.get("bone") or {}).get("mm"), "mm")
    if old.get("trace") != new.get("trace"):
        yield "Trace changed"


def _end(stage: Mapping[str, Any]) -> str:
    if stage.get("seconds_a_side") is not None:
        return f"{figure(stage['seconds_a_side'], 1)} s a side"
    until = stage.get("until") or {}
    for key, (words, unit) in ENDS.items():
        if until.get(key) is not None:
            return f"{words} {figure(until[key], 1)}{unit}"
    minutes = stage.get("minutes")
    return f"for {minutes_text(float(minutes))}" if minutes else ""


def _stage(title: str, old: Mapping[str, Any], new: Mapping[str, Any]) -> Iterator[str]:
    yield from _turned(f"{title}:", _end(old), _end(new))
    fields = STAGE_KINDS[new["kind"]].fields
    ended = {"kind", "minutes", "until", "seconds_a_side"}
    for key in sorted((old.keys() | new.keys()) - ended):
        spec = fields.get(key)
        label = spec.label.lower() if spec else key.replace("_", " ")
        unit = "" if spec is None or isinstance(spec, Choice) else "°C" if spec.unit == "c" else spec.unit
        yield from _turned(f"{title}, {label}", old.get(key), new.get(key), unit)


def _chain(old: Sequence[Mapping[str, Any]], new: Sequence[Mapping[str, Any]]) -> Iterator[str]:
    def titles(stages: Sequence[Mapping[str, Any]]) -> list[str]:
        return [STAGE_KINDS[stage["kind"]].title for stage in stages]

    before, after = titles(old), titles(new)
    for what, a, b, c, d in SequenceMatcher(None, before, after, autojunk=False).get_opcodes():
        if what == "equal":
            for i, j in zip(range(a, b), range(c, d), strict=True):
                yield from _stage(after[j], old[i], new[j])
            continue
        yield from (f"Removed: {before[i].lower()} {_end(old[i])}".strip() for i in range(a, b))
        yield from (f"Added: {after[j].lower()} {_end(new[j])}".strip() for j in range(c, d))


def _prep(old: Sequence[Mapping[str, Any]], new: Sequence[Mapping[str, Any]]) -> Iterator[str]:
    def told(steps: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
        return {step["kind"]: step for step in steps}

    before, after = told(old), told(new)
    for kind in [*before, *(k for k in after if k not in before)]:
        name = prep_kinds()[kind].name
        if kind not in after:
            yield f"Removed: {name.lower()}"
        elif kind not in before:
            yield f"Added: {name.lower()}"
        elif before[kind] != after[kind]:
            yield f"{name} changed"


def changes(old: Mapping[str, Any], new: Mapping[str, Any]) -> list[str]:
    """Differences of `new`, a line each: "Bath, water 56 °C → 58 °C". Empty if there are none."""
    lines = [
        *_turned("Name", old.get("name", ""), new.get("name", "")),
        *_piece(old["piece"], new["piece"]),
        *_turned("Target", _wanted(old), _wanted(new)),
        *_turned("Guests", old.get("guests", "general"), new.get("guests", "general")),
        *_turned("Advisory", old.get("advisory", False), new.get("advisory", False)),
        *_turned("Standard", _standard(old), _standard(new)),
        *_prep(old.get("prep", []), new.get("prep", [])),
        *_chain(old["stages"], new["stages"]),
    ]
    return lines[:MOST]


def _wanted(document: Mapping[str, Any]) -> str:
    target = document.get("target") or {}
    return str(target.get("doneness") or (f"{figure(target['core_c'], 1)} °C" if target.get("core_c") else "nothing"))


def _standard(document: Mapping[str, Any]) -> str:
    known = standards().get(document.get("standard", "us-food-code-2022"))
    return known.name if known else str(document.get("standard"))
