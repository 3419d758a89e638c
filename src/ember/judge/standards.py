"""Standards: codes of rules as data files, loaded and validated once."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import BadInput
from .categories import CATEGORIES

Unit = Literal["F", "C"]
Printed = float | tuple[float, float]


def celsius(value: float, unit: Unit) -> float:
    """A legal figure in °C.

    >>> round(celsius(145.0, "F"), 1)
    62.8
    """
    return (value - 32.0) / 1.8 if unit == "F" else value


def both_prints(value: Printed, unit: Unit) -> tuple[float, float]:
    """Both printed values of a figure, °C: converted from the legal unit, and as in the other column.

    A pair is (°F, °C) as printed; for a single °F the °C column has one decimal.

    >>> [round(c, 2) for c in both_prints((145, 63.0), "F")]
    [62.78, 63.0]
    """
    if isinstance(value, tuple):
        return celsius(value[0], unit), value[1]
    exact = celsius(value, unit)
    return exact, round(exact, 1) if unit == "F" else exact


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class _InUnits(_Row):
    """A row with temperatures in its standard's unit. A reading that meets either printed value meets the limit."""

    unit: Unit = "F"

    def least_c(self, value: Printed) -> float:
        """A lower limit, °C: the more lenient of its printed values."""
        return min(both_prints(value, self.unit))

    def most_c(self, value: Printed) -> float:
        """An upper limit, °C: the more lenient of its printed values."""
        return max(both_prints(value, self.unit))


class OvenRow(_Row):
    """An oven in which a table for roasts is valid: by its air and the roast's mass, kg; temperatures as in the
    rule.
    """

    air: Literal["still", "fan", "humid"]
    at_least: Printed | None = None
    at_most: Printed | None = None
    below_kg: float | None = None
    from_kg: float | None = None


class Rule(_InUnits):
    """One rule: what temperature for how long, where. `for_species`, `max_fat_pct`: what a table was made for."""

    id: str
    section: str
    text: str
    kind: Literal["hold", "table", "surface", "none", "come-up"]
    points: tuple[tuple[Printed, float], ...]
    log10: float | None = None
    organism: str = "salmonella"
    not_for_susceptible: bool = False
    for_species: tuple[str, ...] = ()
    max_fat_pct: float | None = None
    ovens: tuple[OvenRow, ...] = ()
    caution: str = ""

    @property
    def points_c(self) -> tuple[tuple[float, float], ...]:
        """(°C, seconds) pairs, coldest first, each at the more lenient of its printed values."""
        return tuple((self.least_c(at), seconds) for at, seconds in self.points)

    def is_for(self, species: str, fat_pct: float) -> bool:
        """Whether this rule applies to a piece: some tables are by species and fat."""
        if self.for_species and species not in self.for_species:
            return False
        return self.max_fat_pct is None or fat_pct <= self.max_fat_pct + 1e-9


class Barriers(_Row):
    """What keeps spores from growing in food packed without air.

    `needed`: without one it may not be stored that way at all; otherwise one of them removes the limit of days. `heat`:
    (°C, minutes), converted to other temperatures by `z_c`. `fish_frozen_only`: fish only if frozen before, during and
    after packing.
    """

    section: str
    needed: bool = False
    ph_max: float | None = None
    aw_max: float | None = None
    salt_water_min_pct: float | None = None
    cured: bool = False
    heat: tuple[float, float] | None = None
    z_c: float = 9.0
    fish_frozen_only: bool = False
    fish_section: str = ""
    fish_text: str = ""
    otherwise: str


class FreezeOption(_Row):
    """Held at or below `at` for `hours`; `after`: from when it has first reached that."""

    at: Printed
    hours: float
    after: Printed | None = None


class PhaseRule(_InUnits):
    """A rule for cooling, reheating, holding, thawing, freezing, storage, or time as the control.

    `steps`: (from, to, hours; 0: no limit of its own). `counts_from_cooking`: the cooling clock starts at the end of
    cooking, not at the first stage's upper limit. `unread_h`: a hold without a reading for longer is not shown. `kept`:
    by packaging, (at most °C, days). `texts` and `wants`: what its rows say, and what the longest of them requires.
    `barriers`: for storage without air. `roasts`: the same rule for a whole roast.
    """

    id: str
    section: str
    text: str
    steps: tuple[tuple[Printed, Printed, float], ...] = ()
    counts_from_cooking: bool = False
    to: Printed | None = None
    seconds: float = 0.0
    start: Printed | None = Field(None, alias="from")
    within_h: float | None = None
    limit: Printed | None = None
    allowed_h: float = 0.0
    unread_h: float = 0.0
    hours: float | None = None
    starts_at_most: Printed | None = None
    starts_at_least: Printed | None = None
    cool_hours: float | None = None
    cool_at_most: Printed | None = None
    between: tuple[Printed, Printed] | None = None
    options: tuple[FreezeOption, ...] = ()
    kept: dict[str, tuple[tuple[Printed, float], ...]] = {}
    wants: dict[str, str] = {}
    texts: dict[str, str] = {}
    barriers: Barriers | None = None
    roasts: dict[str, Any] = {}
    caution: str = ""

    @property
    def kind(self) -> str:
        """Its phase."""
        return self.id

    def for_roasts(self) -> PhaseRule:
        """The rule as it applies to a whole roast."""
        return self.model_validate({**self.model_dump(by_alias=True), **self.roasts}) if self.roasts else self


class ComeUp(_InUnits):
    """How long the coldest point may be between two temperatures on its way up: a condition of the process."""

    start: Printed = Field(alias="from")
    to: Printed
    hours: float
    section: str
    text: str


class Advisory(_Row):
    """The paragraph that allows undercooked food with a consumer advisory, and its categories."""

    section: str
    text: str
    categories: tuple[str, ...]


class Standard(_Row):
    """A code of rules."""

    id: str
    name: str
    edition: str
    source: str
    confidence: Literal["sure", "fair", "unsure"]
    unit: Unit = "F"
    rules: dict[str, Rule]
    categories: dict[str, tuple[str, ...]]
    advisory: Advisory | None = None
    cautions: dict[str, str]
    come_up: ComeUp | None = None
    phases: dict[str, PhaseRule] = {}

    @model_validator(mode="after")
    def _categories_name_rules(self) -> Standard:
        for category, names in self.categories.items():
            if not names or any(name not in self.rules for name in names):
                raise ValueError(f"category {category} names an unknown rule")
        if missing := [category for category in CATEGORIES if category not in self.categories]:
            raise ValueError(f"categories without a rule: {', '.join(missing)}")
        return self

    def rules_for(self, category: str, susceptible: bool, species: str = "", fat_pct: float = 100.0) -> list[Rule]:
        """Rules of which one must be met, the usual one first.

        Of tables by species and fat only the first that applies. None if the standard has no rule.
        """
        rules: list[Rule] = []
        for rule in (self.rules[name] for name in self.categories[category]):
            if (susceptible and rule.not_for_susceptible) or not rule.is_for(species, fat_pct):
                continue
            by_species = rule.kind == "table" and bool(rule.for_species)
            if not (by_species and any(other.kind == "table" and other.for_species for other in rules)):
                rules.append(rule)
        return rules

    def phase_rule(self, phase: str, category: str = "") -> PhaseRule:
        """The rule for a phase, with a whole roast's own one. Raises BadInput if the standard has none."""
        rule = self.phases.get(phase)
        if rule is None:
            raise BadInput(f"{self.name} has no rule here for {phase.replace('-', ' ')}.", "phase")
        return rule.for_roasts() if category in ("meat-roast", "cured-ham", "non-intact-roast") else rule

    def allows_advisory(self, category: str, susceptible: bool) -> bool:
        """Whether undercooked food of this category may be served to these guests with an advisory."""
        return self.advisory is not None and not susceptible and category in self.advisory.categories


def house_rule(category: str, core_c: float) -> Rule:
    """A kitchen's own stricter limit as a rule."""
    return Rule(
        id="house", section="House rule", unit="C", kind="hold", points=((core_c, 0.0),),
        text=f"House rule, {CATEGORIES[category].lower()}: core {core_c:g} °C",
    )  # fmt: skip


def _with_units(table: dict[str, Any]) -> dict[str, Any]:
    unit = {"unit": table.get("unit", "F")}
    for part in ("rules", "phases"):
        table[part] = {key: {"id": key, **unit, **values} for key, values in table.get(part, {}).items()}
    if "come_up" in table:
        table["come_up"] |= unit
    return table


@cache
def standards() -> dict[str, Standard]:
    """Standards by id."""
    folder = resources.files(__package__).joinpath("data/standards")
    tables = [tomllib.loads(file.read_text("utf-8")) for file in sorted(folder.iterdir(), key=lambda f: f.name)]
    return {table["id"]: Standard.model_validate(_with_units(table)) for table in tables}


def standard(standard_id: str) -> Standard:
    """The standard with this id; raises BadInput if there is none."""
    if standard_id not in standards():
        raise BadInput(f"Unknown standard “{standard_id}”. There is: {', '.join(standards())}.", "standard")
    return standards()[standard_id]
