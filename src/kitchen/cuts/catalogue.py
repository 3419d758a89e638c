"""The catalogue for its page: what sets each cut apart, and the filters."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from ember.food.catalogue import Cut, cuts
from ember.judge.categories import CATEGORIES
from ember.judge.doneness import scales
from ember.methods.library import body_of, methods
from kitchen.drawings.piece import PieceDrawing, piece_drawing

from .words import decided_by

WITHIN_MIN = (15, 30, 60, 120, 240)
FAMILIES = {
    "Meat": ("beef", "veal", "pork", "ham", "lamb", "goat", "rabbit", "ostrich"),
    "Game": ("venison", "roe", "boar", "hare", "pheasant", "partridge", "pigeon"),
    "Poultry": ("chicken", "turkey", "duck", "goose", "guineafowl", "quail"),
}  # whatever is none of these is fish and shellfish


@dataclass(frozen=True)
class MethodTime:
    """A method with the minutes it takes for the cut's usual size, from the refrigerator to ready."""

    key: str
    name: str
    minutes: float


@dataclass(frozen=True)
class CutRow:
    """One cut of the catalogue. `mass_g`: of its usual piece; `usual_word`: the doneness the times are for."""

    cut: Cut
    mass_g: float
    usual_word: str
    times: tuple[MethodTime, ...]
    decided_by: str
    drawing: PieceDrawing
    category: str

    @property
    def anchor(self) -> str:
        """Where it stands on its page."""
        return f"cut-{self.cut.id.replace('/', '-')}"

    @property
    def words(self) -> Any:
        """Its doneness words with their temperatures."""
        return scales()[self.cut.doneness][1:]

    @property
    def is_flat(self) -> bool:
        """Whether its thickness is its size."""
        return self.cut.form.kind == "slab"


@cache
def _usual() -> dict[str, Any]:
    path = Path(__file__).parent / "usual.json"  # written by tools/usual_times.py
    usual: dict[str, Any] = json.loads(path.read_text("utf-8"))
    return usual


@cache
def rows() -> tuple[CutRow, ...]:
    """Every cut, in the catalogue's order."""
    return tuple(_row(cut) for cut in cuts().values())


def _row(cut: Cut) -> CutRow:
    usual, form = _usual()[cut.id], cut.form
    times = sorted(usual["minutes"].items(), key=lambda pair: float(pair[1]))
    kind = "bird" if body_of(cut) == "bird" else form.kind
    long_mm = form.length_mm or form.size_mm
    return CutRow(
        cut, float(usual["mass_g"]), str(usual["word"]),
        tuple(MethodTime(key, methods()[key].name, float(minutes)) for key, minutes in times),
        decided_by(cut), piece_drawing(kind, form.size_mm, form.width_mm or form.size_mm, long_mm),
        CATEGORIES[cut.category],
    )  # fmt: skip


def _says(row: CutRow) -> str:
    cut = row.cut
    names = [time.name for time in row.times]
    return " ".join([cut.name, cut.id, *cut.tissue, *cut.methods, *names, row.category, row.decided_by]).lower()


@dataclass(frozen=True)
class Filters:
    """What is looked for: words, an animal, a method, and how long it may take."""

    text: str = ""
    animal: str = ""
    method: str = ""
    within_min: int = 0

    def holds(self, row: CutRow) -> bool:
        """Whether a cut is looked for: one method must fit both the method and the time."""
        if self.animal and row.cut.species != self.animal:
            return False
        if not all(word in _says(row) for word in self.text.lower().split()):
            return False
        if not self.method and not self.within_min:
            return True
        return any(
            (not self.method or time.key == self.method) and (not self.within_min or time.minutes <= self.within_min)
            for time in row.times
        )


def animals() -> list[tuple[str, list[str]]]:
    """Animals by family, in the catalogue's order."""
    there = list(dict.fromkeys(cut.species for cut in cuts().values()))
    known = {animal for family in FAMILIES.values() for animal in family}
    families = [(name, [animal for animal in there if animal in family]) for name, family in FAMILIES.items()]
    return [*families, ("Fish and shellfish", [animal for animal in there if animal not in known])]


def methods_there() -> list[tuple[str, str]]:
    """Methods that some cut has a time for, by name."""
    keys = {time.key for row in rows() for time in row.times}
    return sorted(((key, methods()[key].name) for key in keys), key=lambda pair: pair[1])


def by_animal(found: Iterable[CutRow]) -> dict[str, list[CutRow]]:
    """Cuts under the name of their animal."""
    groups: dict[str, list[CutRow]] = {}
    for row in found:
        groups.setdefault(row.cut.species.capitalize(), []).append(row)
    return groups
