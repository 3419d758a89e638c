"""Starting a cook from a plan, with its steps as of now, and a probe."""

from __future__ import annotations

import datetime as dt
import json
import uuid
from contextlib import suppress
from dataclasses import asdict
from functools import lru_cache
from typing import Any

from django.db import IntegrityError, transaction

from ember.errors import EmberError
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import cut
from ember.report.brines import refused
from ember.solve.batches import split_loads
from ember.solve.log_ends import rule_met_s
from ember.track.full_steps import full_steps_of, with_preparation
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.actions import BrineError, use_confirmation
from kitchen.brines.models import Confirmation
from kitchen.brines.queries import confirmation_of
from kitchen.kit.calibration import as_cooked
from kitchen.kit.models import Probe
from kitchen.plans.evaluated import REMEMBERED, evaluated
from kitchen.plans.models import Plan

from .actions import unused
from .errors import LineError
from .models import Cook, CookEvent, ProbeUse
from .places import Chosen, assign
from .taps import tapped_at
from .tasks import enqueue_forecast

RESULT_KEPT = {"stages", "pull", "core", "curves", "doneness", "safety", "lethality", "yield_pct", "warnings", "brines"}


def kept_result(core: CorePlan, result: Result, prepared: bool = True) -> dict[str, Any]:
    """The plan's result and steps as a cook stores them: they stay as of its start.

    `prepared`: preparation before the first stage was done already and is left out.
    """
    stored: dict[str, Any] = result.model_dump(mode="json", include=RESULT_KEPT)
    actions = full_steps_of(core, result.stages, cut(core.piece.cut))
    steps = [asdict(step) for step in (actions if prepared else with_preparation(actions, core))]
    return stored | {"steps": steps, "rule_met_s": rule_met_s(core)}


def start(
    plan: Plan, person: Person, probe: Probe | None = None, token: uuid.UUID | None = None,
    document: dict[str, Any] | None = None, due_at: dt.datetime | None = None, chosen: Chosen | None = None,
) -> Cook:  # fmt: skip
    """Start a cook from a plan, or from its `document` for another number of pieces: its first stage begins now.

    A repeated token starts it once. `due_at`: when it was planned to begin. `chosen`: equipment of its stages where
    that is settled. Raises LineError if the probe is in another piece, if chosen equipment is not available, and for
    curing salt over its limit, weighed for other meat or not confirmed by a second person; EmberError if the plan
    cannot be cooked.
    """
    return _made(plan, person, probe, token, document, due_at, chosen, waits=False)


def send(
    plan: Plan, person: Person, probe: Probe | None = None, token: uuid.UUID | None = None,
    due_at: dt.datetime | None = None,
) -> Cook:  # fmt: skip
    """Send a plan to the line, where it waits with its preparation until its first stage begins.

    `due_at`: when that is planned; else as soon as it is prepared. Otherwise like `start`.
    """
    return _made(plan, person, probe, token, None, due_at, None, waits=True)


def settle(
    kitchen: Kitchen, document: dict[str, Any], chosen: Chosen | None = None, waits: bool = True
) -> tuple[dict[str, Any], Result, dict[str, Any], dict[str, Any]]:
    """The document as it will be cooked here, its result, what a cook stores of it, and the equipment of its stages.

    Done before a transaction, it costs nothing within. Raises EmberError, and LineError for equipment.
    """
    core = parse_plan(document)
    kit = assign(kitchen, core, chosen)
    learned = as_cooked(kitchen, document, kit)
    if learned is not document:
        document, core = learned, parse_plan(learned)
    result = evaluated(core)
    if (split := split_loads(document, result)) is not None:
        document, core = split, parse_plan(split)
        result = evaluated(core)
    return document, result, json.loads(_kept(json.dumps(document, sort_keys=True), not waits)), kit


def settle_first(
    kitchen: Kitchen, document: dict[str, Any], chosen: Chosen | None = None, waits: bool = True
) -> None:  # fmt: skip
    """Settle it before the transaction that starts it, which says what is wrong with it, if anything is."""
    with suppress(EmberError, LineError):
        settle(kitchen, document, chosen, waits)


@lru_cache(maxsize=REMEMBERED)
def _kept(document: str, prepared: bool) -> str:
    core = parse_plan(json.loads(document))
    return json.dumps(kept_result(core, evaluated(core), prepared))


@transaction.atomic
def _made(
    plan: Plan, person: Person, probe: Probe | None, token: uuid.UUID | None, document: dict[str, Any] | None,
    due_at: dt.datetime | None, chosen: Chosen | None, waits: bool,
) -> Cook:  # fmt: skip
    begun = CookEvent.objects.filter(cook__kitchen=plan.kitchen, kind=CookEvent.Kind.STARTED)
    if token is not None and (known := begun.filter(token=token).first()):
        return known.cook
    now = tapped_at(plan.kitchen)
    document, result, result_kept, kit = settle(plan.kitchen, document or plan.document, chosen, waits)
    confirmations = _confirmations(plan.kitchen, document, result)
    confirmed = _confirmed(confirmations)
    before_s = max(-result_kept["steps"][0]["at_s"], 0.0)
    cook = Cook.objects.create(
        kitchen=plan.kitchen,
        plan=plan,
        name=plan.name,
        document=document,
        result=result_kept | confirmed,
        started_at=(due_at or now + dt.timedelta(seconds=before_s)) if waits else now,
        started_by=person,
        waits=waits,
    )
    for _, confirmation in confirmations:
        try:
            use_confirmation(confirmation, cook.pk, now)
        except BrineError as error:
            raise LineError(f"Not started: {error}") from None
    due = {"due_at": due_at.isoformat()} if due_at is not None else {}
    CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.STARTED, step=None if waits else 0, at=now, by=person, token=unused(token),
        data={"kit": kit} | due,
    )  # fmt: skip
    if probe is not None:
        attach_probe(cook, probe, now)
    enqueue_forecast(cook)
    return cook


def _confirmations(kitchen: Kitchen, document: dict[str, Any], result: Result) -> list[tuple[int, Confirmation]]:
    """The stage and confirmation of each brine of a plan with curing salt."""
    confirmations: list[tuple[int, Confirmation]] = []
    for brine in result.brines:
        if why := refused(brine):
            raise LineError(f"Not started: {why}")
        if brine.nitrite_ppm is None:
            continue
        recipe = document["stages"][brine.stage]["recipe"]
        confirmation = confirmation_of(kitchen, recipe, [other for _, other in confirmations])
        if confirmation is None:
            raise LineError("Not started: curing salt. A second person must confirm the brine first, for each start.")
        confirmations.append((brine.stage, confirmation))
    return confirmations


def _confirmed(confirmations: list[tuple[int, Confirmation]]) -> dict[str, Any]:
    """Who confirmed the curing salt, by stage; empty without any."""
    confirmed = [
        {"stage": stage, "by": str(each.by), "at": each.at.isoformat(), "how": each.how}
        for stage, each in confirmations
    ]
    return {"confirmed": confirmed} if confirmed else {}


def attach_probe(cook: Cook, probe: Probe, at: dt.datetime) -> ProbeUse:
    """Insert a probe into a cook's piece. Raises LineError if it is in another one."""
    try:
        with transaction.atomic():
            return ProbeUse.objects.create(cook=cook, probe=probe, during=(at, None))
    except IntegrityError:
        other = ProbeUse.objects.filter(probe=probe, during__endswith=None).select_related("cook").first()
        where = f" in {other.cook.name}" if other else " in use"
        raise LineError(f"{probe.name} is already{where}. Choose another, or finish that cook first.") from None
