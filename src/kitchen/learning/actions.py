"""Every write of what is learned: a look at the cooks, a proposal taken over, and taken back."""

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
from kitchen.kit.models import Equipment, Taught
from kitchen.kit.taught import DIGITS, KEYS
from kitchen.plans import actions as plan_actions
from kitchen.plans.models import Plan

from .evidence import cooks_of
from .models import Study
from .ovens import Recovered, recoveries

FACTORS = ("pan", "cut")
STAGES = {"door": "oven"}  # where a thing is not called as its stage


class LearningError(Exception):
    """Something that cannot be done so, in words for the chef."""


def ask(kitchen: Kitchen, person: Person) -> Study:
    """Ask for a look at the finished cooks."""
    return Study.objects.create(kitchen=kitchen, by=person, asked_at=kitchen.now())


def make(asked: Study) -> None:
    """Look at them; how far it is stands in the row meanwhile."""

    def told(done: int, of: int) -> None:
        Study.objects.filter(pk=asked.pk).update(done=done, of=of)

    cooks = cooks_of(asked.kitchen, told)
    found = study(cooks)
    names = dict(Equipment.objects.of(asked.kitchen).values_list("pk", "name"))
    rows = [row for proposal in found.proposals if (row := _row(proposal, names)) is not None]
    rows += [_door_row(key, names[key], found) for key, found in recoveries(asked.kitchen).items() if key in names]
    Study.objects.filter(pk=asked.pk).update(found=rows, cooks=found.cooks)


def _row(proposal: Proposal, names: dict[int, str]) -> dict[str, Any] | None:
    """A proposal as it is kept; None of equipment that is gone."""
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
        "fall_high_k": held.fall_high_k, "errors": [list(row) for row in proposal.errors],
        "why_not": proposal.why_not,
    }  # fmt: skip


def _door_row(key: int, name: str, found: Recovered) -> dict[str, Any]:
    """How an oven comes back after its door, as a proposal; errors in minutes."""
    row = found.recovery
    why_not = ""
    if row.low <= found.now <= row.high:
        why_not = WITHIN
    elif row.after_min >= row.before_min:
        why_not = NO_BETTER
    return {
        "kind": "door", "key": str(key), "name": name, "value": row.rate_k_min, "low": row.low, "high": row.high,
        "now": found.now, "cooks": row.doors, "spread": 0.0, "before_k": row.before_min, "after_k": row.after_min,
        "fall_low_k": 0.0, "fall_high_k": 0.0, "errors": [["a door", *both] for both in row.errors],
        "why_not": why_not,
    }  # fmt: skip


@transaction.atomic
def accept(asked: Study, kind: str, key: str, person: Person) -> Taught:
    """Take a proposal over: it counts from now on, and plans that name the thing are kept anew with it.

    Raises LearningError for what was not proposed, or may not be taken.
    """
    kitchen = Kitchen.objects.select_for_update().get(pk=asked.kitchen_id)
    row = next((row for row in asked.found or [] if (row["kind"], row["key"]) == (kind, key)), None)
    if row is None:
        raise LearningError("That was not proposed.")
    if row["why_not"]:
        raise LearningError(f"Not accepted: {row['why_not']}.")
    equipment = None
    if kind != "cut":
        equipment = Equipment.objects.of(kitchen).current().filter(pk=int(key)).first()
        if equipment is None:
            raise LearningError(f"{row['name']} has been archived.")
    mine = Taught.objects.of(kitchen).filter(kind=kind, equipment=equipment, cut=key if kind == "cut" else "")
    before = mine.current().first()
    mine.current().update(undone_by=person, undone_at=kitchen.now())
    last = mine.aggregate(last=Max("number"))["last"] or 0
    taught = Taught.objects.create(
        kitchen=kitchen, kind=kind, equipment=equipment, cut=key if kind == "cut" else "", number=last + 1,
        value=row["value"], low=row["low"], high=row["high"], cooks=row["cooks"], before_k=row["before_k"],
        after_k=row["after_k"], by=person, at=kitchen.now(),
    )  # fmt: skip
    _replan(kitchen, person, taught, before.value if before else None, taught.value)
    return taught


@transaction.atomic
def take_back(taught: Taught, person: Person) -> Taught | None:
    """What was taken over counts no more; what counted before it counts again, and is returned."""
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
    """Plans that said the old value of the thing say the new one, as a version of their own."""
    for plan in Plan.objects.of(kitchen).order_by("pk"):
        document = _retold(plan.document, taught, old, new)
        if document is not None:
            try:
                plan_actions.save(plan, person, parse_plan(document))
            except EmberError:
                continue  # it cannot be cooked so: it stays what it was, and its start says why


def _retold(document: dict[str, Any], taught: Taught, old: float | None, new: float | None) -> dict[str, Any] | None:
    """The document with the new value where the old one stood; None where it does not stand."""
    if taught.kind != Taught.Kind.CUT:
        return _stages_retold(document, taught, old, new)
    shape = document["piece"]["shape"]
    if document["piece"]["cut"] != taught.cut or shape["kind"] != "from_mass":
        return None
    if round(shape.get("size_factor", 1.0), 3) != round(1.0 if old is None else old, 3):
        return None
    kept = {key: value for key, value in shape.items() if key != "size_factor"}
    said = {} if new is None else {"size_factor": round(new, 3)}
    return {**document, "piece": {**document["piece"], "shape": {**kept, **said}}}


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
            kept = {name: value for name, value in place.items() if name != key}
            said = kept if new is None else {**kept, key: round(new, digits)}
            stage = {**stage, "pan": said} if taught.kind == Taught.Kind.PAN else said
        stages.append(stage)
    return {**document, "stages": stages} if changed else None
