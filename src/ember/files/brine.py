"""The brine request: how salt, sugar and curing salt are applied, and the result.

Masses in g, temperatures in °C, hours; `salt_pct` is of meat and water for an equilibrium brine, of the meat for dry
salt, of the brine's water for a strong or injected one.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationError, model_validator

from ..errors import BadInput
from .base import FileModel, StepOut
from .piece import Shape
from .wrong import describe_validation

FORMAT = "open-ember/brine"

School = Literal["equilibrium", "gradient", "dry", "injected"]
Product = Literal[
    "immersion", "pumped", "dry", "comminuted", "bacon-pumped", "bacon-immersion", "bacon-dry", "fish-smoked"
]
Flesh = Literal["meat", "poultry", "fish", "shellfish"]
Grams = Annotated[float, Field(ge=0, le=1_000_000)]


class CureIn(FileModel):
    """Curing salt: amount, and strength in per cent of sodium nitrite, which must be stated."""

    grams: float = Field(gt=0, le=100_000)
    nitrite_pct: float = Field(gt=0, le=100)


class SoakIn(FileModel):
    """Soaking in fresh water afterwards."""

    hours: float = Field(ge=0.01, le=336)
    water_g: Grams | None = None
    temp_c: float = Field(4.0, ge=-1, le=25)


class BrineRequest(FileModel):
    """A brine, a dry salting or an injection."""

    format: Literal["open-ember/brine"]
    version: Literal[1]
    school: School
    meat_g: float = Field(gt=0, le=1_000_000)
    water_g: Grams = 0.0
    salt_g: Grams | None = None
    salt_pct: float | None = Field(None, ge=0, le=36)
    sugar_g: Grams = 0.0
    cure: CureIn | None = None
    pickup_pct: float | None = Field(None, ge=0.1, le=60)
    size: Shape | None = None
    flesh: Flesh = "meat"
    cut: str | None = Field(None, max_length=80)
    treated: bool = False
    hours: float | None = Field(None, ge=0.01, le=2160)
    temp_c: float = Field(4.0, ge=-1, le=25)
    standard: str = "us-food-code-2022"
    product: Product | None = None
    want_pct: float | None = Field(None, ge=0.1, le=20)
    soak: SoakIn | None = None

    @model_validator(mode="after")
    def _one_salt(self) -> Self:
        if (self.salt_g is None) == (self.salt_pct is None):
            raise ValueError("give salt_g or salt_pct, one of them")
        if self.school != "dry" and self.water_g <= 0:
            raise ValueError("a brine needs its water_g")
        return self


class SaltPoint(FileModel):
    """Salt at a time: hours, per cent of the meat in the middle and on average, and per cent of the brine."""

    hours: float
    centre_pct: float
    mean_pct: float
    brine_pct: float


class BrineAnswer(FileModel):
    """The result of a brine. Salt in per cent of the meat's mass.

    `salt_pct_meat` is the simple calculation: shared evenly over meat and water, rubbed in, or by pick-up;
    `salt_pct_even` is at equilibrium of brine and the meat's own water, including its own salt. `nitrite_ppm` is
    ingoing sodium nitrite by the method's formula, None without curing salt. `product`: what it was judged as, None if
    the cook must choose first, or if no limit allows it. `centre_salt_pct` is after the hours, None without a size.
    """

    school: School
    salt_g: float
    salt_pct_meat: float
    salt_pct_brine: float | None
    sugar_pct_brine: float
    brine_g: float
    nitrite_ppm: float | None
    limit_ppm: float | None
    allowed: bool
    why: str
    formula: str
    product: Product | None
    centre_salt_pct: float | None
    mean_salt_pct: float | None
    hours_to_equilibrium: float | None
    hours_to_want: float | None
    salt_pct_even: float
    vessel_l: float
    steps: list[StepOut]
    course: list[SaltPoint]
    profile_mm: list[float]
    profile_pct: list[float]
    after_soak_pct: float | None
    warnings: list[str]
    cautions: list[str]


def same_recipe(recipe: object) -> dict[str, Any]:
    """A recipe in canonical JSON: every key, whatever standard it is judged by.

    Raises BadInput like parse_brine.
    """
    document: dict[str, Any] = parse_brine(recipe).model_dump(mode="json", exclude={"standard"})
    return document


def parse_brine(data: object) -> BrineRequest:
    """Validate a request. Raises BadInput with the place of the first error."""
    if isinstance(data, dict) and isinstance(data.get("cure"), dict) and "nitrite_pct" not in data["cure"]:
        raise BadInput(
            "say the curing salt's strength: 0.4 to 0.6 % or 6.25 % of sodium nitrite; the difference poisons",
            "cure.nitrite_pct",
        )
    try:
        return BrineRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
