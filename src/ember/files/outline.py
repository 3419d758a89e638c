"""The outline of a piece in a plan: its family and its sizes, or thicknesses as traced. Lengths in mm."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from .base import FileModel

Family = Literal["steak", "medallion", "fillet", "breast", "chop", "tail", "roll", "chunk", "lump", "dome", "traced"]
End = Literal["square", "round", "cut"]

Length = Annotated[float, Field(ge=1, le=2000)]
Place = Annotated[float, Field(ge=0, le=2000)]

# Families whose row runs from the middle to an edge; the others from the thick end to the thin one.
MIRRORED: tuple[Family, ...] = ("steak", "medallion", "roll", "chunk", "lump", "dome")
TAPERED: tuple[Family, ...] = ("fillet", "breast", "tail")
ROUND: tuple[Family, ...] = ("tail", "roll")
NEAR_ALL_ROUND: tuple[Family, ...] = ("chunk", "lump")  # with three near sizes
# Which of the piece's own sizes is the row; the other one is `other_mm`.
ROW_IS: dict[Family, Literal["width", "length"]] = {
    "steak": "width", "fillet": "width", "chop": "width", "chunk": "width", "lump": "width", "dome": "width",
    "breast": "length", "tail": "length", "roll": "length",
}  # fmt: skip
TIED: tuple[Family, ...] = (*TAPERED, "dome", "lump", "traced")  # a string makes them even; the others keep their shape
SAME_MM = 1.0  # sizes that differ by less are one
THINNEST = 0.15  # of the thickest: less curls, dries or is cut off


class Bone(FileModel):
    """A bone at one end of the row."""

    end: Literal["thick", "thin"] = "thick"
    mm: float = Field(ge=1, le=80)


class Outline(FileModel):
    """The piece across its row, `row_mm` long: a steak's width, a breast's or tail's length, a medallion's diameter.

    `thick_mm`: the greatest thickness or diameter, the shape's own size where left out. `thin_mm`: at the thin end.
    `other_mm`: the third size. `keep`: share of the row at full thickness. `ends`: the thick one, then the thin one, or
    "cut", a plane of symmetry, which the first of a mirrored family always is; left out, they are square. `lies`: soft
    flesh drapes onto a pan, of stiff flesh only what is within a millimetre of it touches. `trace`: places along the
    row and the thickness there; it goes before the numbers. `shield_mm`: of the thin end, wrapped in foil.
    """

    family: Family
    thick_mm: Length | None = None
    thin_mm: Length | None = None
    row_mm: Length | None = None
    other_mm: Length | None = None
    keep: float | None = Field(None, ge=0, le=0.95)
    ends: tuple[End, End] | None = None
    bone: Bone | None = None
    lies: Literal["soft", "stiff"] = "soft"
    trace: tuple[tuple[Place, Length], ...] | None = Field(None, min_length=3, max_length=60)
    shield_mm: float | None = Field(None, ge=1, le=1000)

    @property
    def drapes(self) -> bool:
        """Whether all of its underside lies on a pan."""
        return self.lies == "soft"

    def thicker(self, times: float) -> Self:
        """The same outline, its thicknesses multiplied."""
        change = {name: None if mm is None else mm * times for name, mm in self if name in ("thick_mm", "thin_mm")}
        trace = self.trace and tuple((place, thick * times) for place, thick in self.trace)
        return self.model_copy(update={**change, "trace": trace})

    def bigger(self, times: float) -> Self:
        """The same outline, all its lengths multiplied."""
        lengths = ("row_mm", "other_mm", "shield_mm")
        change: dict[str, object] = {name: mm * times for name, mm in self if name in lengths and mm is not None}
        if self.trace is not None:
            change["trace"] = tuple((place * times, thick) for place, thick in self.trace)
        if self.bone is not None:
            change["bone"] = self.bone.model_copy(update={"mm": self.bone.mm * times})
        return self.model_copy(update=change).thicker(times)

    @model_validator(mode="after")
    def _can_be(self) -> Outline:
        if self.family == "traced":
            if self.trace is None:
                raise ValueError("a traced outline needs its trace")
        elif self.trace is not None:
            raise ValueError("a trace is for the family traced")
        elif self.row_mm is None:
            raise ValueError(f"a {self.family} needs row_mm")
        if self.trace is not None and any(b[0] <= a[0] for a, b in pairwise(self.trace)):
            raise ValueError("the places of a trace go upwards")
        if self.family in TAPERED and self.thin_mm is None:
            raise ValueError(f"a {self.family} needs thin_mm")
        if self.family not in TAPERED and self.thin_mm not in (None, self.thick_mm):
            raise ValueError(f"a {self.family} has no thin end: leave thin_mm out")
        if self.family in NEAR_ALL_ROUND and self.other_mm is None:
            raise ValueError(f"a {self.family} needs other_mm, its third size")
        if self.bone is not None and self.family != "chop":
            raise ValueError("only a chop has its bone in the outline")
        if self.ends is not None and self.ends[0] == "cut" and self.family in (*TAPERED, "chop"):
            raise ValueError(f"the thick end of a {self.family} is square or round")
        if self.ends is not None and self.ends[1] == "cut":
            raise ValueError("the thin end is square or round")
        return self
