"""The inactivation that counts for a piece: tables of its own kind of meat if there are any, else D and z.

The number shown for an organism then equals that of the rule's table.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Protocol

import numpy as np

from ..errors import BadInput
from ..kinetics.lethality import FLOOR_C, FloatArray, log_steps, organisms
from .standards import Rule, Standard, standard
from .verdict import JudgedFood, table_steps

TABLES = "usda-fsis-appendix-a-2021"  # the standard whose tables of Salmonella go by species and fat
MEAT_TABLE = "meat"
POULTRY = frozenset({"poultry", "poultry-offal"})
BIRDS = frozenset({"pheasant", "partridge", "pigeon", "quail", "guineafowl", "duck", "goose", "chicken", "turkey"})


class Inactivation(Protocol):
    """Log10 reduction of one organism in one kind of food."""

    @property
    def name(self) -> str:
        """Common name of the organism."""
        ...

    @property
    def source(self) -> str:
        """Source of the figures."""
        ...

    @property
    def floor_c(self) -> float:
        """Floor below which nothing counts, °C."""
        ...

    def steps(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """Log10 reduction within each interval, [n - 1], of temperatures [n]; or [n - 1, place] of [n, place]."""
        ...


@dataclass(frozen=True)
class ByTable:
    """A standard's table: log10 of its organism spread over each row's time."""

    name: str
    source: str
    log10: float
    rows: tuple[tuple[float, float], ...]

    @property
    def floor_c(self) -> float:
        """Its first row."""
        return self.rows[0][0]

    def steps(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """Log10 reduction within each interval; none below the first row, constant beyond the last one."""
        return self.log10 * table_steps(self.rows, time_s, np.asarray(temperature_c, dtype=float))


@dataclass(frozen=True)
class ByLine:
    """One D and z."""

    organism: str

    @property
    def name(self) -> str:
        """Common name."""
        return organisms()[self.organism].name

    @property
    def source(self) -> str:
        """Source of D and z."""
        return organisms()[self.organism].source

    @property
    def floor_c(self) -> float:
        """The floor of the published tables."""
        return FLOOR_C

    def steps(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """Log10 reduction within each interval."""
        return log_steps(organisms()[self.organism], time_s, temperature_c)


@dataclass(frozen=True)
class SlowestOf:
    """The slowest of several at each moment, for food that none of them was made for."""

    name: str
    source: str
    of: tuple[ByTable, ...]

    @property
    def floor_c(self) -> float:
        """The highest of their floors, °C."""
        return max(one.floor_c for one in self.of)

    def steps(self, time_s: FloatArray, temperature_c: FloatArray) -> FloatArray:
        """Log10 reduction within each interval."""
        return np.asarray(np.min([one.steps(time_s, temperature_c) for one in self.of], axis=0))


def _of_rule(rule: Rule, rules: Standard) -> ByTable:
    rows = tuple((c, s) for c, s in rule.points_c if s > 0)
    return ByTable(organisms()[rule.organism].name, f"{rules.name}, {rule.section}", float(rule.log10 or 0.0), rows)


@cache
def _poultry(species: str, fat_pct: float) -> Inactivation:
    """Salmonella in a bird: its own table by fat; for a bird without one the slowest column."""
    rules = standard(TABLES)
    tables = [rule for rule in rules.rules.values() if rule.for_species]
    own = next((rule for rule in tables if rule.is_for(species, fat_pct)), None)
    if own is not None:
        return _of_rule(own, rules)
    return SlowestOf(
        organisms()["salmonella"].name,
        f"{rules.name}: no table for this bird and its fat; the slowest poultry column at each temperature",
        tuple(_of_rule(rule, rules) for rule in tables),
    )


@cache
def _meat() -> Inactivation:
    rules = standard(TABLES)
    return _of_rule(rules.rules[MEAT_TABLE], rules)


def inactivations(rules: Standard, food: JudgedFood) -> Mapping[str, Inactivation]:
    """Inactivation for a piece by organism: the table of its own rule; for Salmonella that of its species."""
    by_organism: dict[str, Inactivation] = {key: ByLine(key) for key in organisms()}
    bird = food.category in POULTRY or food.species in BIRDS
    by_organism["salmonella"] = _poultry(food.species, food.fat_pct) if bird else _meat()
    for rule in reversed(food.rules(rules)):
        if rule.kind == "table":
            by_organism[rule.organism] = _of_rule(rule, rules)
    return by_organism


def inactivation_of(rules: Standard, food: JudgedFood, organism: str) -> Inactivation:
    """Inactivation of one organism. Raises BadInput for an unknown one."""
    inactivation = inactivations(rules, food).get(organism)
    if inactivation is None:
        raise BadInput(f"Unknown organism “{organism}”. There is: {', '.join(organisms())}.", "organism")
    return inactivation
