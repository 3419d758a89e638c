"""Every write of photographs and their measurements."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import transaction

from ember.face.apart import Kept
from kitchen.accounts.models import Kitchen, Person
from kitchen.line.models import Cook
from kitchen.line.taps import tapped_at

from . import store
from .models import FaceMeasure, FacePhoto, FaceRemoval, FaceRuler

MONTH_D = 365.2425 / 12  # of the Gregorian year
OVER = "kept as long as this kitchen decided"


def known(kitchen: Kitchen, sent_sha256: str, cook: Cook | None) -> FacePhoto | None:
    """The photograph of a file that was sent before, to the same cook."""
    rows = FacePhoto.objects.of(kitchen).filter(sent_sha256=sent_sha256, cook=cook, removal=None)
    return rows.first()


@transaction.atomic
def take(
    kitchen: Kitchen, person: Person, kept: Kept, sent_sha256: str, cook: Cook | None, cut: str, mm: float
) -> FacePhoto:
    """Keep a photograph; one that was sent before is found again. Raises QuotaError."""
    Kitchen.objects.select_for_update(no_key=True).get(pk=kitchen.pk)  # two at once count against the same quota
    if (before := known(kitchen, sent_sha256, cook)) is not None:
        return before
    return FacePhoto.objects.create(
        kitchen=kitchen, cook=cook, by=person, at=tapped_at(kitchen), cut=cut, mm=mm,
        sha256=store.keep(kitchen, kept.jpeg), sent_sha256=sent_sha256, bytes=len(kept.jpeg), width=kept.width,
        height=kept.height,
    )  # fmt: skip


def measure(
    photo: FacePhoto, person: Person, frame: dict[str, Any], mm: float, answer: dict[str, Any],
    promised: dict[str, Any] | None, guess_word: str, guess_mm: float | None,
) -> FaceMeasure:  # fmt: skip
    """Keep what was read, or why it was refused. A guess counts once: before the first answer was seen."""
    if any(not row.refused for row in photo.measures.all()):
        guess_word, guess_mm = "", None
    return FaceMeasure.objects.create(
        kitchen=photo.kitchen, photo=photo, by=person, at=photo.kitchen.now(), frame=frame, mm=mm, answer=answer,
        promised=promised, guess_word=guess_word, guess_mm=guess_mm,
    )  # fmt: skip


def rule(photo: FacePhoto, person: Person, word: str, bands: dict[str, Any], core_c: float | None) -> FaceRuler:
    """Keep what a ruler and a probe said of the slice."""
    return FaceRuler.objects.create(
        kitchen=photo.kitchen, photo=photo, by=person, at=photo.kitchen.now(), word=word, bands=bands, core_c=core_c
    )


def remove(photo: FacePhoto, person: Person | None, why: str) -> FaceRemoval:
    """Keep the picture no longer; what was measured on it stays. Twice does nothing."""
    with transaction.atomic():
        removal, is_new = FaceRemoval.objects.get_or_create(
            photo=photo, defaults={"kitchen": photo.kitchen, "by": person, "at": photo.kitchen.now(), "why": why}
        )
    if is_new:
        same = FacePhoto.objects.of(photo.kitchen).filter(sha256=photo.sha256, removal=None).exclude(pk=photo.pk)
        if not same.exists():
            store.path_of(photo).unlink(missing_ok=True)
    return removal


def retire(kitchen: Kitchen) -> int:
    """Remove pictures that were kept as long as the kitchen decided; returns how many."""
    if kitchen.photos_kept_months is None:
        return 0
    before = kitchen.now() - dt.timedelta(days=MONTH_D * kitchen.photos_kept_months)
    rows = list(FacePhoto.objects.of(kitchen).filter(at__lt=before, removal=None).select_related("kitchen"))
    for photo in rows:
        remove(photo, None, OVER)
    return len(rows)
