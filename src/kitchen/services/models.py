"""Services: dishes with their plate-up times, the plan that was worked out for them, what was done of it."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from kitchen.accounts.models import KitchenOwned, KitchenQuerySet


class ServiceQuerySet(KitchenQuerySet):
    """Services that were not deleted, unless asked."""

    def current(self) -> models.QuerySet:
        """Those that are not in the bin."""
        return self.filter(deleted_at=None)


class Service(KitchenOwned):
    """An evening, a breakfast. `asked` is the `open-ember/service` request, `schedule` its answer.

    `proposal` is a changed schedule that waits for the chef. Hands are there from `opens` to `closes` each day.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=80)
    covers = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(5000)])
    hands = models.PositiveSmallIntegerField(default=2, validators=[MinValueValidator(1), MaxValueValidator(60)])
    opens = models.TimeField()
    closes = models.TimeField()
    asked = models.JSONField(null=True, blank=True)
    schedule = models.JSONField(null=True, blank=True)
    planned_at = models.DateTimeField(null=True, blank=True)
    proposal = models.JSONField(null=True, blank=True)
    started_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = ServiceQuerySet.as_manager()

    class Meta:
        ordering = ["-updated_at", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="service_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(opens__lt=models.F("closes")), name="service_opens_before_it_closes"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_running(self) -> bool:
        """Sent to the line, and not over."""
        return self.started_at is not None and self.ended_at is None

    @property
    def fits(self) -> bool:
        """There is a plan that holds."""
        return bool(self.schedule) and self.schedule["status"] != "infeasible"


class Dish(models.Model):
    """A dish of a service: a plan, or a kept egg request, and what is made beside it.

    `companions`: rows of {"kind", and what differs from its kind}. `choices`: by task, what a hand chose:
    {"equipment": {kind: id}, "setting_c", "minutes", "at"}.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    service = models.ForeignKey(Service, on_delete=models.CASCADE, related_name="dishes")
    name = models.CharField(max_length=80)
    plan = models.ForeignKey("plans.Plan", on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    eggs = models.ForeignKey("eggs.EggPlan", on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    plate_up = models.DateTimeField()
    portions = models.PositiveSmallIntegerField(validators=[MinValueValidator(1), MaxValueValidator(5000)])
    companions = models.JSONField(default=list)
    choices = models.JSONField(default=dict)

    class Meta:
        ordering = ["plate_up", "name", "id"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(name=""), name="dish_has_a_name"),
            models.CheckConstraint(
                condition=models.Q(plan__isnull=True) | models.Q(eggs__isnull=True), name="dish_is_of_one_thing"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def choice(self, task: str) -> dict[str, Any]:
        """What a hand chose for a task."""
        found = self.choices.get(task)
        return found if isinstance(found, dict) else {}


class TaskEvent(models.Model):
    """A task of a service was begun, done, or taken back. Append-only, in the database too."""

    class Kind(models.TextChoices):
        STARTED = "started", "Started"
        DONE = "done", "Done"
        UNDONE = "undone", "Taken back"

    service = models.ForeignKey(Service, on_delete=models.CASCADE, related_name="events")
    dish = models.ForeignKey(Dish, on_delete=models.CASCADE, related_name="events")
    task = models.CharField(max_length=40)
    n = models.PositiveSmallIntegerField(default=0)
    kind = models.CharField(max_length=8, choices=Kind)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    cook = models.ForeignKey("line.Cook", on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    token = models.UUIDField(unique=True, default=uuid.uuid4)

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"{self.dish}, {self.task}: {self.get_kind_display()}"
