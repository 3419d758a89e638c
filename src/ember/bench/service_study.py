"""Time to plan a service and gap to the optimum: made-up evenings of 12 and 40 dishes, and replanning."""

from __future__ import annotations

from typing import Any

from ..files.service import ServiceAnswer, parse_service
from ..service.answer import plan_service
from .service_made import made_service

SIZES = ((12, 3.0, (1, 2, 3, 4, 5)), (40, 10.0, (1, 2, 3)))  # dishes, seconds given, seeds
AGAIN_S = 1.0


def schedule_study() -> dict[str, Any]:
    """By size: tasks, seconds to the first plan and in total, the widest gap; seconds of replanning."""
    report: dict[str, Any] = {}
    for dishes, seconds, seeds in SIZES:
        answers = [plan_service(parse_service(made_service(dishes, seed) | {"seconds": seconds})) for seed in seeds]
        again = [planned_anew(dishes, seed, answer) for seed, answer in zip(seeds, answers, strict=True)]
        report[f"dishes_{dishes}"] = {
            "tasks": max(len(answer.tasks) for answer in answers),
            "first_s": max(answer.first_s or 0.0 for answer in answers),
            "seconds": max(answer.seconds for answer in answers),
            "gap": max(answer.gap or 0.0 for answer in answers),
            "proven": sum(answer.status == "optimal" for answer in answers) / len(answers),
            "again_first_s": max(answer.first_s or 0.0 for answer in again),
            "again_moved_min": max(answer.moved_min or 0.0 for answer in again),
        }
    return report


def planned_anew(dishes: int, seed: int, before: ServiceAnswer) -> ServiceAnswer:
    """The same evening replanned from its schedule, within a second."""
    was = {(row.dish, row.id): row.start.isoformat() for row in before.tasks if not row.n}
    data = made_service(dishes, seed) | {"seconds": AGAIN_S}
    for dish in data["dishes"]:
        for task in dish["tasks"]:
            if "during" not in task:
                task["was"] = was[dish["id"], task["id"]]
    return plan_service(parse_service(data))
