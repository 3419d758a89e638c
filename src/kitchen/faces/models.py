"""Photographs of cut faces and what was measured on them. All of it stands; the picture itself may be removed."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils.functional import cached_property

from kitchen.accounts.models import KitchenOwned

Who = settings.AUTH_USER_MODEL


class FacePhoto(KitchenOwned):
    """A photograph as it is kept: upright JPEG without what it said of place and device, by its digest.

    `sent_sha256`: digest of the file as it was sent, so that nothing is sent twice. `cook`, or else `cut` and `mm`
    alone. Append-only.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    cook = models.ForeignKey("line.Cook", on_delete=models.PROTECT, null=True, blank=True, related_name="faces")
    by = models.ForeignKey(Who, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    cut = models.CharField(max_length=80)
    mm = models.FloatField()
    sha256 = models.CharField(max_length=64)
    sent_sha256 = models.CharField(max_length=64)
    bytes = models.PositiveBigIntegerField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [
            models.Index(fields=["kitchen", "-at"], name="faces_of_a_kitchen"),
            models.Index(fields=["kitchen", "sent_sha256"], name="faces_by_what_was_sent"),
        ]

    def __str__(self) -> str:
        return f"{self.cut} of {self.at:%Y-%m-%d %H:%M}"

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("faces:face", args=[self.pk])

    @cached_property
    def measure(self) -> FaceMeasure | None:
        """The newest measurement; None before the first."""
        return max(self.measures.all(), key=lambda row: row.pk, default=None)

    @cached_property
    def ruler(self) -> FaceRuler | None:
        """What a ruler and a probe said of it, as corrected last; None if nobody measured."""
        return max(self.rulers.all(), key=lambda row: row.pk, default=None)

    @property
    def is_there(self) -> bool:
        """Whether the picture itself is still kept."""
        return not hasattr(self, "removal")


class FaceMeasure(KitchenOwned):
    """A framed photograph as it was read: `frame` {top, under, white} px, `mm` between top and underside.

    `answer`: as the command line answers, with `depth_mm` and `looks_c`; `promised`: the same of the plan's own face.
    `guess_word`, `guess_mm`: what the person said of the middle and of the grey edge before seeing the answer.
    Append-only.
    """

    photo = models.ForeignKey(FacePhoto, on_delete=models.PROTECT, related_name="measures")
    by = models.ForeignKey(Who, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    frame = models.JSONField()
    mm = models.FloatField()
    answer = models.JSONField()
    promised = models.JSONField(null=True, blank=True)
    guess_word = models.CharField(max_length=40, blank=True)
    guess_mm = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"measurement of {self.photo_id}"

    @property
    def refused(self) -> str:
        """Why it could not be read; empty if it was."""
        return str(self.answer.get("refused") or "")

    @property
    def reading(self) -> dict[str, Any] | None:
        """The reading; None if it was refused."""
        return None if self.refused else dict(self.answer)


class FaceRuler(KitchenOwned):
    """What a ruler and a probe say of the same slice: `bands` {word: [mm from the top, mm from the underside]} of where
    each band ends, and the highest core read. Append-only.
    """

    photo = models.ForeignKey(FacePhoto, on_delete=models.PROTECT, related_name="rulers")
    by = models.ForeignKey(Who, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    word = models.CharField(max_length=40)
    bands = models.JSONField(default=dict)
    core_c = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"ruler on {self.photo_id}"


class FaceRemoval(KitchenOwned):
    """A picture that is no longer kept, and why; by nobody where its time was over. Its record stays. Append-only."""

    photo = models.OneToOneField(FacePhoto, on_delete=models.PROTECT, related_name="removal")
    by = models.ForeignKey(Who, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    at = models.DateTimeField()
    why = models.CharField(max_length=300)

    def __str__(self) -> str:
        return f"{self.photo_id} removed: {self.why}"
