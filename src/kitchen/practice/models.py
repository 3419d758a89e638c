"""A person's practice: calls before the probe is read, drills without food, and sharing."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned


class Call(KitchenOwned):
    """A sense's estimate of a core before the probe was read, °C; `read_c` once it was. Of a `cook`, if any."""

    class Sense(models.TextChoices):
        PRESS = "press", "Press"
        PIN = "pin", "Cake tester on the lip"
        JUICES = "juices", "Juices"
        CUT = "cut", "Cut face"
        OPACITY = "opacity", "Opacity"
        WOBBLE = "wobble", "Wobble"
        FLOAT = "float", "Float"

    token = models.UUIDField(unique=True, default=uuid.uuid4)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="calls")
    cook = models.ForeignKey("line.Cook", null=True, blank=True, on_delete=models.SET_NULL, related_name="calls")
    name = models.CharField(max_length=120)
    cut = models.CharField(max_length=80, blank=True)
    wanted = models.CharField(max_length=40, blank=True)
    sense = models.CharField(max_length=8, choices=Sense)
    word = models.CharField(max_length=40, blank=True)
    called_c = models.FloatField()
    at = models.DateTimeField()
    read_c = models.FloatField(null=True, blank=True)
    read_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index(fields=["person", "-at"], name="calls_of_a_person")]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(called_c__gte=-20) & models.Q(called_c__lte=150), name="called_in_range"
            ),
            models.CheckConstraint(
                condition=models.Q(read_c=None, read_at=None) | models.Q(read_c__isnull=False, read_at__isnull=False),
                name="call_read_with_its_time",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.get_sense_display()} {self.called_c:g}"

    @property
    def off_k(self) -> float | None:
        """Error, K: called less measured."""
        return None if self.read_c is None else self.called_c - self.read_c


class Sharing(KitchenOwned):
    """Whether a person shares calls and drills with the chef of a kitchen; without a row they do not."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    is_shared = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kitchen", "person"], name="sharing_once_a_person")]

    def __str__(self) -> str:
        return f"{self.person}: {'shared' if self.is_shared else 'own'}"


class Drill(KitchenOwned):
    """A drill without food: `kind` "pan", "scramble", "poach", "custard" or "lay", with level, seed and actions.

    `moves`: [[kind, s], ...] in order; `now_s`: its clock; `outcome` and `score` once it is over.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="drills")
    kind = models.CharField(max_length=8)
    level = models.PositiveSmallIntegerField()
    seed = models.PositiveIntegerField()
    moves = models.JSONField(default=list)
    now_s = models.FloatField(default=0.0)
    begun_at = models.DateTimeField()
    finished_at = models.DateTimeField(null=True, blank=True)
    outcome = models.JSONField(null=True)
    score = models.PositiveSmallIntegerField(null=True)

    class Meta:
        ordering = ["-begun_at"]
        indexes = [models.Index(fields=["person", "-begun_at"], name="drills_of_a_person")]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(finished_at=None, score=None)
                | models.Q(finished_at__isnull=False, score__isnull=False),
                name="a_finished_drill_has_its_score",
            ),
            models.CheckConstraint(condition=models.Q(score=None) | models.Q(score__lte=100), name="score_of_100"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.level}, {self.seed}"
