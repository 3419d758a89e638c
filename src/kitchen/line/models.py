"""Running cooks. A cook's state follows from its events; nothing is changed once written."""

from __future__ import annotations

import uuid
from typing import Any, ClassVar, Self

from django.conf import settings
from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import DateTimeRangeField, RangeOperators
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet
from kitchen.kit.models import Probe
from kitchen.plans.models import Plan

LEAST_READ_C, MOST_READ_C = -60, 500  # what a thermometer of a kitchen can show; common practice


class CookQuerySet(KitchenQuerySet["Cook"]):
    """Cooks by what they execute."""

    def of_plans(self) -> Self:
        """Cooks of a plan: a piece through a chain of stages."""
        return self.filter(kind=Cook.Kind.PLAN)

    def with_events(self) -> Self:
        """With their events (`Cook.history`)."""
        return self.prefetch_related(models.Prefetch("events", to_attr="known_events"))

    def with_history(self) -> Self:
        """With their events and probes, including people and devices (`Cook.history`, `Cook.probe_history`)."""
        return self.prefetch_related(*HISTORY)

    def by_steps(self) -> Self:
        """Cooks with steps of their own clocks: eggs, brines, reheating."""
        return self.exclude(kind=Cook.Kind.PLAN)


class Cook(KitchenOwned):
    """One execution of a plan or request, stored with it and its result as of the start.

    `finished_at` repeats the finishing event for the sake of the index, in the same transaction. A cook sent to the
    line `waits` until its first stage begins: until then `started_at` is when that is due, afterwards when it was.
    """

    class Kind(models.TextChoices):
        PLAN = "plan", "Plan"
        EGGS = "eggs", "Eggs"
        BRINE = "brine", "Brine"
        BACK = "back", "Reheat"

    kind = models.CharField(max_length=5, choices=Kind, default=Kind.PLAN)
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    plan = models.ForeignKey(Plan, null=True, on_delete=models.SET_NULL, related_name="cooks")
    name = models.CharField(max_length=120)
    document = models.JSONField()
    result = models.JSONField()
    started_at = models.DateTimeField()
    started_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    waits = models.BooleanField(default=False)
    finished_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = CookQuerySet.as_manager()

    class Meta:
        ordering = ["-started_at"]
        indexes = [models.Index(fields=["kitchen", "finished_at", "-started_at"])]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(finished_at=None) | models.Q(finished_at__gte=models.F("started_at")),
                name="cook_finishes_after_it_starts",
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def history(self) -> list[CookEvent]:
        """Its events in order: prefetched if available."""
        known: list[CookEvent] | None = self.__dict__.get("known_events")
        return list(self.events.all()) if known is None else known

    @property
    def probe_history(self) -> list[ProbeUse]:
        """Its probes and their times: prefetched if available."""
        known: list[ProbeUse] | None = self.__dict__.get("known_uses")
        return list(self.probe_uses.all()) if known is None else known

    @property
    def goes_by_steps(self) -> bool:
        """Whether it has steps with clocks of their own, and no stages."""
        return self.kind != Cook.Kind.PLAN

    @property
    def pieces(self) -> int:
        """Number of pieces cooked together."""
        if self.goes_by_steps:
            return int(self.document.get("count") or self.document.get("eggs") or 1)
        return int(self.document["piece"].get("count", 1))


class CookEvent(models.Model):
    """Something that happened, when, and who recorded it. Append-only: the database refuses changes.

    `token` makes a repeated request harmless: two people tapping the same action send the same token.
    """

    class Kind(models.TextChoices):
        STARTED = "started"
        DONE = "done"
        UNDONE = "undone"
        LATE = "late"
        PLACED = "placed"
        PIECE = "piece"
        CHECKED = "checked"
        CORRECTED = "corrected"
        FINISHED = "finished"
        STOPPED = "stopped"
        TOLD = "told"

    cook = models.ForeignKey(Cook, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=Kind)
    step = models.PositiveSmallIntegerField(null=True, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    data = models.JSONField(default=dict)
    token = models.UUIDField(default=uuid.uuid4, unique=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.step if self.step is not None else ''} {self.at:%H:%M:%S}"


class ProbeUse(models.Model):
    """A probe in a cook's piece for a time; an exclusion constraint keeps it in one piece at a time."""

    cook = models.ForeignKey(Cook, on_delete=models.CASCADE, related_name="probe_uses")
    probe = models.ForeignKey(Probe, on_delete=models.PROTECT, related_name="uses")
    during = DateTimeRangeField()

    class Meta:
        constraints = [
            ExclusionConstraint(
                name="probe_in_one_piece_at_a_time",
                expressions=[("during", RangeOperators.OVERLAPS), ("probe", RangeOperators.EQUAL)],
            )
        ]

    def __str__(self) -> str:
        return f"{self.probe} in {self.cook}"


# Lists, not querysets: a board looks at the events of two hundred cooks a dozen times each.
HISTORY = (
    models.Prefetch("events", CookEvent.objects.select_related("by"), "known_events"),
    models.Prefetch("probe_uses", ProbeUse.objects.select_related("probe"), "known_uses"),
)


class Reading(KitchenOwned):
    """A temperature from a probe, or typed for a cook. Append-only. The table is parted by month of `at`, and its key
    there is (kitchen, at, id); within a month one reading of a device is stored once (migration 0013).

    `at` is the kitchen's time; `claimed_at` the time by the device's own clock in its `boot`, which with the device's
    `number` and the value tells a repeated post from a new reading. `received_at` is the kitchen's time of receipt
    (None for older readings). `set_c`: set point reported by a controller. `by_hand`: typed by somebody who held the
    probe, not imported from a file.
    """

    probe = models.ForeignKey(Probe, null=True, blank=True, on_delete=models.PROTECT, related_name="readings")
    cook = models.ForeignKey(Cook, null=True, blank=True, on_delete=models.CASCADE, related_name="typed_readings")
    at = models.DateTimeField()
    claimed_at = models.DateTimeField()
    received_at = models.DateTimeField(null=True, blank=True)
    boot = models.CharField(max_length=40, blank=True, default="")
    number = models.BigIntegerField(default=0)
    celsius = models.FloatField()
    set_c = models.FloatField(null=True, blank=True)
    by_hand = models.BooleanField(default=False)
    entered_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )

    class Meta:
        ordering = ["at", "id"]
        indexes = [
            models.Index(fields=["probe", "at"], name="reading_of_probe"),
            models.Index(fields=["cook", "at"], name="reading_of_cook", condition=~models.Q(cook=None)),
        ]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(celsius__gte=LEAST_READ_C) & models.Q(celsius__lte=MOST_READ_C),
                name="reading_in_range",
            ),
            models.CheckConstraint(
                condition=(models.Q(probe=None) & ~models.Q(cook=None) & ~models.Q(entered_by=None))
                | (~models.Q(probe=None) & models.Q(cook=None)),
                name="reading_has_a_source",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.celsius:.1f} °C at {self.at:%H:%M:%S}"


class Forecast(KitchenOwned):
    """A prediction for a cook at a moment of the kitchen's time, stored to show how it moved.

    `answer` is in the published format; `fan` holds the core and probe readings from then on, {"t_s", "core_c",
    "probe_c"}; `ways` out of being late; `mode` where the next estimate starts; `misfit` the residual of the best fit
    for each bin of readings and `searched_at` when it was searched (`ember.track.fit`). `confirmed_at`: until when
    newer readings agreed; `made_at`: when it was made or last confirmed, by the real clock.
    """

    cook = models.ForeignKey(Cook, on_delete=models.CASCADE, related_name="forecasts")
    at = models.DateTimeField()
    made_at = models.DateTimeField(auto_now_add=True)
    confirmed_at = models.DateTimeField(null=True, blank=True)
    stage = models.PositiveSmallIntegerField()
    p50_s = models.FloatField(null=True, blank=True)
    late_s = models.FloatField(null=True, blank=True)
    hottest_c = models.FloatField(null=True, blank=True)
    answer = models.JSONField()
    fan = models.JSONField(default=dict)
    ways = models.JSONField(default=list)
    mode = models.JSONField(default=list)
    misfit = models.FloatField(null=True, blank=True)
    searched_at = models.DateTimeField(null=True, blank=True)
    took_ms = models.FloatField()

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index(fields=["cook", "-at", "-id"])]

    def __str__(self) -> str:
        return f"{self.cook} at {self.at:%H:%M:%S}"
