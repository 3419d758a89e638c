"""A proposal as its page shows it: a sentence, what changes, and its cooks as dots."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ember.quantities import Units
from kitchen.drawings.before_after import BeforeAfter, before_after
from kitchen.kit.models import Taught
from kitchen.kit.taught import amount

from .models import Study


@dataclass(frozen=True)
class Shown:
    """A row of the page; `counts` is what was taken over of the same thing, `is_taken` whether it is this."""

    row: dict[str, Any]
    says: str
    interval: str
    drawing: BeforeAfter
    counts: Taught | None
    is_taken: bool

    @property
    def may_be_taken(self) -> bool:
        """Whether a chef may take it over."""
        return not self.row["why_not"] and not self.is_taken


def sentence(row: dict[str, Any], units: Units) -> str:
    """What was found, as a cook says it."""
    told = amount(row["kind"], row["value"], units)
    match row["kind"]:
        case "pan":
            return f"{row['name']} passes {told} than a usual pan"
        case "door":
            return f"{row['name']} comes back {told} after its door"
        case "cut":
            return f"{row['name']} comes {told} for its mass than written down"
        case _:
            return f"{row['name']} runs {told}"


def shown(study: Study, current: Iterable[Taught], units: Units) -> list[Shown]:
    """The rows of a study."""
    counts = {(row.kind, str(row.equipment_id) if row.equipment_id else row.cut): row for row in current}
    found = []
    for row in study.found or []:
        mine = counts.get((row["kind"], row["key"]))
        is_taken = mine is not None and abs(mine.value - row["value"]) < 1e-9
        between = " to ".join(amount(row["kind"], row[key], units) for key in ("low", "high"))
        degree = 1.0 if row["kind"] == "door" else units.temperature_step(1.0)
        errors = [(name, before * degree, after * degree) for name, before, after in row["errors"]]
        found.append(Shown(row, sentence(row, units), between, before_after(errors), mine, is_taken))
    return found
