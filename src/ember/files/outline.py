"""The outline of a piece in a plan: its family and its sizes, or thicknesses as traced. Lengths in mm."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from .base import FileModel

Family = Literal["steak", "medallion", "fillet", "breast", "chop", "tail", "roll", "chunk", "lump", "traced"]
End = Literal["square", "round", "cut"]

Length = Annotated[float, Field(ge=1, le=2000)]
Place = Annotated[float, Field(ge=0, le=2000)]

# Families whose row runs from the middle to an edge; the others from the thick end to the thin one.
MIRRORED: tuple[Family, ...] = ("steak", "medallion", "roll", "chunk", "lump")
TAPERED: tuple[Family, ...] = ("fillet", "breast", "tail")
ROUND: tuple[Family, ...] = ("tail", "roll")
# Lie flat on a pan under their own weight; common practice.
SOFT: tuple[Family, ...] = ("fillet", "breast", "tail", "traced")
THINNEST = 0.15  # of the thickest: less curls, dries or is cut off


class Bone(FileModel):
    """A bone at one end of the row."""

    end: Literal["thick", "thin"] = "thick"
    mm: float = Field(ge=1, le=80)


class Outline(FileModel):
    """The piece across its row, `row_mm` long: a steak's width, a breast's or tail's length, a medallion's diameter.

    `thick_mm`: the greatest thickness or diameter, the shape's own size where left out. `thin_mm`: at the thin end.
    `other_mm`: the third size. `keep`: share of the row at full thickness. `ends`: the thick one, then the thin one; of
    a mirrored family the first is "cut". `lies`: soft flesh drapes onto a pan, of stiff flesh only what is within a
    millimetre of it touches; left out, its family decides. `trace`: places along the row and the thickness there;
    it goes before the numbers.
    """

    family: Family
    thick_mm: Length | None = None
    thin_mm: Length | None = None
    row_mm: Length | None = None
    other_mm: Length | None = None
    keep: float | None = Field(None, ge=0, le=0.95)
    ends: tuple[End, End] | None = None
    bone: Bone | None = None
    lies: Literal["soft", "stiff"] | None = None
    trace: tuple[tuple[Place, Length], ...] | None = Field(None, min_length=3, max_length=60)

    @property
    def drapes(self) -> bool:
        """Whether all of its underside lies on a pan."""
        return self.lies == "soft" if self.lies is not None else self.family in SOFT

    def thicker(self, times: float) -> Self:
        """The same outline, its thicknesses multiplied."""
        change = {name: None if mm is None else mm * times for name, mm in self if name in ("thick_mm", "thin_mm")}
        trace = self.trace and tuple((place, thick * times) for place, thick in self.trace)
        return self.model_copy(update={**change, "trace": trace})

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
        if self.family not in TAPERED and self.thin_mm is not None:
            raise ValueError(f"a {self.family} has no thin end: leave thin_mm out")
        if self.bone is not None and self.family != "chop":
            raise ValueError("only a chop has its bone in the outline")
        if self.ends is not None and (self.ends[0] == "cut") != (self.family in MIRRORED) and self.family != "traced":
            raise ValueError("the first end of a mirrored family is cut, of the others square or round")
        if self.ends is not None and self.ends[1] == "cut":
            raise ValueError("the thin end is square or round")
        return self
