"""The kitchen's own schedule of checks: what is due, and changing it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from django import forms
from django.db.models import Q
from django.utils import timezone

from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Equipment
from kitchen.web import clean_text

from .forms import STORES
from .models import EVERY_CHOICES, Entry, ScheduledCheck


@dataclass(frozen=True)
class CheckDue:
    """A scheduled check with when it is due and its last entry."""

    check: ScheduledCheck
    due_at: dt.datetime
    last: Entry | None

    def is_due(self, now: dt.datetime) -> bool:
        """Whether it is to be logged now."""
        return self.due_at <= now


def scheduled_checks(kitchen: Kitchen) -> list[CheckDue]:
    """The schedule, the one due first in front."""
    rows = ScheduledCheck.objects.of(kitchen).filter(ended_at=None).select_related("equipment", "who")
    due = []
    for check in rows:
        same = Q(equipment=check.equipment) if check.equipment_id else Q(what__iexact=check.what)
        last = Entry.objects.of(kitchen).filter(same, kind=check.kind).order_by("-at").first()
        begins = last.at + dt.timedelta(hours=check.every_h) if last else check.since
        due.append(CheckDue(check, begins, last))
    return sorted(due, key=lambda row: row.due_at)


class ScheduledCheckForm(forms.Form):
    """A check for the schedule."""

    kind = forms.ChoiceField(label="Kind", choices=ScheduledCheck.KINDS)
    equipment = forms.ModelChoiceField(queryset=Equipment.objects.none(), required=False, empty_label="something else",
                                       label="Equipment")  # fmt: skip
    what = forms.CharField(label="Place or item", max_length=120, required=False)
    every_h = forms.TypedChoiceField(label="How often", choices=EVERY_CHOICES, coerce=int, initial=8)
    who = forms.ChoiceField(label="Who", required=False)

    def __init__(self, kitchen: Kitchen, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        stores = {kind for kinds in STORES.values() for kind in kinds}
        there: Any = Equipment.objects.of(kitchen).current().filter(kind__in=stores)
        self.fields["equipment"].queryset = there  # type: ignore[attr-defined]
        people = [row for row in kitchen.memberships.select_related("person", "kitchen") if row.is_current]
        self.people = {str(row.person_id): row.person for row in people if not row.only_reads}
        names = sorted(((key, str(person)) for key, person in self.people.items()), key=lambda pair: pair[1])
        self.fields["who"].choices = [("", "anybody"), *names]  # type: ignore[attr-defined]
        for name, field in self.fields.items():
            field.widget.attrs |= {"id": f"schedule-{name}", "autocomplete": "off"}

    def clean(self) -> dict[str, Any]:
        """The name of the equipment, or what was typed."""
        data = super().clean() or {}
        equipment = data.get("equipment")
        data["what"] = equipment.name if equipment else clean_text(data.get("what"), 120)
        if not data["what"]:
            self.add_error("what", "Choose equipment, or enter the place.")
        data["who"] = self.people.get(data.get("who") or "")
        return data


def add_check(kitchen: Kitchen, values: dict[str, Any]) -> ScheduledCheck:
    """Put a check on the schedule; it is due at once."""
    return ScheduledCheck.objects.create(kitchen=kitchen, since=kitchen.now(), **values)


def end_check(check: ScheduledCheck) -> None:
    """Take it off the schedule; its entries stay."""
    check.ended_at = timezone.now()
    check.save(update_fields=["ended_at"])
