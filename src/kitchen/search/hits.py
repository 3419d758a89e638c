"""What a text finds beside the records: pages, plans, cuts, eggs, brines, services and people."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db.models import Q, QuerySet
from django.urls import reverse

from ember.food.search import search as cuts_by_text
from kitchen.accounts.models import Kitchen, Membership
from kitchen.brines.models import BrinePlan
from kitchen.cuts.models import OwnCut
from kitchen.eggs.models import EggPlan
from kitchen.line.models import Cook
from kitchen.places import PLACES
from kitchen.plans.models import Plan
from kitchen.services.models import Service

MOST = 8  # of each kind


@dataclass(frozen=True)
class Hit:
    """One thing, and the page that shows it."""

    name: str
    words: str
    url: str


@dataclass(frozen=True)
class HitGroup:
    """Things of one kind; `more`: how many beyond those shown."""

    name: str
    hits: list[Hit]
    more: int = 0


def _pages(text: str) -> HitGroup:
    words = text.lower().split()
    hits = [
        Hit(page.name, "" if page.name == place.name else place.name, reverse(page.url))
        for place in PLACES
        for page in place.pages
        if all(word in f"{page.name} {place.name} {page.also}".lower() for word in words)
    ]
    return HitGroup("Pages", hits[:MOST], max(len(hits) - MOST, 0))


def _rows(name: str, rows: QuerySet[Any], hit: Callable[[Any], Hit]) -> HitGroup:
    shown = [hit(row) for row in rows[:MOST]]
    return HitGroup(name, shown, rows.count() - len(shown) if len(shown) == MOST else 0)


def _cuts(kitchen: Kitchen, text: str) -> HitGroup:
    own = OwnCut.objects.of(kitchen).current().filter(name__icontains=text)[:MOST]
    hits = [Hit(cut.name, "your cut", f"{reverse('plans:new')}?own={cut.pk}") for cut in own]
    page = reverse("cuts:catalogue")
    known = [Hit(cut.name, cut.species, f"{page}#cut-{cut.id.replace('/', '-')}") for cut in cuts_by_text(text)]
    hits += known[: MOST - len(hits)]
    return HitGroup("Cuts", hits, max(len(own) + len(known) - len(hits), 0))


def _role(row: Membership) -> str:
    return "left" if row.left_at is not None else row.get_role_display().lower()


def hit_groups(kitchen: Kitchen, text: str) -> list[HitGroup]:
    """Everything but records that matches a text, only kinds with any."""
    cooking = Cook.objects.of(kitchen).filter(finished_at=None, name__icontains=text).order_by("-started_at")
    saved = {"name__icontains": text}
    people = kitchen.memberships.select_related("person").filter(
        Q(person__name__icontains=text) | Q(person__username__icontains=text)
    )
    groups = [
        _pages(text),
        _rows("On the line", cooking, lambda cook: Hit(cook.name, "cooking", reverse("line:steps", args=[cook.pk]))),
        _rows("Plans", Plan.objects.of(kitchen).current().matching(text).order_by("name"),
              lambda plan: Hit(plan.name, "", reverse("plans:edit", args=[plan.pk]))),
        _rows("Eggs", EggPlan.objects.of(kitchen).current().filter(**saved).order_by("name"),
              lambda egg: Hit(egg.name, "", reverse("eggs:kept", args=[egg.pk]))),
        _rows("Brines", BrinePlan.objects.of(kitchen).current().filter(**saved).order_by("name"),
              lambda brine: Hit(brine.name, "", reverse("brines:kept", args=[brine.pk]))),
        _rows("Services", Service.objects.of(kitchen).current().filter(**saved).order_by("-pk"),
              lambda service: Hit(service.name, "", reverse("services:service", args=[service.pk]))),
        _cuts(kitchen, text),
        _rows("People", people.order_by("person__name"),
              lambda row: Hit(str(row.person), _role(row), reverse("accounts:people"))),
    ]  # fmt: skip
    return [group for group in groups if group.hits]
