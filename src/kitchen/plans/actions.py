"""Every write to plans, in a transaction, with who and when."""

from __future__ import annotations

from django.db import transaction

from ember.evaluate import evaluate
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person

from .models import Plan

NAME_MAX = 120


def as_document(core: CorePlan) -> dict[str, object]:
    """The plan as JSON for keeping: only what was said."""
    return core.model_dump(mode="json", exclude_none=True, exclude={"depth_map"})


@transaction.atomic
def create(kitchen: Kitchen, person: Person, core: CorePlan) -> Plan:
    """Keep a new plan."""
    return Plan.objects.create(
        kitchen=kitchen,
        name=core.name.strip() or "Plan without a name",
        document=as_document(core),
        created_by=person,
        updated_by=person,
    )


@transaction.atomic
def save(plan: Plan, person: Person, core: CorePlan) -> Plan:
    """Replace what a plan says."""
    plan.name = core.name.strip() or plan.name
    plan.document = as_document(core)
    plan.updated_by = person
    plan.save()
    return plan


@transaction.atomic
def copy(plan: Plan, person: Person) -> Plan:
    """A copy with a name that tells it apart."""
    taken = set(Plan.objects.of(plan.kitchen).current().values_list("name", flat=True))
    number, base = 2, plan.name[: NAME_MAX - 8]
    while (name := f"{base} ({number})") in taken:
        number += 1
    document = {**plan.document, "name": name}
    return Plan.objects.create(kitchen=plan.kitchen, name=name, document=document, created_by=person, updated_by=person)


@transaction.atomic
def delete(plan: Plan, person: Person) -> None:
    """Put a plan in the bin; `restore` takes it out again."""
    plan.deleted_at = plan.kitchen.now()
    plan.updated_by = person
    plan.save()


@transaction.atomic
def restore(plan: Plan, person: Person) -> None:
    """Undo a deletion."""
    plan.deleted_at = None
    plan.updated_by = person
    plan.save()


def import_document(kitchen: Kitchen, person: Person, data: object) -> Plan:
    """A plan from a file. Raises EmberError with the place in the file when it is not one that can be cooked."""
    core = parse_plan(data)
    evaluate(core)
    return create(kitchen, person, core)
