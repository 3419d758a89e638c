"""A cook begins: from its plan, with its steps as they are now, and a probe."""

from __future__ import annotations

import datetime as dt
import uuid
from dataclasses import asdict
from typing import Any

from django.db import IntegrityError, transaction

from ember.evaluate import evaluate
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import cut
from ember.report.brines import refused
from ember.solve.when_met import rule_met_s
from ember.track.hands import hands_of
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.queries import confirmation_of
from kitchen.kit.models import Probe
from kitchen.kit.taught import as_cooked
from kitchen.plans.models import Plan

from .actions import LineError, unused
from .models import Cook, CookEvent, ProbeUse
from .places import assign
from .tasks import soon

RESULT_KEPT = {"stages", "pull", "core", "curves", "doneness", "safety", "lethality", "yield_pct", "warnings", "brines"}


def kept_result(core: CorePlan, result: Result) -> dict[str, Any]:
    """What a cook keeps of its plan's result, with its steps: they stay what they were when it began."""
    kept: dict[str, Any] = result.model_dump(mode="json", include=RESULT_KEPT)
    steps = [asdict(step) for step in hands_of(core, result, cut(core.piece.cut))]
    return kept | {"steps": steps, "rule_met_s": rule_met_s(core)}


@transaction.atomic
def start(
    plan: Plan, person: Person, probe: Probe | None = None, token: uuid.UUID | None = None,
    document: dict[str, Any] | None = None,
) -> Cook:  # fmt: skip
    """Start a cook from a plan, or from its `document` for another number of pieces. The same token starts it once.

    Raises LineError when the probe is in another piece, and for curing salt over its limit, weighed for other meat or
    not confirmed by a second person; EmberError when the plan cannot be cooked.
    """
    if known := CookEvent.objects.filter(token=token, cook__kitchen=plan.kitchen, kind=CookEvent.Kind.STARTED).first():
        return known.cook
    now = plan.kitchen.now()
    document = document or plan.document
    core = parse_plan(document)
    kit = assign(plan.kitchen, core)
    learned = as_cooked(plan.kitchen, document, kit)
    if learned is not document:
        document, core = learned, parse_plan(learned)
    result = evaluate(core)
    confirmed = _confirmed(plan.kitchen, document, result)
    cook = Cook.objects.create(
        kitchen=plan.kitchen,
        plan=plan,
        name=plan.name,
        document=document,
        result=kept_result(core, result) | confirmed,
        started_at=now,
        started_by=person,
    )
    CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.STARTED, step=0, at=now, by=person, token=unused(token),
        data={"kit": kit},
    )  # fmt: skip
    if probe is not None:
        attach_probe(cook, probe, now)
    soon(cook)
    return cook


def _confirmed(kitchen: Kitchen, document: dict[str, Any], result: Result) -> dict[str, Any]:
    """Who confirmed the curing salt of a plan's brines; empty without any."""
    told = []
    for brine in result.brines:
        if why := refused(brine):
            raise LineError(f"Not started: {why}")
        if brine.nitrite_ppm is None:
            continue
        found = confirmation_of(kitchen, document["stages"][brine.stage]["recipe"])
        if found is None:
            raise LineError("Not started: curing salt. A second person confirms the brine on its own desk first.")
        told.append({"stage": brine.stage, "by": str(found.by), "at": found.at.isoformat()})
    return {"confirmed": told} if told else {}


def attach_probe(cook: Cook, probe: Probe, at: dt.datetime) -> ProbeUse:
    """Put a probe in a cook's piece. Raises LineError when it is in another one."""
    try:
        with transaction.atomic():
            return ProbeUse.objects.create(cook=cook, probe=probe, during=(at, None))
    except IntegrityError:
        other = ProbeUse.objects.filter(probe=probe, during__endswith=None).select_related("cook").first()
        where = f" in {other.cook.name}" if other else " in use"
        raise LineError(f"{probe.name} is already{where}. Take another, or finish that cook first.") from None
