"""The book: entries besides the cooks, and the chain that links all records of a kitchen."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from kitchen.accounts.models import KitchenOwned


class Link(KitchenOwned):
    """One link of a kitchen's chain: `digest` covers the previous digest and `payload`. Written by a database trigger.

    `payload` is the row as JSON, exactly the text that was hashed.
    """

    number = models.PositiveBigIntegerField()
    at = models.DateTimeField()
    table = models.CharField(max_length=60)
    row_key = models.CharField(max_length=40)
    payload = models.TextField()
    before = models.CharField(max_length=64)
    digest = models.CharField(max_length=64)

    class Meta:
        ordering = ["kitchen", "number"]
        constraints = [models.UniqueConstraint(fields=["kitchen", "number"], name="link_number_once_a_kitchen")]
        indexes = [models.Index(fields=["table", "row_key"], name="link_of_a_row")]

    def __str__(self) -> str:
        return f"{self.number}: {self.table} {self.row_key}"


class Anchor(KitchenOwned):
    """The head of a chain at some time, signed with a key that is not in the database; see anchor.py. Append-only."""

    number = models.PositiveBigIntegerField()
    digest = models.CharField(max_length=64)
    at = models.CharField(max_length=40)  # exactly the text that was signed
    signature = models.CharField(max_length=100)
    public_key = models.CharField(max_length=64)

    class Meta:
        ordering = ["kitchen", "number"]

    def __str__(self) -> str:
        return f"anchor of record {self.number}, {self.at}"


class Retirement(KitchenOwned):
    """What the owner of the tables took from the readings of one month, written by the function that took it.

    `since` and `until` bound the readings' times. Append-only.
    """

    class What(models.TextChoices):
        THINNED = "thinned"
        DELETED = "deleted"
        DROPPED = "dropped"  # with its whole month

    what = models.CharField(max_length=10, choices=What)
    since = models.DateTimeField()
    until = models.DateTimeField()
    count = models.PositiveBigIntegerField()
    at = models.DateTimeField()
    role = models.CharField(max_length=63)

    class Meta:
        ordering = ["kitchen", "id"]
        indexes = [models.Index(fields=["kitchen", "what", "until"], name="retirement_of_a_month")]

    def __str__(self) -> str:
        return f"{self.count} {self.what}, {self.since:%Y-%m-%d} to {self.until:%Y-%m-%d}"


class Paper(KitchenOwned):
    """A report being made as PDF: `done` of `parts` are rendered; then the file, or the reason it failed."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    first = models.DateField()
    last = models.DateField()
    asked_at = models.DateTimeField(auto_now_add=True)
    done = models.PositiveIntegerField(default=0)
    parts = models.PositiveIntegerField(default=0)
    pdf = models.BinaryField(null=True)
    problem = models.CharField(max_length=200, blank=True)

    def __str__(self) -> str:
        return f"report {self.first} to {self.last}"


class Entry(KitchenOwned):
    """A reading or observation: storage, holding, a delivery; or an addition to a signed record. Append-only.

    `rule` is the rule it was judged against, with the margin, as of that time.
    """

    class Kind(models.TextChoices):
        COLD = "cold", "Cold storage"
        HOT = "hot", "Hot holding"
        REHEAT = "reheat", "Reheating"
        DELIVERY = "delivery", "Delivery"
        NOTE = "note", "Note"
        RETENTION = "retention", "Retention of readings"
        ADDITION = "addition", "Note on a signed record"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    token = models.UUIDField(unique=True, default=uuid.uuid4)
    kind = models.CharField(max_length=10, choices=Kind)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    what = models.CharField(max_length=120, blank=True)
    celsius = models.FloatField(null=True, blank=True)
    accepted = models.BooleanField(null=True, blank=True)
    note = models.CharField(max_length=500, blank=True)
    rule = models.JSONField(null=True, blank=True)
    equipment = models.ForeignKey("kit.Equipment", on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    cook = models.ForeignKey("line.Cook", on_delete=models.PROTECT, null=True, blank=True, related_name="additions")

    class Meta:
        ordering = ["-at", "-id"]
        constraints = [
            models.CheckConstraint(
                condition=~models.Q(kind__in=["cold", "hot", "reheat", "delivery"]) | models.Q(celsius__isnull=False),
                name="entry_has_its_reading",
            ),
            models.CheckConstraint(
                condition=~models.Q(kind="addition") | (models.Q(cook__isnull=False) & ~models.Q(note="")),
                name="addition_is_to_a_cook_and_says_something",
            ),
        ]
        indexes = [models.Index(fields=["kitchen", "-at"], name="entries_of_a_kitchen")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}: {self.what or self.note}"


EVERY_CHOICES = [
    (2, "every 2 hours"), (4, "every 4 hours"), (8, "every 8 hours"), (12, "twice a day"), (24, "once a day"),
]  # fmt: skip


class ScheduledCheck(KitchenOwned):
    """A check of the kitchen's own schedule: which storage or holding, how often, and who, if it is one person's."""

    KINDS = [(Entry.Kind.COLD.value, Entry.Kind.COLD.label), (Entry.Kind.HOT.value, Entry.Kind.HOT.label)]

    kind = models.CharField(max_length=10, choices=KINDS)
    what = models.CharField(max_length=120)
    equipment = models.ForeignKey("kit.Equipment", on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    every_h = models.PositiveSmallIntegerField(choices=EVERY_CHOICES)
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    since = models.DateTimeField()
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["what", "id"]

    def __str__(self) -> str:
        return f"{self.what}, {self.get_every_h_display()}"
