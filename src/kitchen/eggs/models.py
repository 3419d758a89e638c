"""Egg requests that a kitchen saves."""

from __future__ import annotations

from kitchen.desk.saved_requests import SavedRequest, saved_request_constraints


class EggPlan(SavedRequest):
    """An `open-ember/egg` request under a name."""

    class Meta(SavedRequest.Meta):
        constraints = saved_request_constraints("egg_plan", "open-ember/egg", "an_egg")
