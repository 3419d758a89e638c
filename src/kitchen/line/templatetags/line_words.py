"""What the line's screens keep of a cook."""

from __future__ import annotations

from django import template

from ..coming import steps_coming as rows_of
from ..step_cooks import StepFollowing

register = template.Library()


@register.simple_tag
def steps_coming(following: StepFollowing) -> str:
    """The steps still to come, as JSON, for a screen without the server."""
    return rows_of(following)
