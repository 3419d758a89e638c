"""Reads of running cooks."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from typing import Any

from django.db.models import Prefetch, QuerySet

from ember.track.steps import Step
from kitchen.accounts.models import Kitchen

from .board_snapshot import CookInputs, inputs_of, snapshot_of
from .cook_status import CookStatus
from .cook_steps import CookSteps
from .models import Cook, ProbeUse


def running(kitchen: Kitchen) -> list[CookStatus]:
    """All running cooks of a kitchen, the one that is due first in front."""
    now = kitchen.now()
    cooks = list(
        Cook.objects.of(kitchen)
        .of_plans()
        .filter(finished_at=None)
        .defer("document", "result")
        .select_related("kitchen")
        .with_events()
        .prefetch_related(Prefetch("probe_uses", ProbeUse.objects.filter(pk__in=_first_uses(kitchen)), "known_uses"))
    )
    inputs = inputs_of(kitchen, cooks)
    statuses = [CookStatus(cook, now, inputs[cook.pk]) for cook in cooks]
    return sorted(statuses, key=lambda f: (f.is_past_last_step, f.due_at, f.cook.started_at))


def _first_uses(kitchen: Kitchen) -> QuerySet[Any]:
    """The first inserted probe of each running cook, which the board shows."""
    uses = ProbeUse.objects.filter(cook__kitchen=kitchen, cook__finished_at=None, during__endswith=None)
    return uses.order_by("cook_id", "pk").distinct("cook_id").values("pk")


def steps_of_cook(cook: Cook) -> list[Step]:
    """The steps of a plan's cook as of its start, cached since they never change."""
    return CookSteps(cook, cook.started_at, CookInputs(snapshot_of(cook.pk))).steps


def status_of(cook: Cook, kept: Sequence[tuple[dt.datetime, float]] | None = None) -> CookStatus:
    """The status of a cook at its kitchen's present. `kept`: its readings, where they are not to be read again."""
    return CookStatus(cook, cook.kitchen.now(), kept=kept)
