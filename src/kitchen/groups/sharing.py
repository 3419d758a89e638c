"""Plans, standards and house limits that a group shares, and that each kitchen takes over as its own version."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from ember.errors import EmberError
from ember.files.base import House
from ember.files.plan import parse_plan
from ember.judge.standards import standards
from kitchen.accounts.models import Kitchen, Person
from kitchen.plans import actions as plan_actions
from kitchen.plans.kit_choice import without_kit
from kitchen.plans.models import Plan
from kitchen.standards import actions as standard_actions

from .belonging import GroupError, group_of
from .models import Group, Share, TakenOver

RULES_NAME = "Standard and house limits"


@dataclass(frozen=True)
class News:
    """A shared version that a kitchen has not taken over; `held`: the version of it that it holds."""

    share: Share
    held: TakenOver | None


@transaction.atomic
def share_plan(group: Group, plan: Plan, person: Person) -> Share:
    """Give the group a plan as it stands, without the equipment of its kitchen. Raises GroupError if it has it
    already.
    """
    return _share(group, plan.kitchen, person, str(plan.pk), plan.name, without_kit(plan.document))


@transaction.atomic
def share_rules(group: Group, kitchen: Kitchen, person: Person) -> Share:
    """Give the group this kitchen's standard and house limits. Raises GroupError if it has them already."""
    document = {"standard": kitchen.standard, "house": kitchen.house}
    return _share(group, kitchen, person, Share.RULES, RULES_NAME, document)


def _share(
    group: Group, kitchen: Kitchen, person: Person, subject: str, name: str, document: dict[str, Any]
) -> Share:  # fmt: skip
    Group.objects.select_for_update().get(pk=group.pk)
    last = Share.objects.filter(group=group, subject=subject).order_by("-number").first()
    if last is not None and last.withdrawn_at is None and (last.document, last.name) == (document, name):
        raise GroupError(f"The group has this version of {name} already.")
    return Share.objects.create(
        kitchen=kitchen, group=group, subject=subject, number=last.number + 1 if last else 1, name=name,
        document=document, by=person, at=kitchen.now(),
    )  # fmt: skip


def withdraw(share: Share) -> None:
    """Offer it no longer; who took it over keeps it."""
    share.withdrawn_at = share.kitchen.now()
    share.save(update_fields=["withdrawn_at"])


def news_for(kitchen: Kitchen) -> list[News]:
    """What the group shares that this kitchen did not give and has not taken over, newest versions only."""
    group = group_of(kitchen)
    if group is None:
        return []
    shares = Share.objects.filter(group=group).newest().exclude(kitchen=kitchen).exclude(taken__kitchen=kitchen)
    news = []
    for share in shares.select_related("kitchen", "by"):
        held = TakenOver.objects.of(kitchen).filter(share__group=group, share__subject=share.subject)
        news.append(News(share, held.select_related("share", "plan").first()))
    return news


@transaction.atomic
def take_over(kitchen: Kitchen, share: Share, person: Person) -> TakenOver:
    """Take a shared version over as this kitchen's own: a plan as a new version of what it holds, or a new plan; rules
    with the stricter of both limits. Raises GroupError.
    """
    Kitchen.objects.select_for_update().get(pk=kitchen.pk)
    if share.group != group_of(kitchen) or share.kitchen_id == kitchen.pk:
        raise GroupError("This is not shared with this kitchen.")
    if TakenOver.objects.of(kitchen).filter(share=share).exists():
        raise GroupError(f"This kitchen has {share} already.")
    plan = None
    if share.is_rules:
        _take_rules(kitchen, share.document)
    else:
        plan = _take_plan(kitchen, share, person)
    return TakenOver.objects.create(kitchen=kitchen, share=share, plan=plan, by=person, at=kitchen.now())


def _take_plan(kitchen: Kitchen, share: Share, person: Person) -> Plan:
    try:
        core = parse_plan({**share.document, "name": share.name})
    except EmberError as error:
        raise GroupError(f"{share.name} cannot be planned here: {error.message}") from None
    note = f"From {share.kitchen}, version {share.number} of {share.group}"
    held = TakenOver.objects.of(kitchen).filter(share__group=share.group, share__subject=share.subject).first()
    if held is not None and held.plan is not None and held.plan.deleted_at is None:
        return plan_actions.save(held.plan, person, core, note=note)
    return plan_actions.create(kitchen, person, core, note=note)


def _take_rules(kitchen: Kitchen, document: dict[str, Any]) -> None:
    if document["standard"] not in standards():
        raise GroupError("This installation does not have the group's standard.")
    kitchen.refresh_from_db()
    standard_actions.choose_standard(kitchen, document["standard"])
    standard_actions.set_house(kitchen, stricter(kitchen.house, document["house"]))


def stricter(one: dict[str, Any], other: dict[str, Any]) -> dict[str, Any]:
    """The stricter limit of two kitchens' house limits, each.

    >>> stricter({"core_c": {"poultry": 75.0}, "hold_cold_c": 4.0}, {"core_c": {"poultry": 74.0}, "hold_cold_c": 3.0})
    {'core_c': {'poultry': 75.0}, 'hold_cold_c': 3.0}
    """
    both = copy.deepcopy(one)
    for key, value in other.items():
        if key == "core_c":
            mine = both.setdefault("core_c", {})
            both["core_c"] = {**mine, **{name: max(c, mine.get(name, c)) for name, c in value.items()}}
        else:
            choose = min if key == "hold_cold_c" else max
            both[key] = choose(value, both.get(key, value))
    return House.model_validate(both).model_dump(exclude_none=True)
