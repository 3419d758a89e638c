"""A cook's picture: from what was planned and what was measured to the drawing's geometry."""

from __future__ import annotations

from kitchen.drawings.record_chart import RecordChart, record_chart

from .models import CookEvent
from .queries import Following


def cook_chart(following: Following) -> RecordChart:
    """Planned against measured core of a cook, running or finished."""
    curves, result = following.curves, following.cook.result
    planned = list(zip(curves.t_s, curves.reading_c, strict=True))
    low, high = result["doneness"].get("target_low_c"), result["doneness"].get("target_high_c")
    band = (low, high) if low is not None and high is not None else None
    checks = [
        ((event.at - following.cook.started_at).total_seconds(), event.data.get("core_c"))
        for event in following.cook.events.all()
        if event.kind == CookEvent.Kind.CHECKED
    ]
    planned_stages = [(s["kind"], s["start_s"], s["end_s"]) for s in result["stages"]]
    return record_chart(planned, following.readings, band, checks, planned_stages, done_stages(following))


def done_stages(following: Following) -> list[tuple[str, float, float]]:
    """Stages as they were really gone through: (kind, start s, end s)."""
    begun: dict[int, float] = {}
    for number, event in following.done.items():
        step = following.steps[number]
        if step.kind != "turn":
            begun[step.stage] = (event.at - following.cook.started_at).total_seconds()
    stages = following.plan.stages
    ends = [begun.get(i + 1, following.now_s) for i in range(len(stages))]
    return [(stage.kind, begun[i], max(ends[i], begun[i])) for i, stage in enumerate(stages) if i in begun]
