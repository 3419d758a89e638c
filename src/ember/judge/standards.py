"""Standards: codes of rules as data files, loaded and validated once."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import BaseModel, ConfigDict, model_validator

from ..errors import BadInput
from ..food.catalogue import Cut

NON_INTACT = {"pierced", "tenderised", "injected"}


class Rule(BaseModel):
    """One rule: what temperature for how long, where."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    section: str
    text: str
    kind: Literal["hold", "table", "surface"]
    points: tuple[tuple[float, float], ...]
    log10: float | None = None
    not_for_susceptible: bool = False
    caution: str = ""

    @property
    def points_c(self) -> tuple[tuple[float, float], ...]:
        """(°C, seconds) pairs, coldest first."""
        return tuple(((f - 32.0) / 1.8, seconds) for f, seconds in self.points)


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
    rules: dict[str, Rule]
    categories: dict[str, tuple[str, ...]]
    advisory: Advisory
    cautions: dict[str, str]

    @model_validator(mode="after")
    def _categories_name_rules(self) -> Standard:
        for category, names in self.categories.items():
            if not names or any(name not in self.rules for name in names):
                raise ValueError(f"category {category} names an unknown rule")
        return self

    def rules_for(self, category: str, susceptible: bool) -> list[Rule]:
        """The rules that may be met instead of one another, the usual one first."""
        found = [self.rules[name] for name in self.categories[category]]
        return [rule for rule in found if not (susceptible and rule.not_for_susceptible)]


@cache
def standards() -> dict[str, Standard]:
    """Standards by id."""
    found = {}
    for file in sorted(resources.files(__package__).joinpath("data/standards").iterdir(), key=lambda f: f.name):
        table = tomllib.loads(file.read_text("utf-8"))
        table["rules"] = {key: {"id": key, **row} for key, row in table["rules"].items()}
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
    if base in ("poultry", "game-wild"):
        return base
    if "minced" in done:
        return "minced"
    if done & NON_INTACT and base != "fish":
        return "non-intact-roast" if base == "meat-roast" else "non-intact"
    return base
