"""Standards: codes of rules as data files, loaded and validated once."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import BadInput
from ..food.catalogue import Cut

NON_INTACT = {"pierced", "tenderised", "injected"}
# The safety categories, in a cook's words; every standard says what it asks of each.
CATEGORIES = {
    "meat": "Whole meat and farmed game", "beef-steak": "Beef steak, whole muscle", "meat-roast": "Whole roast",
    "offal": "Offal", "cured-ham": "Cured ham", "minced": "Minced meat",
    "non-intact": "Pierced, tenderised or injected", "non-intact-roast": "Pierced or injected roast",
    "ratite": "Ostrich", "poultry": "Poultry", "poultry-offal": "Poultry liver", "game-wild": "Wild game",
    "stuffed": "Stuffed", "fish": "Fish", "shellfish": "Prawns, crab, lobster", "molluscs": "Mussels, clams, oysters",
    "egg-served": "Egg, served at once", "egg-pooled": "Egg, pooled or held",
}  # fmt: skip
Unit = Literal["F", "C"]


def celsius(value: float, unit: Unit) -> float:
    """A legal figure in °C.

    >>> round(celsius(145.0, "F"), 1)
    62.8
    """
    return (value - 32.0) / 1.8 if unit == "F" else value


class Rule(BaseModel):
    """One rule: what temperature for how long, where."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    section: str
    text: str
    kind: Literal["hold", "table", "surface"]
    points: tuple[tuple[float, float], ...]
    unit: Unit = "F"
    log10: float | None = None
    organism: str = "salmonella"
    not_for_susceptible: bool = False
    birds: Literal["turkey", "other"] | None = None
    max_fat_pct: float | None = None
    caution: str = ""

    @property
    def points_c(self) -> tuple[tuple[float, float], ...]:
        """(°C, seconds) pairs, coldest first."""
        return tuple((celsius(at, self.unit), seconds) for at, seconds in self.points)

    def is_for(self, species: str, fat_pct: float) -> bool:
        """Whether this rule is for such a bird: some tables go by bird and fat."""
        if self.birds is not None and (self.birds == "turkey") != (species == "turkey"):
            return False
        return self.max_fat_pct is None or fat_pct <= self.max_fat_pct + 1e-9


class Barriers(BaseModel):
    """What keeps spores from growing in food packed without air. `needed`: without one it is not kept so at all;
    otherwise one of them lifts the days. `heat`: (°C, minutes), carried to other temperatures by `z_c`.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    section: str
    needed: bool = False
    ph_max: float | None = None
    aw_max: float | None = None
    salt_water_min_pct: float | None = None
    cured: bool = False
    heat: tuple[float, float] | None = None
    z_c: float = 9.0
    otherwise: str


class PhaseRule(BaseModel):
    """A rule for what comes beside cooking: cooling, reheating, holding, freezing, keeping, time as the control.

    Temperatures in the standard's unit. `steps`: (from, to, hours). `options`: (at most, hours). `kept`: by how it is
    packed, (at most, days). `wants`: what the longest row of a packing asks for. `barriers`: of the one without air.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    section: str
    text: str
    unit: Unit = "F"
    steps: tuple[tuple[float, float, float], ...] = ()
    to: float | None = None
    seconds: float = 0.0
    start: float | None = Field(None, alias="from")
    within_h: float | None = None
    limit: float | None = None
    allowed_h: float = 0.0
    hours: float | None = None
    starts_at_most: float | None = None
    starts_at_least: float | None = None
    cool_hours: float | None = None
    cool_at_most: float | None = None
    between: tuple[float, float] | None = None
    options: tuple[tuple[float, float], ...] = ()
    kept: dict[str, tuple[tuple[float, float], ...]] = {}
    wants: dict[str, str] = {}
    barriers: Barriers | None = None
    caution: str = ""

    @property
    def kind(self) -> str:
        """What kind of rule it is: its phase."""
        return self.id

    def c(self, value: float) -> float:
        """A temperature of this rule in °C."""
        return celsius(value, self.unit)


class ComeUp(BaseModel):
    """How long the way up may take."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    start: float = Field(alias="from")
    to: float
    hours: float
    text: str
    unit: Unit = "F"


class Advisory(BaseModel):
    """The paragraph that lets undercooked food be served with a warning."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    section: str
    text: str


class Standard(BaseModel):
    """A code of rules."""

    model_config = ConfigDict(extra="forbid", frozen=True)

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
        """The rules that may be met instead of one another, the usual one first.

        Of tables that go by bird and fat only the first that is for it.
        """
        found: list[Rule] = []
        for rule in (self.rules[name] for name in self.categories[category]):
            by_bird = rule.birds is not None
            if (susceptible and rule.not_for_susceptible) or not rule.is_for(species, fat_pct):
                continue
            if not (by_bird and any(other.birds is not None for other in found)):
                found.append(rule)
        return found


def house_rule(category: str, core_c: float) -> Rule:
    """A kitchen's own stricter limit as a rule."""
    return Rule(
        id="house", section="House rule", unit="C", kind="hold", points=((core_c, 0.0),),
        text=f"House rule, {CATEGORIES[category].lower()}: {core_c:g} °C in the middle",
    )  # fmt: skip


@cache
def standards() -> dict[str, Standard]:
    """Standards by id."""
    found = {}
    for file in sorted(resources.files(__package__).joinpath("data/standards").iterdir(), key=lambda f: f.name):
        table = tomllib.loads(file.read_text("utf-8"))
        unit = {"unit": table.get("unit", "F")}
        table["rules"] = {key: {"id": key, **unit, **row} for key, row in table["rules"].items()}
        table["phases"] = {key: {"id": key, **unit, **row} for key, row in table.get("phases", {}).items()}
        if "come_up" in table:
            table["come_up"] |= unit
        standard = Standard.model_validate(table)
        found[standard.id] = standard
    return found


def standard(standard_id: str) -> Standard:
    """The standard with this id; raises BadInput when there is none."""
    if standard_id not in standards():
        raise BadInput(f"Unknown standard “{standard_id}”. There is: {', '.join(standards())}.", "standard")
    return standards()[standard_id]


def category_of(cut: Cut, history: list[str], origin: str) -> str:
    """The safety category of a piece: its cut's own, changed by what was done to it."""
    done = set(history)
    base = cut.category_wild if origin == "wild" and cut.category_wild else cut.category
    if "stuffed" in done:
        return "stuffed"
    if base in ("poultry", "poultry-offal", "game-wild", "ratite", "egg-served", "egg-pooled"):
        return base
    if "minced" in done:
        return "minced"
    if done & NON_INTACT and base not in ("fish", "shellfish", "molluscs"):
        return "non-intact-roast" if base in ("meat-roast", "cured-ham") else "non-intact"
    return base
