"""The demo's service: an evening on the ferry and the eggs of the next morning, with one clash to settle."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from typing import Any

from kitchen.accounts.models import Kitchen, Person
from kitchen.eggs.models import EggPlan
from kitchen.kit.models import Equipment
from kitchen.plans.models import Plan
from kitchen.services.models import Dish, Service

EGGS = "Rye and smoked herring"
DAYS_AHEAD = 4  # the short rib alone takes three days
SERVICE: dict[str, Any] = {
    "name": "Evening crossing", "covers": 28, "hands": 3, "opens": dt.time(6, 30), "closes": dt.time(22, 45),
}  # fmt: skip
# Plan or eggs, name, days after the evening, plate-up, portions, what is beside it.
DISHES: list[tuple[str, str, int, tuple[int, int], int, list[dict[str, Any]]]] = [
    (
        "Turkey for the long crossing", "Turkey", 0, (19, 40), 10,
        [
            {"id": "c1", "kind": "stuffing", "name": "Oat dumplings", "minutes": 35},
            {"id": "c2", "kind": "roast-vegetables", "name": "Roots"},
            {"id": "c3", "kind": "reduction", "name": "Stock for the gravy", "amount_g": 1100},
        ],
    ),
    (
        "Short rib, brined and pressed", "Short rib", 0, (20, 5), 10,
        [
            {"id": "c1", "kind": "glaze", "name": "Malt glaze"},
            {"id": "c2", "kind": "pot", "name": "Barley", "minutes": 32},
        ],
    ),
    ("Bosun's strip, smoked butter", "Smoked strip", 0, (19, 20), 6, [{"id": "c1", "kind": "pan-sauce"}]),
    (
        "Haunch steaks, bramble", "Haunch steaks", 0, (19, 20), 4,
        [{"id": "c1", "kind": "blanch", "name": "Kale"}],
    ),
    ("eggs", "Morning eggs", 1, (7, 15), 26, []),
]  # fmt: skip
IN_THE_SAME_OVEN = ("Turkey", "c2", "Oven 1")


def add_service(kitchen: Kitchen, person: Person, plans: Mapping[str, Plan]) -> Service:
    """Create the evening, four days ahead, with a clash left for the chef."""
    evening = (kitchen.now() + dt.timedelta(days=DAYS_AHEAD)).astimezone(kitchen.zone).date()
    service = Service.objects.create(kitchen=kitchen, updated_by=person, **SERVICE)
    eggs = EggPlan.objects.of(kitchen).current().filter(name=EGGS).first()
    for key, name, days, (hour, minute), portions, companions in DISHES:
        at = dt.datetime.combine(evening + dt.timedelta(days=days), dt.time(hour, minute), kitchen.zone)
        Dish.objects.create(
            service=service, name=name, plan=plans.get(key), eggs=eggs if key == "eggs" else None, plate_up=at,
            portions=portions, companions=companions, choices=_choices(kitchen, name),
        )  # fmt: skip
    return service


def _choices(kitchen: Kitchen, name: str) -> dict[str, Any]:
    """Choices made before: the roots roast in the bird's oven."""
    dish, task, oven = IN_THE_SAME_OVEN
    if name != dish:
        return {}
    return {task: {"equipment": {"oven": f"e{Equipment.objects.of(kitchen).get(name=oven).pk}"}}}
