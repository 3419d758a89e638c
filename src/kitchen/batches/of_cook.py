"""A finished cook as the chill desk's beginning: its piece, and the middle it left the heat with."""

from __future__ import annotations

from typing import Any

from ember.files.plan import parse_plan
from ember.food.catalogue import cut
from ember.food.geometry import body_size
from ember.heat.problem import density_of
from ember.quantities import Units
from kitchen.line.models import Cook, CookEvent
from kitchen.line.queries import readings_of

from .forms import ChillForm

SHAPES = ("slab", "cylinder", "sphere")  # by the exponent of the body, rounded


def _last_c(cook: Cook) -> float:
    """The last that was read of its middle, typed or by probe; else what was planned at its end, °C."""
    reading = readings_of(cook).last()
    checked = cook.events.filter(kind=CookEvent.Kind.CHECKED, data__core_c__isnull=False).order_by("at").last()
    if reading is not None and (checked is None or reading.at >= checked.at):
        return float(reading.celsius)
    if checked is not None:
        return float(checked.data["core_c"])
    return float(cook.result["core"]["end_c"])


def chill_of(cook: Cook, units: Units) -> dict[str, Any]:
    """What the desk's fields show for what is left of a cook of a plan."""
    plan = parse_plan(cook.document)
    piece, row = plan.piece, cut(plan.piece.cut)
    size = body_size(piece, row, density_of(plan))
    document: dict[str, Any] = {
        "piece": {"cut": piece.cut, "start_c": round(min(max(_last_c(cook), 20.0), 95.0), 1), "count": piece.count},
    }  # fmt: skip
    if piece.mass_g is not None:
        document["piece"]["mass_g"] = piece.mass_g * float(cook.result.get("yield_pct", 100.0)) / 100.0
    found = ChillForm(None, units).data | ChillForm.data_of(document, units)
    shown_size = ChillForm(None, units).fields["size"].prepare_value(round(size.size_mm, 1))
    found |= {"shape": SHAPES[round(min(max(size.exponent, 0.0), 2.0))], "size": shown_size}
    portions = piece.count * int(piece.portions or 1)
    bagged = any(getattr(stage, "bagged", False) for stage in plan.stages)
    return found | {
        "name": cook.name[:70], "portions": portions, "bagged": "on" if bagged else "", "cook": str(cook.pk),
        "packed": "cook-chill" if bagged else "open",
    }  # fmt: skip
