"""Every write of calibration: studies, and accepting or withdrawing proposals."""

from __future__ import annotations

import math
from typing import Any

from django.db import transaction
from django.db.models import Max

from ember.errors import EmberError
from ember.files.plan import parse_plan
from ember.food.catalogue import cut as cut_of
from ember.learn.study import NO_BETTER, WITHIN, Proposal, study
from kitchen.accounts.models import Kitchen, Person
from kitchen.kit.calibration import DIGITS, KEYS
from kitchen.kit.models import Equipment, Taught
from kitchen.plans import actions as plan_actions
from kitchen.plans.models import Plan
from kitchen.worker.limits import checked

from .evidence import MOST_COOKS, cooks_of
from .models import Study
from .ovens import Recovered, recoveries

FACTORS = ("pan", "cut")
STAGES = {"door": "oven"}  # where a thing is not called as its stage

LONGEST_S = 1800.0  # of a study


class LearningError(Exception):
    """An action that is not allowed, in words for the chef."""


def ask(kitchen: Kitchen, person: Person) -> Study:
    """Request a study of the finished cooks."""
    return Study.objects.create(kitchen=kitchen, by=person, asked_at=kitchen.now())


def make(study_row: Study, most: int = MOST_COOKS) -> None:
    """Run a study of the newest `most` cooks; its row holds the progress meanwhile. Raises JobStopped."""
    wanted = Study.objects.filter(pk=study_row.pk, problem="")
    check = checked(wanted.exists, LONGEST_S)

    def told(done: int, of: int) -> None:
        check()
        wanted.update(done=done, of=of)

    cooks = cooks_of(study_row.kitchen, told, most)
    result = study(cooks)
    names = dict(Equipment.objects.of(study_row.kitchen).values_list("pk", "name"))
    rows = [proposal_row for proposal in result.proposals if (proposal_row := _row(proposal, names)) is not None]
    rows += [
        _door_row(key, names[key], result) for key, result in recoveries(study_row.kitchen).items() if key in names
    ]
    check()
    wanted.update(found=rows, cooks=result.cooks)


def _row(proposal: Proposal, names: dict[int, str]) -> dict[str, Any] | None:
    """A proposal as it is stored; None for equipment that is gone."""
    estimate, held = proposal.estimate, proposal.held_out
    kind, key = estimate.kind, estimate.name
    name = cut_of(key).name if kind == "cut" else names.get(int(key))
    if name is None:
        return None
    shown = math.exp if kind in FACTORS else float
    return {
        "kind": kind, "key": key, "name": name, "value": shown(estimate.value), "low": shown(estimate.low),
        "high": shown(estimate.high), "now": shown(proposal.now), "cooks": estimate.cooks, "spread": estimate.spread,
        "before_k": held.before_k, "after_k": held.after_k, "fall_low_k": held.fall_low_k,
        "fall_high_k": held.fall_high_k, "errors": [list(pair) for pair in proposal.errors],
        "why_not": proposal.why_not,
    }  # fmt: skip


def _door_row(key: int, name: str, recovered: Recovered) -> dict[str, Any]:
    """An oven's recovery after its door as a proposal; errors in minutes."""
    recovery = recovered.recovery
    why_not = ""
    if recovery.low <= recovered.now <= recovery.high:
        why_not = WITHIN
    elif recovery.after_min >= recovery.before_min:
        why_not = NO_BETTER
    return {
        "kind": "door", "key": str(key), "name": name, "value": recovery.rate_k_min, "low": recovery.low,
        "high": recovery.high,
        "now": recovered.now, "cooks": recovery.doors, "spread": 0.0, "before_k": recovery.before_min,
        "after_k": recovery.after_min,
        "fall_low_k": 0.0, "fall_high_k": 0.0, "errors": [["a door", *both] for both in recovery.errors],
        "why_not": why_not,
    }  # fmt: skip


@transaction.atomic
def accept(study_row: Study, kind: str, key: str, person: Person) -> Taught:
    """Accept a proposal: it applies from now on, and plans that name the equipment are saved anew with it.

    Raises LearningError for a value that was not proposed or may not be accepted.
    """
    kitchen = Kitchen.objects.select_for_update().get(pk=study_row.kitchen_id)
    proposal_row = next(
        (
            proposal_row
            for proposal_row in study_row.found or []
            if (proposal_row["kind"], proposal_row["key"]) == (kind, key)
        ),
        None,
    )
    if proposal_row is None:
        raise LearningError("That was not proposed.")
    if proposal_row["why_not"]:
        raise LearningError(f"Not accepted: {proposal_row['why_not']}.")
    equipment = None
    if kind != "cut":
        equipment = Equipment.objects.of(kitchen).current().filter(pk=int(key)).first()
        if equipment is None:
            raise LearningError(f"{proposal_row['name']} has been archived.")
    mine = Taught.objects.of(kitchen).filter(kind=kind, equipment=equipment, cut=key if kind == "cut" else "")
    before = mine.current().first()
    mine.current().update(undone_by=person, undone_at=kitchen.now())
    last = mine.aggregate(last=Max("number"))["last"] or 0
    taught = Taught.objects.create(
        kitchen=kitchen, kind=kind, equipment=equipment, cut=key if kind == "cut" else "", number=last + 1,
        value=proposal_row["value"], low=proposal_row["low"], high=proposal_row["high"], cooks=proposal_row["cooks"],
        before_k=proposal_row["before_k"],
        after_k=proposal_row["after_k"], by=person, at=kitchen.now(),
    )  # fmt: skip
    _replan(kitchen, person, taught, before.value if before else None, taught.value)
    return taught


@transaction.atomic
def take_back(taught: Taught, person: Person) -> Taught | None:
    """Withdraw an accepted value; the one that applied before it applies again and is returned."""
    locked = Taught.objects.select_for_update().get(pk=taught.pk)
    if locked.undone_at is not None:
        return None
    locked.undone_by, locked.undone_at = person, locked.kitchen.now()
    locked.save(update_fields=["undone_by", "undone_at"])
    mine = Taught.objects.of(locked.kitchen).filter(kind=locked.kind, equipment=locked.equipment, cut=locked.cut)
    before = mine.filter(number__lt=locked.number).order_by("-number").first()
    again = None
    if before is not None:
        again = Taught.objects.create(
            kitchen=before.kitchen, kind=before.kind, equipment=before.equipment, cut=before.cut,
            number=(mine.aggregate(last=Max("number"))["last"] or 0) + 1, value=before.value, low=before.low,
            high=before.high, cooks=before.cooks, before_k=before.before_k, after_k=before.after_k, by=person,
            at=locked.kitchen.now(),
        )  # fmt: skip
    _replan(locked.kitchen, person, locked, locked.value, again.value if again else None)
    return again


def _replan(kitchen: Kitchen, person: Person, taught: Taught, old: float | None, new: float | None) -> None:
    """Save plans that stated the old value with the new one, as a new version."""
    for plan in Plan.objects.of(kitchen).order_by("pk"):
        document = _retold(plan.document, taught, old, new)
        if document is not None:
            try:
                plan_actions.save(plan, person, parse_plan(document))
            except EmberError:
                continue  # it cannot be cooked so: it stays what it was, and its start says why


def _retold(document: dict[str, Any], taught: Taught, old: float | None, new: float | None) -> dict[str, Any] | None:
    """The document with the new value in place of the old one; None if that is not in it."""
    if taught.kind != Taught.Kind.CUT:
        return _stages_retold(document, taught, old, new)
    shape = document["piece"]["shape"]
    if document["piece"]["cut"] != taught.cut or shape["kind"] != "from_mass":
        return None
    if round(shape.get("size_factor", 1.0), 3) != round(1.0 if old is None else old, 3):
        return None
    shape_left = {key: value for key, value in shape.items() if key != "size_factor"}
    factor = {} if new is None else {"size_factor": round(new, 3)}
    return {**document, "piece": {**document["piece"], "shape": {**shape_left, **factor}}}


def _stages_retold(
    document: dict[str, Any], taught: Taught, old: float | None, new: float | None
) -> dict[str, Any] | None:
    if old is None:
        return None  # plans do not say which oven they mean, but by what they say of it
    key = KEYS[taught.kind]
    digits, kind = DIGITS[key], STAGES.get(taught.kind, taught.kind)
    stages, changed = [], False
    for stage in document["stages"]:
        place = stage.get("pan") if taught.kind == Taught.Kind.PAN else stage
        if stage["kind"] == kind and place and place.get(key) == round(old, digits):
            changed = True
            place_left = {name: value for name, value in place.items() if name != key}
            place_new = place_left if new is None else {**place_left, key: round(new, digits)}
            stage = {**stage, "pan": place_new} if taught.kind == Taught.Kind.PAN else place_new
        stages.append(stage)
    return {**document, "stages": stages} if changed else None
