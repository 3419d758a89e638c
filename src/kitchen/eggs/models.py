"""Egg requests a kitchen keeps."""

from __future__ import annotations

from kitchen.desk.kept import KeptRequest, kept_constraints


class EggPlan(KeptRequest):
    """An `open-ember/egg` request under a name."""

    class Meta(KeptRequest.Meta):
        constraints = kept_constraints("egg_plan", "open-ember/egg", "an_egg")
