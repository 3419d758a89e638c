"""A kitchen's saved brines, and what a plan may do with them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from kitchen.accounts.models import Kitchen
from kitchen.kit.models import Equipment

from .models import BrinePlan, Confirmation, fingerprint_of


def kept_brines(kitchen: Kitchen) -> list[BrinePlan]:
    """Saved brines that are not archived, by name."""
    return list(BrinePlan.objects.of(kitchen).current())


def kept_as(brines: Iterable[BrinePlan], recipe: Mapping[str, Any]) -> BrinePlan | None:
    """The saved brine that equals a recipe to the gram."""
    wanted = fingerprint_of(dict(recipe))
    return next((brine for brine in brines if fingerprint_of(brine.document) == wanted), None)


def unconfirmed_brines(kitchen: Kitchen) -> list[BrinePlan]:
    """Saved brines with curing salt that wait for a second person: never confirmed as they stand, or asked for again
    after a start has used the confirmation.
    """
    rows = Confirmation.objects.filter(plan__kitchen=kitchen).values_list("plan_id", "fingerprint", "use")
    ever = {(plan, mark) for plan, mark, _ in rows}
    unused = {(plan, mark) for plan, mark, use in rows if use is None}
    waiting = []
    for brine in kept_brines(kitchen):
        key = (brine.pk, fingerprint_of(brine.document))
        if brine.has_nitrite and (key not in ever or (brine.asked_at is not None and key not in unused)):
            waiting.append(brine)
    return waiting


def confirmation_of(
    kitchen: Kitchen, recipe: Mapping[str, Any], besides: Iterable[Confirmation] = ()
) -> Confirmation | None:
    """A second person's unused confirmation of a recipe to the gram, under any name; none of `besides`."""
    return (
        Confirmation.objects.filter(plan__kitchen=kitchen, fingerprint=fingerprint_of(dict(recipe)), use=None)
        .exclude(pk__in=[other.pk for other in besides])
        .select_related("by")
        .order_by("-at")
        .first()
    )


def vessel_places(kitchen: Kitchen) -> Any:
    """Places where a vessel with a brine may stand."""
    return Equipment.objects.of(kitchen).current().filter(kind=Equipment.Kind.FRIDGE)
