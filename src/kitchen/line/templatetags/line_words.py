"""Data that the line's screens store about a cook."""

from __future__ import annotations

from django import template

from ..offline_steps import steps_coming as rows_of
from ..step_cooks import StepCookStatus

register = template.Library()


@register.simple_tag
def steps_coming(status: StepCookStatus) -> str:
    """The steps still to come, as JSON, for a screen without the server."""
    return rows_of(status)
