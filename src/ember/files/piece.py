"""The piece: what is cooked, how big and of what shape. Lengths in mm, masses in g, temperatures in °C."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import FileModel
from .outline import ROUND, ROW_IS, SAME_MM, THINNEST, Outline

History = Literal["intact", "pierced", "tenderised", "injected", "brined", "minced", "stuffed", "frozen-parasite"]


LEAST_MASS_G, MOST_MASS_G = 1.0, 60_000.0


class Slab(FileModel):
    """A flat piece, heated through its two faces."""

    kind: Literal["slab"] = "slab"
    thickness_mm: float = Field(ge=1, le=600)


class Cylinder(FileModel):
    """A roll, heated from around."""

    kind: Literal["cylinder"] = "cylinder"
    diameter_mm: float = Field(ge=1, le=600)
    length_mm: float | None = Field(None, ge=1, le=2000)


class Sphere(FileModel):
    """A ball."""

    kind: Literal["sphere"] = "sphere"
    diameter_mm: float = Field(ge=1, le=600)


class General(FileModel):
    """Anything in between: area grows from the centre as r^exponent (0 slab, 1 cylinder, 2 sphere)."""

    kind: Literal["general"] = "general"
    thickness_mm: float = Field(ge=1, le=600)
    exponent: float = Field(ge=0, le=2)


class FromMass(FileModel):
    """The cut's typical form, scaled to `mass_g`; `size_factor`: thickness of a kitchen's own pieces relative to it."""

    kind: Literal["from_mass"] = "from_mass"
    size_factor: float = Field(1, ge=0.5, le=2)


Shape = Annotated[Slab | Cylinder | Sphere | General | FromMass, Field(discriminator="kind")]


class Properties(FileModel):
    """Constant properties, for verification."""

    k_w_mk: float = Field(gt=0, le=50)
    rho_kg_m3: float = Field(gt=10, le=10_000)
    cp_j_kgk: float = Field(gt=100, le=10_000)


class OwnCut(FileModel):
    """A kitchen's own cut: its name, and its own doneness words, each from its lower limit, °C, up, without raw."""

    name: str = Field(min_length=1, max_length=80)
    doneness: list[tuple[Annotated[str, Field(min_length=1, max_length=40)], Annotated[float, Field(ge=20, le=98)]]] = (
        Field(default_factory=list, max_length=8)
    )

    @model_validator(mode="after")
    def _words_in_order(self) -> OwnCut:
        lows = [low for _, low in self.doneness]
        words = [word.strip().lower() for word, _ in self.doneness]
        if any(b - a < 1.0 for a, b in pairwise(lows)):
            raise ValueError("doneness words go upwards, at least 1 °C apart")
        if len(set(words)) != len(words):
            raise ValueError("each doneness word once")
        return self


class Piece(FileModel):
    """What is cooked. `fat_cap_mm`: a layer of fat on the top side (all around a round piece), included in the size.

    `own_cut`: a kitchen's own, which is like `cut` except for what it states. `trim_pct` of the purchase is trimmed
    before cooking, `bone_pct` of the cooked piece is left after carving; `portions` are cut from one piece. `width_mm`,
    `length_mm`: measured sizes besides the shape's own; `outline`: the piece as it is, followed in sections.
    """

    cut: str = Field(max_length=80)
    shape: Shape
    start_c: float = Field(ge=-40, le=95)
    mass_g: float | None = Field(None, ge=LEAST_MASS_G, le=MOST_MASS_G)
    count: int = Field(1, ge=1, le=500)
    spread_mm: float = Field(0, ge=0, le=300)
    history: list[History] = Field(default_factory=list, max_length=8)
    origin: Literal["farmed", "wild"] = "farmed"
    treated: bool = False
    fat_cap_mm: float | None = Field(None, ge=0, le=60)
    skin: bool | None = None
    bone: bool | None = None
    stuffed: bool = False
    trim_pct: float = Field(0, ge=0, le=80)
    bone_pct: float | None = Field(None, ge=0, le=80)
    portions: int = Field(1, ge=1, le=200)
    own_cut: OwnCut | None = None
    composition: dict[str, float] | None = None
    properties: Properties | None = None
    width_mm: float | None = Field(None, ge=1, le=2000)
    length_mm: float | None = Field(None, ge=1, le=2000)
    outline: Outline | None = None

    @model_validator(mode="after")
    def _mass_for_its_form(self) -> Piece:
        if isinstance(self.shape, FromMass) and self.mass_g is None:
            raise ValueError("a shape from_mass needs mass_g")
        return self

    @model_validator(mode="after")
    def _outline_of_its_shape(self) -> Piece:
        """An outline is one of the shape it stands for: its thickest place is the shape's size."""
        found = self.outline
        if found is None:
            return self
        if self.stuffed:
            raise ValueError("a stuffed piece has no outline yet: leave it out")
        match self.shape:
            case Cylinder(diameter_mm=size) if found.family in (*ROUND, "traced"):
                pass
            case Slab(thickness_mm=size) if found.family not in ROUND:
                pass
            case _:
                raise ValueError(f"a {found.family} has the shape {'cylinder' if found.family in ROUND else 'slab'}")
        thick = max(t for _, t in found.trace) if found.trace is not None else (found.thick_mm or size)
        if abs(thick - size) > SAME_MM:
            raise ValueError(f"the outline is {thick:g} mm at its thickest, the shape {size:g} mm")
        thin = min(t for _, t in found.trace) if found.trace is not None else (found.thin_mm or size)
        if not THINNEST * size <= thin <= size:
            raise ValueError(f"the thin end is {THINNEST:.0%} of the thickness or more, and no thicker than it")
        self._sizes_agree(found)
        row = found.trace[-1][0] - found.trace[0][0] if found.trace is not None else float(found.row_mm or 0.0)
        if row < size:
            raise ValueError("the row is at least as long as the piece is thick: turn the outline round")
        return self

    def _sizes_agree(self, found: Outline) -> None:
        """Width and length beside an outline are its own."""
        of_row = ROW_IS.get(found.family)
        across = "length" if of_row == "width" else "width"
        pairs = [(of_row, found.row_mm), (across if of_row else None, found.other_mm)]
        if found.family == "medallion":
            pairs = [("width", found.row_mm), ("length", found.row_mm)]
        for name, of_outline in pairs:
            of_piece = getattr(self, f"{name}_mm") if name else None
            if of_piece is not None and of_outline is not None and abs(of_piece - of_outline) > SAME_MM:
                raise ValueError(f"the {name} is {of_piece:g} mm, in the outline {of_outline:g} mm")
