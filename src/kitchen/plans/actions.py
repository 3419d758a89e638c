"""Every write to plans, in a transaction, with who and when."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import transaction

from ember.errors import BadInput
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person
from kitchen.web import clean_text

from .changes import changes
from .evaluated import evaluated
from .models import TAG_MAX, TAGS_MAX, Plan, PlanVersion

NAME_MAX = 120


def as_document(core: CorePlan) -> dict[str, Any]:
    """The plan as JSON to store, without defaults."""
    return core.model_dump(mode="json", exclude_none=True, exclude={"depth_map"})


def tags_of(text: str) -> list[str]:
    """Tags from "lunch, ferry": lower case, each once.

    Raises BadInput for too many or too long ones.
    """
    tags = list(
        dict.fromkeys(" ".join(part.split()).lower() for part in clean_text(text, 1000).split(",") if part.strip())
    )
    if len(tags) > TAGS_MAX:
        raise BadInput(f"At most {TAGS_MAX} tags.", "tags")
    if any(len(tag) > TAG_MAX for tag in tags):
        raise BadInput(f"A tag has at most {TAG_MAX} characters.", "tags")
    return tags


def _note(plan: Plan, person: Person, what: Iterable[str]) -> None:
    """Store the plan as a new version. Its row must be locked or new."""
    last = plan.versions.order_by("-number").values_list("number", flat=True).first()
    PlanVersion.objects.create(
        plan=plan, number=(last or 0) + 1, name=plan.name, document=plan.document, changes=list(what),
        kept_by=person, kept_at=plan.kitchen.now(),
    )  # fmt: skip


@transaction.atomic
def create(
    kitchen: Kitchen, person: Person, core: CorePlan, tags: Iterable[str] = (), copied_from: Plan | None = None,
    note: str = "",
) -> Plan:  # fmt: skip
    """Save a new plan. `note` says in its history where it comes from."""
    plan = Plan.objects.create(
        kitchen=kitchen,
        name=core.name.strip() or "Untitled plan",
        document=as_document(core),
        tags=list(tags),
        copied_from=copied_from,
        created_by=person,
        updated_by=person,
    )
    _note(plan, person, [note or (f"Copy of {copied_from.name}" if copied_from else "New")])
    return plan


@transaction.atomic
def save(
    plan: Plan, person: Person, core: CorePlan, tags: Iterable[str] | None = None, note: str = ""
) -> Plan:  # fmt: skip
    """Replace a plan's document; a version is stored if something changed, or to say what `note` says."""
    locked = Plan.objects.select_for_update().get(pk=plan.pk)
    document = as_document(core)
    what = [*([note] if note else []), *changes(locked.document, document)]
    locked.name = core.name.strip() or locked.name
    locked.document = document
    if tags is not None:
        locked.tags = list(tags)
    locked.updated_by = person
    locked.save()
    if what:
        _note(locked, person, what)
    return locked


@transaction.atomic
def save_beside(plan: Plan, person: Person, core: CorePlan, tags: Iterable[str] = ()) -> Plan:
    """Save one person's version as a new plan, beside what another made of it."""
    mine = core.model_copy(update={"name": _free_name(plan)})
    return create(plan.kitchen, person, mine, tags, plan)


@transaction.atomic
def bring_back(plan: Plan, person: Person, version: PlanVersion) -> Plan:
    """Restore an earlier version, as a new version."""
    locked = Plan.objects.select_for_update().get(pk=plan.pk)
    if locked.document == version.document:
        return locked
    locked.name, locked.document, locked.updated_by = version.name, version.document, person
    locked.save()
    _note(locked, person, [f"Version {version.number} restored"])
    return locked


@transaction.atomic
def copy(plan: Plan, person: Person) -> Plan:
    """A copy with a name of its own."""
    core = parse_plan({**plan.document, "name": _free_name(plan)})
    return create(plan.kitchen, person, core, plan.tags, plan)


def _free_name(plan: Plan) -> str:
    """The plan's name with the first number that no other has."""
    taken = set(Plan.objects.of(plan.kitchen).current().values_list("name", flat=True))
    number, base = 2, plan.name[: NAME_MAX - 8]
    while (name := f"{base} ({number})") in taken:
        number += 1
    return name


@transaction.atomic
def delete(plan: Plan, person: Person) -> None:
    """Archive a plan; `restore` brings it back."""
    plan.deleted_at = plan.kitchen.now()
    plan.updated_by = person
    plan.save()


@transaction.atomic
def restore(plan: Plan, person: Person) -> None:
    """Restore an archived plan."""
    plan.deleted_at = None
    plan.updated_by = person
    plan.save()


def import_document(kitchen: Kitchen, person: Person, data: object) -> Plan:
    """A plan from a file. Raises EmberError with the place in the file if it cannot be cooked."""
    core = parse_plan(data)
    evaluated(core)
    return create(kitchen, person, core)
