"""Groups of kitchens: who belongs, who reads across them, what is shared and what was taken over."""

from __future__ import annotations

import datetime as dt
import secrets
import uuid
from typing import Any, ClassVar, Self

from django.conf import settings
from django.db import models
from django.utils import timezone

from kitchen.accounts.models import Kitchen, KitchenOwned, KitchenQuerySet, hash_token

JOIN_WITHIN = dt.timedelta(days=3)


class Group(models.Model):
    """Several kitchens under one name."""

    name = models.CharField(max_length=80)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=~models.Q(name=""), name="group_has_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def kitchens(self) -> models.QuerySet[Kitchen]:
        """The kitchens that belong to it now, by name."""
        belong = GroupKitchen.objects.filter(group=self, left_at=None).values("kitchen")
        return Kitchen.objects.filter(pk__in=belong).order_by("name", "place")


class GroupKitchen(KitchenOwned):
    """A kitchen in a group, for a time; it belongs to one at most."""

    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="belongings")
    joined_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    joined_at = models.DateTimeField(default=timezone.now)
    left_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["kitchen"], condition=models.Q(left_at=None), name="a_kitchen_is_in_one_group"
            )
        ]

    def __str__(self) -> str:
        return f"{self.kitchen} in {self.group}"


class GroupRole(models.Model):
    """A person's role in a group: a chef shares and reads across its kitchens, an inspector reads until a last day."""

    class Role(models.TextChoices):
        CHEF = "chef", "Group chef"
        INSPECTOR = "inspector", "Inspector"

    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="roles")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="group_roles")
    role = models.CharField(max_length=9, choices=Role)
    last_day = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(fields=["group", "person"], name="one_role_in_a_group"),
            models.CheckConstraint(
                condition=~models.Q(role="inspector") | models.Q(last_day__isnull=False),
                name="a_group_inspector_has_a_last_day",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.get_role_display().lower()} of {self.group}"

    @property
    def is_chef(self) -> bool:
        """Whether this person shares and says who belongs."""
        return self.role == self.Role.CHEF

    def is_current(self, today: dt.date) -> bool:
        """Whether it has not ended by this day."""
        return self.last_day is None or today <= self.last_day


class JoinCode(models.Model):
    """A code by which a kitchen joins, once. Only a hash of it is stored."""

    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="+")
    code_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"join code of {self.group}"

    @classmethod
    def make(cls, group: Group, made_by: Any) -> str:
        """Make a code and return it; it is shown once."""
        code = secrets.token_urlsafe(18)
        cls.objects.create(group=group, code_hash=hash_token(code), made_by=made_by)
        return code

    @classmethod
    def find(cls, code: str) -> JoinCode | None:
        """The code, locked, if it can still be used."""
        known = cls.objects.select_for_update().select_related("group").filter(code_hash=hash_token(code))
        return known.filter(used_at=None, made_at__gt=timezone.now() - JOIN_WITHIN).first()


class ShareQuerySet(KitchenQuerySet["Share"]):
    """What was shared."""

    def newest(self) -> Self:
        """The newest version of each shared plan and of the rules, unless it was withdrawn."""
        newer = Share.objects.filter(
            group=models.OuterRef("group"), subject=models.OuterRef("subject"), number__gt=models.OuterRef("number")
        )
        return self.filter(~models.Exists(newer), withdrawn_at=None)


class Share(KitchenOwned):
    """A version of a plan, or of standard and house limits, as a kitchen gave it to its group.

    `subject` is the plan's id, or RULES; `document` the plan, or {"standard", "house"}.
    """

    RULES = "rules"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="shares")
    subject = models.CharField(max_length=40)
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120)
    document = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[Any] = ShareQuerySet.as_manager()

    class Meta:
        ordering = ["name", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["group", "subject", "number"], name="one_shared_version_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.name}, version {self.number}"

    @property
    def is_rules(self) -> bool:
        """Whether it is a standard with house limits, not a plan."""
        return self.subject == self.RULES


class TakenOver(KitchenOwned):
    """A kitchen took a shared version over as its own; `plan` is that kitchen's."""

    share = models.ForeignKey(Share, on_delete=models.CASCADE, related_name="taken")
    plan = models.ForeignKey("plans.Plan", on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["-id"]
        constraints = [models.UniqueConstraint(fields=["kitchen", "share"], name="a_version_is_taken_over_once")]

    def __str__(self) -> str:
        return f"{self.share} in {self.kitchen}"
