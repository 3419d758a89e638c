"""Services: dishes with plate-up times, their plan, and what was done of it."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any, ClassVar, Self

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone

from ember.files.service import EquipmentIn, ServiceAnswer, ServiceRequest
from kitchen.accounts.models import KitchenOwned, KitchenQuerySet

from .documents import Proposal

LOST_AFTER_S = 60.0  # of a planning job


class ServiceQuerySet(KitchenQuerySet["Service"]):
    """Services, including archived ones."""

    def current(self) -> Self:
        """Services that are not archived."""
        return self.filter(deleted_at=None)


class Service(KitchenOwned):
    """An evening or a breakfast. `asked` is the `open-ember/service` request, `schedule` its answer.

    `proposal` is a changed schedule that waits for the chef. `revision` counts every change of what is planned;
    `ways_back`: {"text", and the state before} of each way out taken, newest last. `hands` cooks work from `opens` to
    `closes` each day.
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
    revision = models.PositiveIntegerField(default=0)
    ways_back = models.JSONField(default=list)
    started_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    updated_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    updated_at = models.DateTimeField(auto_now=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = ServiceQuerySet.as_manager()

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
        """Whether it was sent to the line and has not ended."""
        return self.started_at is not None and self.ended_at is None

    @property
    def plates(self) -> tuple[dt.datetime, dt.datetime] | None:
        """The first and the last plate-up; None without a dish."""
        times = [dish.plate_up for dish in self.dishes.all()]
        return (min(times), max(times)) if times else None

    @property
    def last_way(self) -> dict[str, Any] | None:
        """The way out taken last, with the state before it."""
        return self.ways_back[-1] if self.ways_back else None

    @property
    def request(self) -> ServiceRequest | None:
        """The request of the schedule; None before the first plan."""
        return None if self.asked is None else ServiceRequest.model_validate(self.asked)

    @property
    def answer(self) -> ServiceAnswer | None:
        """The schedule; None before the first plan."""
        return None if self.schedule is None else ServiceAnswer.model_validate(self.schedule)

    @property
    def machines(self) -> dict[str, EquipmentIn]:
        """The equipment of the request by id, including the cooks."""
        request = self.request
        return {} if request is None else {machine.id: machine for machine in request.equipment}

    @property
    def proposed(self) -> Proposal | None:
        """The changed schedule that waits for the chef, or was dismissed."""
        return None if self.proposal is None else Proposal.model_validate(self.proposal)

    @property
    def fits(self) -> bool:
        """Whether there is a plan that holds."""
        return bool(self.schedule and self.schedule["status"] != "infeasible")


class Dish(models.Model):
    """A dish of a service: a plan or a saved egg request, with companions.

    `companions`: rows of {"kind", and what differs from its kind}. `choices`: by task, what a person chose:
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
        """What a person chose for a task."""
        choice = self.choices.get(task)
        return choice if isinstance(choice, dict) else {}


class PlanningJob(models.Model):
    """A planning job and its outcome. `before`: the state to restore if it finds no plan.

    `result`: the answer to a question; a plan is stored in its service.
    """

    class Kind(models.TextChoices):
        PLAN = "plan"
        CHOOSE = "choose"
        REPLAN = "replan"
        LATE = "late"

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        STOPPED = "stopped"
        DROPPED = "dropped"

    service = models.ForeignKey(Service, on_delete=models.CASCADE, related_name="planning_jobs")
    kind = models.CharField(max_length=8, choices=Kind)
    arguments = models.JSONField(default=dict)
    before = models.JSONField(null=True)
    result = models.JSONField(null=True)
    revision = models.PositiveIntegerField()
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    progress = models.CharField(max_length=200, blank=True, default="")
    problem = models.TextField(blank=True, default="")
    stop = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    heard_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["service", "-id"])]

    def __str__(self) -> str:
        return f"{self.kind} {self.service}: {self.state}"

    @property
    def is_over(self) -> bool:
        """Whether it is done, refused, stopped or dropped."""
        return self.finished_at is not None

    @property
    def is_lost(self) -> bool:
        """Whether its worker has been silent for a minute."""
        last = self.heard_at or self.begun_at
        return not self.is_over and (timezone.now() - last).total_seconds() > LOST_AFTER_S


class TaskEvent(models.Model):
    """A task of a service was begun, done or undone. Append-only, in the database too."""

    class Kind(models.TextChoices):
        STARTED = "started", "Started"
        DONE = "done", "Done"
        UNDONE = "undone", "Undone"

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
