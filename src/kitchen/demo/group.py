"""The demo's group: the ferry's galley and the kitchen ashore that bakes and butchers for it."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from ember.files.plan import parse_plan
from kitchen.accounts.models import Kitchen, Person
from kitchen.book.actions import held_against
from kitchen.book.models import Entry
from kitchen.groups import belonging, sharing
from kitchen.groups.models import GroupRole, JoinCode
from kitchen.kit.models import Equipment, KitCheck
from kitchen.plans import actions as plan_actions
from kitchen.standards.actions import set_house

from .past import last_awake

GROUP = "Tern Line"
ASHORE = {"name": "Skerry Quay", "place": "Shore kitchen", "standard": "us-food-code-2022", "time_zone": "UTC"}
CHEF = ("sanna", "Sanna Lund", "chef")
HOUSE = {"core_c": {"poultry": 75.0}, "hold_cold_c": 4.0}
# Hours ago, kind, what, °C, note.
ENTRIES: list[tuple[float, str, str, float, str]] = [
    (70.0, "cold", "Meat store", 3.1, ""), (46.0, "cold", "Meat store", 7.9, ""),
    (45.0, "cold", "Meat store", 3.8, ""), (29.0, "hot", "Stock kettle", 54.0, "heated to 75 within the half hour"),
]  # fmt: skip
OVEN, CHECKED = "Deck oven", [(26, 190.0, 188.0), (3, 190.0, 184.5)]  # days ago, set to, measured, °C
SHARED: dict[str, Any] = {
    "format": "open-ember/plan", "version": 1, "name": "Pork neck for the boats", "standard": "us-food-code-2022",
    "piece": {
        "cut": "pork/shoulder", "shape": {"kind": "cylinder", "diameter_mm": 92.0}, "mass_g": 1900.0, "start_c": 4.0,
    },
    "target": {"core_c": 71.0},
    "stages": [
        {"kind": "oven", "air_c": 130.0, "mode": "fan", "until": {"peak_c": 71.0}},
        {"kind": "rest", "air_c": 21.0, "minutes": 20.0},
    ],
}  # fmt: skip


def add_group(galley: Kitchen, chef: Person, chef_ashore: Person, ashore: Kitchen) -> None:
    """Put both kitchens in a group, with what the one ashore wrote down and what it shares."""
    group = belonging.begin_group(galley, chef, GROUP)
    belonging.join(ashore, chef_ashore, JoinCode.make(group, chef))
    belonging.give_role(group, chef_ashore, GroupRole.Role.CHEF)
    now = last_awake(galley)
    for hours, kind, what, celsius, note in ENTRIES:
        Entry.objects.create(
            kitchen=ashore, by=chef_ashore, at=now - dt.timedelta(hours=hours), token=uuid.uuid4(), kind=kind,
            what=what, celsius=celsius, note=note, rule=held_against(ashore, kind, celsius),
        )  # fmt: skip
    oven = Equipment.objects.create(kitchen=ashore, kind="oven", name=OVEN)
    for days, wanted_c, read_c in CHECKED:
        KitCheck.objects.create(
            kitchen=ashore, equipment=oven, kind="setting", wanted_c=wanted_c, read_c=read_c, by=chef_ashore,
            at=now - dt.timedelta(days=days),
        )  # fmt: skip
    sharing.share_plan(group, plan_actions.create(ashore, chef_ashore, parse_plan(SHARED)), chef_ashore)
    set_house(ashore, HOUSE)
    sharing.share_rules(group, ashore, chef_ashore)
