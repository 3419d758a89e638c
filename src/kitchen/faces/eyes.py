"""How good a person's eye is: the word and the grey edge named before the measurement was seen."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

from kitchen.accounts.models import Kitchen, Person

from .models import FaceMeasure
from .presenters import Eye, eye_of

MOST = 200  # of the newest
NEAR_MM = 1.0


@dataclass(frozen=True)
class EyeScore:
    """`faces` named; words right of those said; edges within NEAR_MM of those said, and how far off they are, mm: the
    median with its sign, less is too thin.
    """

    faces: int
    words: int
    words_right: int
    edges: int
    edges_near: int
    off_mm: float | None

    @property
    def advice(self) -> str:
        """What the errors have in common; empty where they have nothing."""
        if self.off_mm is None or self.edges < 3 or abs(self.off_mm) <= NEAR_MM:
            return ""
        return (
            "You see grey edges thinner than they are."
            if self.off_mm < 0
            else "You see grey edges wider than they are."
        )


def score_of(kitchen: Kitchen, person: Person) -> EyeScore | None:
    """A person's eye; None before the first face."""
    measures = FaceMeasure.objects.of(kitchen).filter(by=person).exclude(guess_word="", guess_mm=None)
    eyes: list[Eye] = []
    for measure in measures.order_by("-pk").select_related("photo")[:MOST]:
        eye = eye_of(measure, measure.photo.cut)
        if eye is not None:
            eyes.append(eye)
    if not eyes:
        return None
    errors_mm = [eye.off_mm for eye in eyes if eye.off_mm is not None]
    words = [eye for eye in eyes if eye.word]
    return EyeScore(
        len(eyes), len(words), sum(eye.is_right for eye in words), len(errors_mm),
        sum(abs(off) <= NEAR_MM for off in errors_mm),
        median(errors_mm) if errors_mm else None,
    )  # fmt: skip
