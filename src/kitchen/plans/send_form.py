"""How a plan is sent to the line: its probe and time."""

from __future__ import annotations

import datetime as dt

from django import forms

from kitchen.accounts.models import Kitchen


class SendForm(forms.Form):
    """`up_at`: the plate-up time; empty for as soon as possible."""

    up_at = forms.TimeField(
        required=False, input_formats=["%H:%M", "%H.%M", "%H%M"],
        error_messages={"invalid": "Enter a time of day, like 18:30."},
    )  # fmt: skip

    def begins_at(self, kitchen: Kitchen, takes_s: float) -> dt.datetime | None:
        """When the first stage begins so that everything is ready at the time wanted; None if no time is wanted."""
        wanted = self.cleaned_data.get("up_at")
        return None if wanted is None else next_at(kitchen, wanted) - dt.timedelta(seconds=takes_s)


def next_at(kitchen: Kitchen, wanted: dt.time) -> dt.datetime:
    """The next time the kitchen's clock shows a time of day; one within the last minute counts as now."""
    now = kitchen.now().astimezone(kitchen.zone)
    at = now.replace(hour=wanted.hour, minute=wanted.minute, second=0, microsecond=0)
    return at + dt.timedelta(days=1) if at <= now - dt.timedelta(minutes=1) else at
