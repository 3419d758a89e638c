"""Forms of a service: its head, its dishes, and what is served beside a dish."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from django import forms
from django.utils import timezone

from ember.quantities import Units
from ember.service.companions import companion_kinds
from kitchen.accounts.models import Kitchen
from kitchen.desk.forms import count_field
from kitchen.eggs.models import EggPlan
from kitchen.plans.models import Plan
from kitchen.units import fields
from kitchen.web import clean_text

from .models import Dish, Service

MOST_COVERS, MOST_HANDS, MOST_BESIDE = 5000, 60, 12
DAYS_AHEAD = 14
WHEN = "%Y-%m-%dT%H:%M"


class ServiceForm(forms.Form):
    """Name, covers, cooks and hours."""

    name = forms.CharField(max_length=80, error_messages={"required": "Enter a name, like “Friday supper”."})
    covers = count_field("Covers", MOST_COVERS)
    hands = count_field("Hands", MOST_HANDS)
    opens = forms.TimeField(
        error_messages={"required": "Enter when cooks start.", "invalid": "Enter a time like 14:00."}
    )
    closes = forms.TimeField(
        error_messages={"required": "Enter when cooks finish.", "invalid": "Enter a time like 23:00."}
    )

    def __init__(self, data: Mapping[str, Any] | None = None, service: Service | None = None) -> None:
        initial: dict[str, Any] = {"covers": 20, "hands": 2, "opens": dt.time(8), "closes": dt.time(23)}
        if service is not None:
            initial = {key: getattr(service, key) for key in ("name", "covers", "hands", "opens", "closes")}
        super().__init__(data, initial=initial)
        for name, field in self.fields.items():
            field.widget.attrs |= {"id": f"service-{name}", "autocomplete": "off"}
        for name in ("opens", "closes"):
            self.fields[name].widget = forms.TimeInput(format="%H:%M", attrs={"id": f"service-{name}", "type": "time"})

    def clean_name(self) -> str:
        """The name without control characters."""
        return clean_text(self.cleaned_data["name"], 80)

    def clean(self) -> dict[str, Any]:
        """Require opening before closing."""
        cleaned = super().clean() or {}
        if cleaned.get("opens") and cleaned.get("closes") and cleaned["opens"] >= cleaned["closes"]:
            self.add_error("closes", "The finish must be after the start.")
        return cleaned


class DishForm(forms.Form):
    """A dish: its plan or eggs, plate-up time and portions."""

    of = forms.CharField(required=False)
    name = forms.CharField(max_length=80, required=False)
    plate_up = forms.DateTimeField(
        input_formats=[WHEN, "%Y-%m-%d %H:%M"],
        error_messages={"required": "Enter the plating time.", "invalid": "Enter a date and time."},
    )
    portions = count_field("Portions", MOST_COVERS)

    def __init__(self, data: Mapping[str, Any] | None, service: Service, dish: Dish | None = None) -> None:
        kitchen: Kitchen = service.kitchen
        self.service, self.dish = service, dish
        self.plans = list(Plan.objects.of(kitchen).current().order_by("name"))
        self.eggs = list(EggPlan.objects.of(kitchen).current())
        super().__init__(data, initial=self._first(dish))
        self.fields["of"] = forms.ChoiceField(
            required=False,
            choices=[("", "sides and sauces only"), *((f"plan:{p.pk}", p.name) for p in self.plans),
                     *((f"eggs:{e.pk}", f"Eggs: {e.name}") for e in self.eggs)],
        )  # fmt: skip
        self.fields["plate_up"].widget = forms.DateTimeInput(format=WHEN, attrs={"type": "datetime-local"})
        prefix = dish.pk if dish else "new"
        for name, field in self.fields.items():
            field.widget.attrs |= {"id": f"dish-{name}-{prefix}", "autocomplete": "off"}

    def _first(self, dish: Dish | None) -> dict[str, Any]:
        if dish is None:
            last = self.service.dishes.order_by("-plate_up").first()
            evening = (
                self.service.kitchen.now()
                .astimezone(self.service.kitchen.zone)
                .replace(hour=19, minute=0, second=0, microsecond=0)
            )
            at = last.plate_up if last else evening + dt.timedelta(days=1)
            return {"plate_up": at.astimezone(self.service.kitchen.zone), "portions": self.service.covers}
        of = f"plan:{dish.plan_id}" if dish.plan_id else f"eggs:{dish.eggs_id}" if dish.eggs_id else ""
        when = dish.plate_up.astimezone(self.service.kitchen.zone)
        return {"of": of, "name": dish.name, "plate_up": when, "portions": dish.portions}

    def clean_plate_up(self) -> dt.datetime:
        """Require a time within the days that can be planned."""
        when: dt.datetime = self.cleaned_data["plate_up"]
        if timezone.is_naive(when):
            when = timezone.make_aware(when, self.service.kitchen.zone)
        now = self.service.kitchen.now()
        if when <= now:
            raise forms.ValidationError("That time has passed.")
        if when > now + dt.timedelta(days=DAYS_AHEAD):
            raise forms.ValidationError(f"At most {DAYS_AHEAD} days ahead.")
        return when

    def clean(self) -> dict[str, Any]:
        """Require a name for a dish without a plan."""
        cleaned = super().clean() or {}
        if not cleaned.get("of") and not clean_text(cleaned.get("name"), 80) and "of" not in self.errors:
            self.add_error("name", "Enter a name, or choose a plan.")
        return cleaned

    def _chosen(self, of: str) -> tuple[Plan | None, EggPlan | None]:
        """The plan or eggs of a choice ("plan:…", "eggs:…")."""
        kind, _, key = of.partition(":")
        plan = next((plan for plan in self.plans if str(plan.pk) == key), None) if kind == "plan" else None
        return plan, next((eggs for eggs in self.eggs if str(eggs.pk) == key), None) if kind == "eggs" else None

    def found(self) -> dict[str, Any]:
        """The dish's fields, after validation. Another plan or other eggs reset its choices and its automatic name."""
        typed = self.cleaned_data
        plan, eggs = self._chosen(typed["of"])
        of = plan or eggs
        usual, name = of.name if of else "", clean_text(typed["name"], 80)
        is_other = self.dish is not None and (self.dish.plan, self.dish.eggs) != (plan, eggs)
        if is_other and self.dish is not None and name == self.dish.name and usual:
            name = usual
        return {
            "plan": plan, "eggs": eggs, "name": name or usual[:80], "plate_up": typed["plate_up"],
            "portions": typed["portions"], **({"choices": {}} if is_other else {}),
        }  # fmt: skip


class CompanionForm(forms.Form):
    """A companion: something served beside a dish."""

    def __init__(self, data: Mapping[str, Any] | None, units: Units) -> None:
        super().__init__(data)
        kinds = [(key, kind.name) for key, kind in companion_kinds().items()]
        self.fields["kind"] = forms.ChoiceField(choices=kinds, error_messages={"required": "Choose a kind."})
        self.fields["name"] = forms.CharField(max_length=60, required=False)
        self.fields["minutes"] = fields.minutes("Time", 1, 1440, required=False)
        self.fields["setting"] = fields.temperature("At", units, 30, 320, required=False)
        self.fields["amount"] = fields.mass("Amount", units, 1, 500_000, required=False)

    def row(self, key: str) -> dict[str, Any]:
        """The companion as it is stored, after validation."""
        typed = self.cleaned_data
        side = {
            "name": clean_text(typed["name"], 60), "minutes": typed["minutes"], "setting_c": typed["setting"],
            "amount_g": typed["amount"],
        }  # fmt: skip
        return {"id": key, "kind": typed["kind"], **{name: value for name, value in side.items() if value}}
