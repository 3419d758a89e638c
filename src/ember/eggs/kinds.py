"""Kinds of eggs: size by mass or girth, and composition."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict

from ..errors import BadInput

HOYT = 5.48e-4  # g/mm³: mass = HOYT · length · breadth²; Hoyt 1979, Auk 96:73, fresh eggs; from memory


class Kind(BaseModel):
    """A bird's egg: shares of its whole mass, shape, and the valid range of masses."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    sizes: dict[str, float]
    shape_index: float
    shell_share: float
    yolk_share: float
    shell_mm: float
    mass_g: tuple[float, float]
    source: str
    confidence: str

    @property
    def white_share(self) -> float:
        """Mass fraction of white."""
        return 1.0 - self.shell_share - self.yolk_share

    def breadth_mm(self, mass_g: float) -> float:
        """Widest diameter of an egg of this mass, mm.

        >>> round(kinds()["hen"].breadth_mm(58.0), 1)  # a hen's egg of class M is 43 mm across
        43.2
        """
        return float((mass_g * self.shape_index / HOYT) ** (1.0 / 3.0))

    def mass_of(self, girth_mm: float) -> float:
        """Mass of an egg by its girth, g."""
        return HOYT * (girth_mm / math.pi) ** 3 / self.shape_index


@cache
def kinds() -> dict[str, Kind]:
    """Kinds by id, small to large."""
    table = tomllib.loads(resources.files(__package__).joinpath("data/kinds.toml").read_text("utf-8"))
    return {key: Kind.model_validate({"id": key, **values}) for key, values in table.items()}


@dataclass(frozen=True)
class Egg:
    """One egg to cook."""

    kind: Kind
    mass_g: float
    start_c: float

    @property
    def breadth_mm(self) -> float:
        """Widest diameter, mm."""
        return self.kind.breadth_mm(self.mass_g)

    @property
    def length_mm(self) -> float:
        """Length, mm."""
        return self.breadth_mm / self.kind.shape_index

    @property
    def yolk_g(self) -> float:
        """Mass of its yolk, g."""
        return self.mass_g * self.kind.yolk_share

    @property
    def white_g(self) -> float:
        """Mass of its white, g."""
        return self.mass_g * self.kind.white_share


def egg_of(
    kind: str, mass_g: float | None = None, size: str | None = None, girth_mm: float | None = None, start_c: float = 4.0
) -> Egg:
    """An egg by its mass, size class or girth; without any the middle one of its kind.

    Raises BadInput for an unknown kind or size, or for an impossible egg.
    """
    if kind not in kinds():
        raise BadInput(f"Unknown kind of egg “{kind}”. There is: {', '.join(kinds())}.", "egg.kind")
    egg_kind = kinds()[kind]
    at = "egg.mass_g"
    if mass_g is None and girth_mm is not None:
        mass_g, at = egg_kind.mass_of(girth_mm), "egg.girth_mm"
    if mass_g is None and size is not None:
        if size not in egg_kind.sizes:
            raise BadInput(
                f"No size {size} of {egg_kind.name.lower()} eggs. There is: {', '.join(egg_kind.sizes)}.", "egg.size"
            )
        mass_g = egg_kind.sizes[size]
    if mass_g is None:
        mass_g = egg_kind.sizes.get("M", next(iter(egg_kind.sizes.values())))
    low, high = egg_kind.mass_g
    if not low <= mass_g <= high:
        raise BadInput(f"A {egg_kind.name.lower()} egg weighs {low:g} to {high:g} g (this one: {mass_g:.0f} g).", at)
    return Egg(egg_kind, mass_g, start_c)


@dataclass(frozen=True)
class Equivalent:
    """One egg of a kind compared with a medium hen's egg: by edible mass, yolk, white."""

    kind: Kind
    mass_g: float
    yolk_g: float
    white_g: float
    hen_eggs: float
    hen_yolks: float
    hen_whites: float


def equivalents() -> list[Equivalent]:
    """How many hen's eggs each kind replaces; hen sizes each by itself."""
    hen = egg_of("hen", size="M")
    eggs = []
    for kind in kinds().values():
        for mass_g in kind.sizes.values():
            egg = Egg(kind, mass_g, 4.0)
            eggs.append(
                Equivalent(
                    kind, mass_g, egg.yolk_g, egg.white_g, (egg.yolk_g + egg.white_g) / (hen.yolk_g + hen.white_g),
                    egg.yolk_g / hen.yolk_g, egg.white_g / hen.white_g,
                )
            )  # fmt: skip
    return eggs
