"""Equipment from a line of text: "2 ovens, 1 bath, 4 rings, 2 pans, a fridge"."""

from __future__ import annotations

import re
from collections import Counter
from typing import Any

from .models import Equipment

MOST_OF_A_KIND = 20
NUMBERS = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
           "nine": 9, "ten": 10}  # fmt: skip
WORDS = {
    Equipment.Kind.OVEN: ("oven", "combi", "combi oven", "fan oven"),
    Equipment.Kind.BATH: ("bath", "water bath"),
    Equipment.Kind.HOB: ("ring", "hob", "burner", "hob ring"),
    Equipment.Kind.PAN: ("pan", "frying pan", "skillet"),
    Equipment.Kind.PLANCHA: ("plancha", "griddle", "flat top"),
    Equipment.Kind.GRILL: ("grill",),
    Equipment.Kind.FRYER: ("fryer",),
    Equipment.Kind.SHELF: ("shelf", "rest shelf", "resting shelf"),
    Equipment.Kind.CUPBOARD: ("cupboard", "hot cupboard"),
    Equipment.Kind.FRIDGE: ("fridge", "walk-in", "cooler"),
    Equipment.Kind.CHILLER: ("chiller", "blast chiller"),
}
NAMES = {Equipment.Kind.HOB: "Ring", Equipment.Kind.SHELF: "Shelf", Equipment.Kind.CUPBOARD: "Cupboard"}
PLACES = {Equipment.Kind.OVEN: 4, Equipment.Kind.BATH: 10, Equipment.Kind.SHELF: 8, Equipment.Kind.CHILLER: 6}
# A common frying pan (common practice); the kitchen measures its own later.
PAN = {"diameter_mm": 280.0, "mass_kg": 1.8, "material": Equipment.Material.CARBON_STEEL}

_KIND_OF = {word: kind for kind, words in WORDS.items() for word in words}


class UnknownEquipment(ValueError):
    """Words that name no equipment, or a number that no kitchen has; the message says which."""


def _kind_of(word: str) -> Equipment.Kind | None:
    """The kind that a word names, in singular or plural."""
    candidates = (word, word.removesuffix("s"), word.removesuffix("ves") + "f")
    return next((_KIND_OF[each] for each in candidates if each in _KIND_OF), None)


def _counted(part: str) -> tuple[Equipment.Kind, int]:
    """The kind and number in "2 water baths". Raises UnknownEquipment."""
    first, _, rest = part.partition(" ")
    number = int(first) if first.isdecimal() and len(first) < 4 else NUMBERS.get(first)
    kind = _kind_of(rest.strip()) if number is not None else _kind_of(part)
    if kind is None:
        raise UnknownEquipment(f"“{part}” is not known. Use words like oven, bath, ring, pan, fridge.")
    count = 1 if number is None else number
    if not 1 <= count <= MOST_OF_A_KIND:
        raise UnknownEquipment(f"“{part}”: from 1 to {MOST_OF_A_KIND} of a kind.")
    return kind, count


def read_equipment(text: str) -> list[dict[str, Any]]:
    """The model fields of each piece named in a text, with usual sizes. Raises UnknownEquipment.

    >>> [item["name"] for item in read_equipment("2 ovens, a bath and 1 pan")]
    ['Oven 1', 'Oven 2', 'Bath', 'Pan']
    """
    parts = re.split(r",|;|\n|\band\b|\+", text.lower())
    counts: Counter[Equipment.Kind] = Counter()
    for part in parts:
        if words := " ".join(part.split()).strip(" ."):
            kind, count = _counted(words)
            counts[kind] += count
    items = []
    for kind, count in counts.items():
        if count > MOST_OF_A_KIND:
            raise UnknownEquipment(f"From 1 to {MOST_OF_A_KIND} of a kind: {count} is too many.")
        name = NAMES.get(kind, kind.label)
        for number in range(1, count + 1):
            own = {"kind": kind, "name": name if count == 1 else f"{name} {number}"}
            more = PAN if kind == Equipment.Kind.PAN else {"places": PLACES.get(kind)}
            items.append({**own, **more})
    return items
