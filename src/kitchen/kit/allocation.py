"""The choice of oven, bath or pan, shared by the planning of services and the start of cooks."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from ember.kit.equipment import SHARED, tolerance_k

from .models import Equipment

# Places where nobody counted them (common practice).
ROOM = {"fridge": 40, "shelf": 12, "chiller": 6, "oven": 4, "bath": 12, "cupboard": 10}


def room_of(equipment: Equipment) -> int:
    """Number of places."""
    return int(equipment.places or ROOM.get(equipment.kind, 1))


@dataclass(frozen=True)
class Wanted:
    """What is needed: a kind, its setting, °C, places, and for a pan the `vessel` of the plan."""

    kind: str
    setting_c: float | None = None
    amount: int = 1
    vessel: Any = None


@dataclass
class Allocation:
    """Equipment in use: load and settings, °C, by equipment."""

    there: list[Equipment]
    load: dict[int, float] = field(default_factory=lambda: defaultdict(float))
    settings: dict[int, list[float]] = field(default_factory=lambda: defaultdict(list))

    def occupy(self, equipment: Equipment | int, load: float, setting_c: float | None) -> None:
        """Record a use."""
        key = equipment if isinstance(equipment, int) else equipment.pk
        self.load[key] += load
        if setting_c is not None:
            self.settings[key].append(setting_c)

    def clashes(self, equipment: Equipment, setting_c: float | None) -> bool:
        """Whether something else in it needs another setting."""
        near = tolerance_k(equipment.kind)
        return setting_c is not None and any(abs(c - setting_c) > near for c in self.settings.get(equipment.pk, ()))

    def choose(self, wanted: Wanted) -> Equipment | None:
        """The best of its kind: with room, already at the same setting, at no other one, least busy."""
        fitting = [item for item in self.there if item.kind == wanted.kind]
        if wanted.vessel is not None:
            fitting = _alike(fitting, wanted.vessel) or fitting

        def cost(item: Equipment) -> tuple[bool, int, float, str]:
            others = self.settings.get(item.pk, ())
            shared = wanted.setting_c is not None and bool(others) and item.kind in SHARED
            rank = 2 if self.clashes(item, wanted.setting_c) else 0 if shared else 1
            return room_of(item) < wanted.amount, rank, self.load.get(item.pk, 0.0), item.name

        return min(fitting, key=cost, default=None)


def _alike(rows: Iterable[Equipment], vessel: Any) -> list[Equipment]:
    return [other for other in rows if other.diameter_mm == vessel.diameter_mm and other.material == vessel.material]
