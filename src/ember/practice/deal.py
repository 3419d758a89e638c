"""A drill in the pan: the dish as described, and its hidden truth; the same number repeats it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import BadInput

Kind = Literal["turn", "baste", "oven", "rest", "cut"]


@dataclass(frozen=True)
class Dish:
    """A drill's subject: cut, approximate thickness, target word, pan and following place."""

    name: str
    cut: str
    thick_mm: float
    mass_g: float
    word: str
    pan_c: float
    oven_c: float | None = None
    advisory: bool = True


DISHES = (
    Dish("Strip steak", "beef/strip-loin", 27, 250, "medium-rare", 205),
    Dish("Flat iron", "beef/flat-iron", 22, 200, "medium", 200),
    Dish("Lamb rump", "lamb/rump", 42, 380, "medium", 200, 150),
    Dish("Pork chop", "pork/chop", 22, 210, "medium", 185, advisory=False),
    Dish("Roe loin", "venison/loin", 26, 190, "medium-rare", 205),
    Dish("Duck breast", "duck/breast", 27, 230, "medium", 180, 160),
    Dish("Cod loin", "cod/fillet", 31, 175, "firm", 200, 170),
    Dish("Chicken breast", "chicken/breast", 30, 205, "firm", 185, 175, False),
)


@dataclass(frozen=True)
class Level:
    """How far the truth may differ from the description, and whether the probe may be read."""

    number: int
    name: str
    size_share: float
    start_k: float
    pan_k: float
    oven_k: float
    dishes: tuple[int, ...]


LEVELS = (
    Level(1, "Easy", 0.05, 1.0, 8.0, 5.0, (0, 1, 4)),
    Level(2, "Unfamiliar kitchen", 0.12, 3.0, 20.0, 12.0, (0, 1, 2, 3, 4, 5)),
    Level(3, "Blind", 0.22, 5.0, 35.0, 22.0, tuple(range(len(DISHES)))),
)


@dataclass(frozen=True)
class Deal:
    """A drill: description and truth. The same level and seed give the same one."""

    level: Level
    seed: int
    dish: Dish
    told_mm: float
    size: float
    start_c: float
    pan_off_k: float
    oven_off_k: float

    @property
    def true_mm(self) -> float:
        """True thickness, mm."""
        return self.told_mm * self.size


@dataclass(frozen=True)
class Move:
    """An action of the trainee, s after the piece was laid in the pan."""

    kind: Kind
    s: float


def deal(level: int, seed: int) -> Deal:
    """A drill of a level. Raises BadInput for an unknown level."""
    dealt_level = next((one for one in LEVELS if one.number == level), None)
    if dealt_level is None:
        raise BadInput(f"levels are 1 to {len(LEVELS)}", "level")
    random = np.random.default_rng([level, seed])
    dish = DISHES[dealt_level.dishes[int(random.integers(len(dealt_level.dishes)))]]
    stated_mm = round(dish.thick_mm + float(random.uniform(-3, 3)))
    off = random.uniform(-1, 1, 4)
    return Deal(
        dealt_level, seed, dish, stated_mm, 1.0 + dealt_level.size_share * float(off[0]),
        5.0 + dealt_level.start_k * float(1.0 + off[1]),
        dealt_level.pan_k * float(off[2]), dealt_level.oven_k * float(off[3]),
    )  # fmt: skip
