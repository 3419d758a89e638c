"""The demo's batches: one cold and half used, one cooling, one that missed its first stage."""

from __future__ import annotations

import datetime as dt
import json
from functools import cache
from typing import Any

from ember.chill.answer import answer_chill
from ember.files.chill import parse_chill
from kitchen.accounts.models import Kitchen, Person
from kitchen.batches.models import Batch, BatchEvent

# Events as (minutes after it left the heat, kind, °C, portions, note).
BATCHES: list[dict[str, Any]] = [
    {
        "name": "Pressed belly, glaze 2", "by": "tobin", "hours_ago": 41.0, "portions": 30,
        "piece": {"cut": "pork/belly", "shape": {"kind": "slab", "thickness_mm": 46}, "start_c": 76.0,
                  "mass_g": 1150, "count": 4},
        "wait_min": 12, "cold": [{"way": "ice-bath", "to_c": 5.0}, {"way": "walk-in"}], "packed": "cook-chill",
        "back": {"in": "bath", "medium_c": 68.0}, "kept_c": 3.0,
        "events": [
            (14, "cold", None, 0, "Ice bath"), (48, "read", 31.5, 0, ""), (70, "read", 17.0, 0, ""),
            (125, "read", 4.6, 0, ""), (126, "cold", None, 0, "Walk-in"), (131, "pressed", None, 0, "a tray and 5 kg"),
            (260, "portioned", None, 32, ""), (1300, "used", None, 9, "crew supper"),
            (2050, "used", None, 8, "second sitting"),
        ],
    },
    {
        "name": "Hen breasts for the cold plate", "by": "pell", "hours_ago": 0.7, "portions": 20,
        "piece": {"cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 29}, "start_c": 66.0,
                  "mass_g": 195, "count": 20},
        "wait_min": 6, "cold": [{"way": "blast"}], "packed": "cook-chill", "kept_c": 3.0,
        "events": [(7, "cold", None, 0, "Blast chiller"), (30, "read", 34.0, 0, "")],
    },
    {
        "name": "Shin, braised in its stock", "by": "pell", "hours_ago": 5.0, "portions": 14,
        "piece": {"cut": "beef/shin", "shape": {"kind": "slab", "thickness_mm": 88}, "start_c": 88.0, "mass_g": 2600,
                  "count": 2},
        "wait_min": 35, "bagged": False, "layers": 1, "cold": [{"way": "fridge"}], "packed": "open", "kept_c": 4.0,
        "back": {"in": "sauce", "medium_c": 92.0, "to_c": 78.0, "then": "held"},
        "events": [
            (40, "cold", None, 0, "Walk-in"), (62, "read", 76.0, 0, ""), (118, "read", 56.5, 0, ""),
            (262, "read", 28.0, 0, ""),
        ],
    },
]  # fmt: skip

_NOT_ASKED = ("name", "by", "hours_ago", "portions", "events")


@cache
def _answer(document: str) -> dict[str, Any]:
    return answer_chill(parse_chill(json.loads(document))).model_dump(mode="json")


def add_batches(kitchen: Kitchen, people: dict[str, Person]) -> None:
    """Create the batches, each at its age."""
    for batch_data in BATCHES:
        request_data = {key: value for key, value in batch_data.items() if key not in _NOT_ASKED}
        document = {"format": "open-ember/chill", "version": 1, **request_data, "standard": kitchen.standard}
        out_at = kitchen.now() - dt.timedelta(hours=batch_data["hours_ago"])
        batch = Batch.objects.create(
            kitchen=kitchen, name=batch_data["name"], document=document, result=_answer(json.dumps(document)),
            portions=batch_data["portions"], out_at=out_at, out_by=people[batch_data["by"]],
        )  # fmt: skip
        BatchEvent.objects.bulk_create(
            BatchEvent(
                batch=batch, kind=kind, at=out_at + dt.timedelta(minutes=minutes), by=people[batch_data["by"]],
                celsius=celsius, portions=portions, note=note,
            )
            for minutes, kind, celsius, portions, note in batch_data["events"]
        )  # fmt: skip
