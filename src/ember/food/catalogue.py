"""The catalogue of cuts: data files by family, loaded and validated once."""

from __future__ import annotations

import math
import tomllib
from difflib import get_close_matches
from functools import cache, cached_property
from importlib import resources
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import BadInput
from .composition import COMPONENTS, Composition

Tissue = Literal[
    "tender", "tough", "lean", "coarse", "fat-capped", "skin", "bone", "minced", "pressed", "brined",
]  # fmt: skip


class Form(BaseModel):
    """The typical piece of a cut: its mass if nobody weighed it, and its size if nobody measured it.

    Sizes in mm. With `radius_share` a body's smallest half-thickness is that share of the radius of a ball of the same
    mass. `grows`: whether a heavier piece is larger all round, or longer with the same cross-section. `dome`: what heat
    sees of its greatest thickness, of a flat piece that is thinner towards its sides.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: Literal["slab", "cylinder", "sphere"]
    thickness_mm: float | None = Field(None, gt=0)
    width_mm: float | None = Field(None, gt=0)
    length_mm: float | None = Field(None, gt=0)
    diameter_mm: float | None = Field(None, gt=0)
    radius_share: float | None = Field(None, gt=0, le=1)
    grows: Literal["all-round", "length"] = "all-round"
    own_exponent: float | None = Field(None, ge=0, le=2)
    dome: float = Field(1.0, ge=0.5, le=1)

    @model_validator(mode="after")
    def _has_its_sizes(self) -> Form:
        needed = {
            "slab": (self.thickness_mm, self.width_mm, self.length_mm),
            "cylinder": (self.diameter_mm, self.length_mm),
            "sphere": (self.diameter_mm,),
        }[self.kind]
        if any(size is None for size in needed):
            raise ValueError(f"a {self.kind} form lacks a size")
        return self

    @property
    def size_mm(self) -> float:
        """The size that decides the time, mm: thickness or diameter."""
        return float(self.thickness_mm or self.diameter_mm or 0.0)

    @property
    def exponent(self) -> float:
        """Growth of area from the centre: 0 slab, 1 cylinder, 2 sphere, or the form's own."""
        return (
            self.own_exponent
            if self.own_exponent is not None
            else {"slab": 0.0, "cylinder": 1.0, "sphere": 2.0}[self.kind]
        )


FAMILIES = ("beef", "veal", "pork", "lamb", "game", "poultry", "fish", "shellfish")


class Cut(BaseModel):
    """One row of the catalogue.

    `bone_share`, `stuffing_share`: radius of the bone or stuffing inside a round piece, as a share of the piece's.
    `thigh_share`: size of a whole bird's thigh relative to its breast. `treated`: bought with added salt and water.
    `curls`: what shrinks and lifts a thin piece off its pan. `methods`: the usual one first. `under`, `over`: what goes
    wrong.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str = Field(pattern=r"^[a-z]+/[a-z-]+$")
    name: str
    composition: tuple[float, float, float, float, float]
    form: Form
    stuffed_form: Form | None = None
    whole_form: Form | None = None
    whole_from_g: float = Field(math.inf, gt=0)
    fat_cap_mm: float = Field(0.0, ge=0, le=60)
    skin: bool = False
    bone: bool = False
    bone_share: float = Field(0.0, ge=0, le=0.5)
    stuffing_share: float = Field(0.5, ge=0.1, le=0.9)
    thigh_share: float | None = Field(None, gt=0, le=1)
    tissue: tuple[Tissue, ...] = Field(min_length=1)
    methods: tuple[str, ...] = Field(min_length=1)
    under: str
    over: str
    cautions: tuple[str, ...] = ()
    treated: bool = False
    curls: Literal["rim", "skin"] | None = None
    category: str
    category_wild: str | None = None
    doneness: str
    loss: str
    source: str
    confidence: Literal["sure", "fair", "unsure"]

    def form_of(self, mass_g: float, stuffed: bool = False) -> Form:
        """The typical form at a mass: from `whole_from_g` on the whole muscle, of which less is a portion."""
        if stuffed and self.stuffed_form is not None:
            return self.stuffed_form
        return self.whole_form if self.whole_form is not None and mass_g >= self.whole_from_g else self.form

    @property
    def species(self) -> str:
        """The first half of the id."""
        return self.id.split("/")[0]

    @cached_property
    def mass_fractions(self) -> Composition:
        """Composition as mass fractions."""
        return Composition.from_fractions({n: g / 100 for n, g in zip(COMPONENTS, self.composition, strict=True)})


@cache
def cuts() -> dict[str, Cut]:
    """Every cut by its id, family by family."""
    folder = resources.files(__package__).joinpath("data/cuts")
    catalogue: dict[str, Cut] = {}
    for family in FAMILIES:
        table = tomllib.loads(folder.joinpath(f"{family}.toml").read_text("utf-8"))
        catalogue |= {key: Cut(id=key, **{**table["defaults"], **values}) for key, values in table["cuts"].items()}
    return catalogue


def cut(cut_id: str) -> Cut:
    """The cut with this id.

    Raises BadInput with the nearest ids if there is none.
    """
    entry = cuts().get(cut_id)
    if entry is None:
        near = get_close_matches(cut_id, cuts(), n=3, cutoff=0.4)
        hint = f" Did you mean {', '.join(near)}?" if near else ""
        raise BadInput(f"Unknown cut “{cut_id}”.{hint}", "piece.cut")
    return entry
