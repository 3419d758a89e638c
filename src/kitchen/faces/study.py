"""How well faces are read in this kitchen: photographs whose slice was measured with a ruler and a probe, too."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median
from typing import Any

from kitchen.accounts.models import Kitchen

from .forms import band_words
from .models import FaceMeasure, FacePhoto, FaceRuler
from .presenters import with_all

WANTED = 20
NEAR_MM = 1.0
GOOD = {"edges": 0.85, "words": 0.9, "cores": 0.8}  # of docs/face-protocol.md


@dataclass(frozen=True)
class Edge:
    """The end of a band from one side: by the photograph and by the ruler, mm."""

    word: str
    side: str
    read_mm: float
    ruler_mm: float

    @property
    def off_mm(self) -> float:
        """Read less measured."""
        return self.read_mm - self.ruler_mm

    @property
    def is_near(self) -> bool:
        """Whether it is within a millimetre."""
        return abs(self.off_mm) <= NEAR_MM


@dataclass(frozen=True)
class Slice:
    """A photograph with its ruler. `core_holds` is None where no probe was read."""

    photo: FacePhoto
    measure: FaceMeasure
    ruler: FaceRuler
    edges: tuple[Edge, ...]
    word_is_right: bool | None
    core_holds: bool | None


@dataclass(frozen=True)
class Count:
    """How many of how many are right, and whether that is as good as the protocol asks."""

    right: int
    of: int
    good: float

    @property
    def is_good(self) -> bool:
        """Whether the share is reached."""
        return self.of > 0 and self.right / self.of >= self.good


@dataclass(frozen=True)
class FaceStudy:
    """All slices of a kitchen. `median_mm`: of the errors of all edges; None without any."""

    slices: tuple[Slice, ...]
    refused: tuple[FacePhoto, ...]

    @property
    def edges(self) -> list[Edge]:
        """Every edge that was measured both ways."""
        return [edge for each in self.slices for edge in each.edges]

    @property
    def median_mm(self) -> float | None:
        """Median of the errors without their sign."""
        errors = [abs(edge.off_mm) for edge in self.edges]
        return median(errors) if errors else None

    @property
    def near(self) -> Count:
        """Edges within a millimetre."""
        return Count(sum(edge.is_near for edge in self.edges), len(self.edges), GOOD["edges"])

    @property
    def words(self) -> Count:
        """Words of the middle."""
        known = [each.word_is_right for each in self.slices if each.word_is_right is not None]
        return Count(sum(known), len(known), GOOD["words"])

    @property
    def cores(self) -> Count:
        """Probes within the band that was reading."""
        known = [each.core_holds for each in self.slices if each.core_holds is not None]
        return Count(sum(known), len(known), GOOD["cores"])


def study_of(kitchen: Kitchen) -> FaceStudy:
    """The study of a kitchen: every photograph with a ruler's measures, oldest first."""
    measured = FacePhoto.objects.of(kitchen).filter(rulers__isnull=False).distinct().order_by("at", "id")
    slices, refused = [], []
    for photo in with_all(measured):
        measure, ruler = photo.measure, photo.ruler
        if ruler is None or measure is None:
            continue
        if measure.reading is None:
            refused.append(photo)
        else:
            slices.append(slice_of(photo, measure, ruler, measure.reading))
    return FaceStudy(tuple(slices), tuple(refused))


def slice_of(photo: FacePhoto, measure: FaceMeasure, ruler: FaceRuler, reading: dict[str, Any]) -> Slice:
    """One slice: its edges by both, its word, and whether the probe is within what was reading."""
    core, seen_c = ruler.core_c, reading["core_c"]
    return Slice(
        photo, measure, ruler, tuple(_edges(photo, ruler, reading)),
        ruler.word == reading["middle"] if ruler.word else None,
        None if core is None else seen_c["p10"] <= core <= seen_c["p90"],
    )  # fmt: skip


def _edges(photo: FacePhoto, ruler: FaceRuler, reading: dict[str, Any]) -> Iterator[Edge]:
    depth = [0.0, 0.0]
    for word in band_words(photo.cut)[:-1]:
        mm = reading["bands_mm"].get(word, 0.0)
        if word == reading["middle"] or not isinstance(mm, list):
            return  # the middle has no end
        depth = [depth[0] + mm[0], depth[1] + mm[1]]
        for side, name in enumerate(("top", "underside")):
            by_ruler = ruler.bands.get(word, [None, None])[side]
            if by_ruler is not None:
                yield Edge(word, name, depth[side], by_ruler)
