"""People, the kitchens they belong to, and their roles."""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
from typing import Any, ClassVar, Self, TypeVar
from zoneinfo import ZoneInfo

from django.contrib.auth.models import AbstractUser
from django.db import connection, models
from django.utils import timezone

from ember.quantities import Units
from kitchen.units.dates import DEFAULT, LANGUAGES

TEMPERATURE_UNITS = [("C", "°C"), ("F", "°F")]
LENGTH_UNITS = [("mm", "mm"), ("in", "in")]
MASS_UNITS = [("g", "g"), ("lb", "lb")]
LEAST_KEPT_MONTHS = 6
LEAST_THINNED_DAYS = 35  # devices may send readings of the last 30
PHOTO_CHOICES = [("", "indefinitely"), (3, "three months"), (12, "a year"), (36, "three years")]
THINNED_CHOICES = [("", "never"), (35, "five weeks"), (92, "three months"), (183, "half a year"), (366, "a year")]
KEPT_CHOICES = [("", "indefinitely"), (12, "a year"), (24, "two years"), (36, "three years"), (84, "seven years")]


class Kitchen(models.Model):
    """The tenant every other row belongs to. Only a demonstration kitchen may run its clock faster than real time."""

    name = models.CharField(max_length=80)
    place = models.CharField(max_length=80, blank=True)
    standard = models.CharField(max_length=60, default="us-food-code-2022")
    house = models.JSONField(default=dict, blank=True)
    time_zone = models.CharField(max_length=60, default="UTC")
    date_language = models.CharField(max_length=5, choices=LANGUAGES, default=DEFAULT)
    altitude_m = models.FloatField(default=0.0)
    readings_kept_months = models.PositiveSmallIntegerField(null=True, blank=True)  # None: for good
    readings_thinned_days = models.PositiveSmallIntegerField(null=True, blank=True)  # None: never
    photos_kept_months = models.PositiveSmallIntegerField(null=True, blank=True)  # None: for good
    is_demo = models.BooleanField(default=False)
    clock_rate = models.FloatField(default=1.0)
    clock_set_at = models.DateTimeField(default=timezone.now)
    clock_showed = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(clock_rate=1.0) | models.Q(is_demo=True), name="only_a_demo_clock_runs_fast"
            ),
            models.CheckConstraint(
                condition=models.Q(clock_rate__gte=0) & models.Q(clock_rate__lte=3600), name="clock_rate_in_range"
            ),
            models.CheckConstraint(
                condition=models.Q(readings_kept_months=None) | models.Q(readings_kept_months__gte=LEAST_KEPT_MONTHS),
                name="readings_are_kept_long_enough",
            ),
            models.CheckConstraint(
                condition=models.Q(readings_thinned_days=None)
                | models.Q(readings_thinned_days__gte=LEAST_THINNED_DAYS),
                name="readings_are_whole_long_enough",
            ),
            models.CheckConstraint(
                condition=models.Q(photos_kept_months=None) | models.Q(photos_kept_months__gte=1),
                name="photos_are_kept_a_month",
            ),
            models.CheckConstraint(
                condition=models.Q(altitude_m__gte=-400) & models.Q(altitude_m__lte=5000), name="altitude_in_range"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.name} · {self.place}" if self.place else self.name

    @property
    def zone(self) -> ZoneInfo:
        """The kitchen's time zone."""
        return ZoneInfo(self.time_zone)

    def now(self) -> dt.datetime:
        """The time on this kitchen's clock: real time, except in a demonstration that was sped up."""
        if not self.is_demo:
            return timezone.now()
        return self.clock_showed + (timezone.now() - self.clock_set_at) * self.clock_rate


class Person(AbstractUser):
    """A person who signs in. Units and theme are theirs, not the kitchen's."""

    class Theme(models.TextChoices):
        DAY = "day", "Day"
        NIGHT = "night", "Night service"

    name = models.CharField(max_length=60)
    temperature_unit = models.CharField(max_length=1, choices=TEMPERATURE_UNITS, default="C")
    length_unit = models.CharField(max_length=2, choices=LENGTH_UNITS, default="mm")
    mass_unit = models.CharField(max_length=2, choices=MASS_UNITS, default="g")
    theme = models.CharField(max_length=5, choices=Theme, default=Theme.DAY)

    is_muted = models.BooleanField(default=False)
    must_change_password = models.BooleanField(default=False)
    created_by = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    pin_hash = models.CharField(max_length=128, blank=True)
    pin_misses = models.PositiveSmallIntegerField(default=0)

    first_name = None  # type: ignore[assignment]
    last_name = None  # type: ignore[assignment]

    def __str__(self) -> str:
        return self.name or self.username

    @property
    def units(self) -> Units:
        """The units this person reads and types."""
        return Units(self.temperature_unit, self.length_unit, self.mass_unit)  # type: ignore[arg-type]

    @property
    def current_memberships(self) -> list[Membership]:
        """Memberships that have not ended, oldest first."""
        return [membership for membership in self.memberships.all() if membership.is_current]

    @property
    def has_pin(self) -> bool:
        """Whether this person can sign in with a PIN on a shared tablet."""
        return bool(self.pin_hash) and self.pin_misses < MOST_PIN_MISSES


class Membership(models.Model):
    """A person's role in a kitchen. It stays when the person leaves: their records name them."""

    class Role(models.TextChoices):
        COOK = "cook", "Cook"
        CHEF = "chef", "Chef"
        INSPECTOR = "inspector", "Inspector"

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="memberships")
    kitchen = models.ForeignKey(Kitchen, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=9, choices=Role, default=Role.COOK)
    left_at = models.DateTimeField(null=True, blank=True)
    last_day = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(fields=["person", "kitchen"], name="one_role_in_a_kitchen"),
            models.CheckConstraint(
                condition=~models.Q(role="inspector") | models.Q(last_day__isnull=False),
                name="an_inspector_has_a_last_day",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.person}, {self.get_role_display().lower()} in {self.kitchen}"

    @property
    def is_chef(self) -> bool:
        """Whether this person may sign records and change the kitchen."""
        return self.role == self.Role.CHEF

    @property
    def only_reads(self) -> bool:
        """Whether this person sees everything and changes nothing."""
        return self.role == self.Role.INSPECTOR

    @property
    def is_current(self) -> bool:
        """Whether it has not ended: a last day is a whole day on the kitchen's clock."""
        if self.left_at is not None:
            return False
        return self.last_day is None or timezone.now().astimezone(self.kitchen.zone).date() <= self.last_day


class Invitation(models.Model):
    """A kitchen asks somebody who signs in by this name to work there, too; they accept or decline.

    It is kept by name, whether or not there is such a person, so that asking tells nobody who has an account.
    """

    kitchen = models.ForeignKey(Kitchen, on_delete=models.CASCADE, related_name="invitations")
    username = models.CharField(max_length=150)
    role = models.CharField(max_length=9, choices=Membership.Role)
    last_day = models.DateField(null=True, blank=True)
    by = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    answered_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("id",)
        constraints = [
            models.UniqueConstraint(
                fields=["kitchen", "username"], condition=models.Q(answered_at=None), name="asked_once_at_a_time"
            )
        ]

    def __str__(self) -> str:
        return f"{self.kitchen} asks {self.username}"


MOST_PIN_MISSES = 5
LINK_VALID_FOR = dt.timedelta(days=3)


def hash_token(token: str) -> str:
    """Hash of a device's token or a link's secret. They are long and random, so a plain hash is enough."""
    return hashlib.sha256(token.encode()).hexdigest()


class PasswordLink(models.Model):
    """A link by which a person chooses a password, once. Only a hash of its secret is stored."""

    person = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="password_links")
    secret_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    used_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"password link of {self.person}"

    @classmethod
    def make(cls, person: Person, made_by: Person | None) -> str:
        """Make a link, void the person's earlier ones, and return the secret of its address."""
        secret = secrets.token_urlsafe(24)
        cls.objects.filter(person=person, used_at=None).delete()
        cls.objects.create(person=person, secret_hash=hash_token(secret), made_by=made_by)
        return secret

    @classmethod
    def find(cls, secret: str) -> PasswordLink | None:
        """The link with this secret, if it can still be used."""
        known = cls.objects.select_related("person").filter(secret_hash=hash_token(secret), used_at=None)
        return known.filter(made_at__gt=timezone.now() - LINK_VALID_FOR).first()


IDLE_CHOICES = [(2, "2 minutes"), (5, "5 minutes"), (10, "10 minutes"), (30, "30 minutes")]


class Tablet(models.Model):
    """A device that several people share: a chef enrolled it, and people sign in on it with a PIN.

    Only a hash of its cookie's secret is stored. `misses`: wrong PINs since `missed_at` minus the time they count.
    """

    kitchen = models.ForeignKey(Kitchen, on_delete=models.CASCADE, related_name="tablets")
    name = models.CharField(max_length=60)
    secret_hash = models.CharField(max_length=64, unique=True)
    idle_minutes = models.PositiveSmallIntegerField(choices=IDLE_CHOICES, default=5)
    enrolled_by = models.ForeignKey(Person, null=True, on_delete=models.SET_NULL, related_name="+")
    enrolled_at = models.DateTimeField(default=timezone.now)
    revoked_at = models.DateTimeField(null=True, blank=True)
    misses = models.PositiveSmallIntegerField(default=0)
    missed_at = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.name

    @classmethod
    def find(cls, secret: str) -> Tablet | None:
        """The tablet with this secret, if its enrolment stands."""
        known = cls.objects.select_related("kitchen").filter(secret_hash=hash_token(secret), revoked_at=None)
        return known.first()


Owned = TypeVar("Owned", bound="KitchenOwned")


class KitchenQuerySet(models.QuerySet[Owned]):
    """A queryset of rows that belong to kitchens; every query of a view starts with `of(kitchen)`."""

    def of(self, kitchen: Kitchen) -> Self:
        """Only this kitchen's rows."""
        return self.filter(kitchen=kitchen)


class KitchenOwned(models.Model):
    """Base class of rows that belong to a kitchen."""

    kitchen = models.ForeignKey(Kitchen, on_delete=models.CASCADE, related_name="+")

    objects: ClassVar[Any] = KitchenQuerySet.as_manager()

    class Meta:
        abstract = True


CLAIMED_FOR = dt.timedelta(days=30)  # longer than a page stays open or a tablet stays offline


class Claim(KitchenOwned):
    """A request that was carried out, kept so that it is not carried out again. `location`: where it redirected."""

    key = models.CharField(max_length=64)
    by = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    location = models.CharField(max_length=500, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kitchen", "key"], name="carried_out_once")]
        indexes = [models.Index(fields=["at"])]

    def __str__(self) -> str:
        return f"{self.key[:8]} {self.at:%H:%M:%S}"

    @classmethod
    def take(cls, kitchen: Kitchen, person: Person, key: str) -> tuple[Claim, bool]:
        """The claim of a key, and whether it is new. Waits for a concurrent transaction that claims the same key."""
        with connection.cursor() as cursor:
            cursor.execute(
                f"INSERT INTO {cls._meta.db_table} (kitchen_id, key, by_id, at, location) "  # noqa: S608
                "VALUES (%s, %s, %s, now(), '') ON CONFLICT (kitchen_id, key) DO NOTHING RETURNING id, at",
                [kitchen.pk, key, person.pk],
            )
            new = cursor.fetchone()
        if new is None:
            return cls.objects.of(kitchen).get(key=key), False
        return cls(pk=new[0], kitchen=kitchen, key=key, by=person, at=new[1]), True

    @classmethod
    def forget_old(cls) -> int:
        """Delete claims older than any form can be; returns how many were deleted."""
        deleted, _ = cls.objects.filter(at__lt=timezone.now() - CLAIMED_FOR).delete()
        return deleted

    def keep(self, location: str) -> None:
        """Store where the response redirected."""
        if location:
            self.location = location[:500]
            self.save(update_fields=["location"])
