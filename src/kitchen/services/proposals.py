"""Changes of a new plan, and the lateness it was made for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ember.files.service import TaskOut

from .documents import Move
from .models import Service
from .state import off_time

MOVED_MIN = 0.5  # a task that moves by less has not moved


def moves(before: Sequence[TaskOut], after: Sequence[TaskOut]) -> list[Move]:
    """Tasks whose start differs between two schedules, in the order of `after`."""
    was = {(task.dish, task.id, task.n): task.start for task in before}
    moved = []
    for task in after:
        old = was.get((task.dish, task.id, task.n))
        by_min = (task.start - old).total_seconds() / 60.0 if old else 0.0
        if old is not None and abs(by_min) >= MOVED_MIN:
            moved.append(Move(name=task.name, n=task.n, was=old, start=task.start, by_min=by_min))
    return moved


def late_signature(service: Service) -> list[list[Any]]:
    """What is late and by how much, in steps of five minutes so that a proposal stays valid for a while."""
    return [[*late_task.key, late_task.minutes // 5] for late_task in off_time(service, service.kitchen.now())]
