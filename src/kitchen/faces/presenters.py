"""A photograph with its measurement for its page, the record and the report."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from ember.face.compare import BandRow, Comparison, across, compared
from ember.face.palette import is_red
from ember.food.catalogue import cut as cut_of
from kitchen.drawings.face_compare import FaceCompare, face_compare
from kitchen.line.models import Cook

from .forms import band_words
from .models import FaceMeasure, FacePhoto
from .words import sentences

PROBE_NEAR_K = 2.0


@dataclass(frozen=True)
class Eye:
    """What a person said before the measurement, and what it was; `off_mm`: said less measured, of the edge."""

    word: str
    is_right: bool
    mm: float | None
    measured_mm: float
    off_mm: float | None


@dataclass(frozen=True)
class CoreSeen:
    """The highest core a face tells of, °C, with a likely range. `by_plan`: red meat looks hotter the longer it was
    held; the plan's own time was allowed for.
    """

    middle_c: float
    low_c: float
    high_c: float
    by_plan: bool

    def denies(self, celsius: float) -> bool:
        """Whether a probe's highest is clearly outside of it."""
        return not self.low_c - PROBE_NEAR_K <= celsius <= self.high_c + PROBE_NEAR_K


def core_of(reading: Mapping[str, Any], promised: Mapping[str, Any] | None) -> CoreSeen:
    """What the colour of the middle tells of its heat; with a plan by what the planned face would look like."""
    shift = promised["peak_c"] - promised["core_c"]["p50"] if promised and "peak_c" in promised else None
    low, middle, high = (reading["core_c"][key] + (shift or 0.0) for key in ("p10", "p50", "p90"))
    return CoreSeen(middle, low, high, shift is not None)


@dataclass(frozen=True)
class FaceView:
    """A photograph on its page. `measure` is None before the first; `comparison` where it was not refused."""

    photo: FacePhoto
    measure: FaceMeasure | None
    comparison: Comparison | None
    drawing: FaceCompare | None
    says: tuple[str, ...]
    eye: Eye | None
    edge_word: str
    core: CoreSeen | None = None

    @property
    def cut_name(self) -> str:
        """What was cut."""
        return cut_of(self.photo.cut).name

    @property
    def name(self) -> str:
        """The cook's name, or what was cut."""
        return self.photo.cook.name if self.photo.cook else self.cut_name

    @property
    def record_url(self) -> str:
        """The page of its cook: the record once that is finished. Empty without a cook."""
        cook = self.photo.cook
        if cook is None:
            return ""
        return reverse("logbook:record" if cook.finished_at else "line:check", args=[cook.pk])

    @property
    def rows(self) -> Sequence[BandRow]:
        """Bands from the outside in."""
        return self.comparison.rows if self.comparison else ()

    @property
    def reading(self) -> dict[str, Any] | None:
        """The reading."""
        return self.measure.reading if self.measure else None

    @property
    def is_as_promised(self) -> bool:
        """Whether it was measured, promised, and came so."""
        return bool(self.comparison and self.measure and self.measure.promised and not self.comparison.findings)


def edge_word_of(cut_id: str) -> str:
    """The band below the crust, whose width somebody can guess: the grey edge of red meat. Empty for other flesh."""
    return band_words(cut_id)[1] if is_red(cut_id) else ""


def eye_of(measure: FaceMeasure, cut_id: str) -> Eye | None:
    """How good a guess was; None without one, or without a measurement."""
    reading = measure.reading
    if reading is None or not (measure.guess_word or measure.guess_mm is not None):
        return None
    word = edge_word_of(cut_id)
    said_mm = measure.guess_mm if word and word != reading["middle"] else None  # what is grey through has no edge
    edge = across(reading, word) / 2.0
    off = None if said_mm is None else said_mm - edge
    return Eye(measure.guess_word, measure.guess_word == reading["middle"], said_mm, edge, off)


def view_of(photo: FacePhoto) -> FaceView:
    """A photograph with its newest measurement."""
    measure = photo.measure
    reading = measure.reading if measure else None
    promised = measure.promised if measure else None
    comparison = compared(photo.cut, reading, promised, measure.mm) if measure and reading else None
    says = sentences(comparison, (promised or {}).get("heat", ""), promised is not None) if comparison else []
    drawing = face_compare(photo.cut, measure.frame, measure.mm, reading, promised) if measure else None
    guesses = [eye for row in photo.measures.all() if (eye := eye_of(row, photo.cut)) is not None]
    return FaceView(
        photo, measure, comparison, drawing, tuple(says), guesses[0] if guesses else None, edge_word_of(photo.cut),
        core_of(reading, promised) if reading else None,
    )  # fmt: skip


def faces_of(cook: Cook) -> list[FaceView]:
    """The photographs of a cook, the first one first."""
    return [view_of(photo) for photo in with_all(cook.faces.order_by("at", "id"))]


def rows_of(cook: Cook) -> list[dict[str, Any]]:
    """The photographs of a cook as they stand in its record."""
    if not cook.faces.all():
        return []
    return [_row(view) for view in faces_of(cook)]


def _row(view: FaceView) -> dict[str, Any]:
    measure, reading = view.measure, view.reading
    return {
        "sha256": view.photo.sha256, "at": view.photo.at.isoformat(), "by": str(view.photo.by),
        "says": list(view.says), "is_there": view.photo.is_there, "refused": measure.refused if measure else "",
        "bands_mm": reading["bands_mm"] if reading else None, "middle": reading["middle"] if reading else "",
        "core_c": {"p10": view.core.low_c, "p50": view.core.middle_c, "p90": view.core.high_c} if view.core else None,
    }  # fmt: skip


def with_all(photos: Any) -> Any:
    """Photographs with what is shown of them, in few queries."""
    related = photos.select_related("cook__kitchen", "by", "kitchen", "removal__by")
    return related.prefetch_related("measures__by", "rulers__by")
