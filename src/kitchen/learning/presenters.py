"""A proposal for its page: a sentence, the change, and its cooks as dots."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from ember.quantities import Units
from kitchen.drawings.before_after import BeforeAfter, before_after
from kitchen.kit.calibration import amount
from kitchen.kit.models import Taught

from .models import Study


@dataclass(frozen=True)
class Shown:
    """A row of the page; `counts`: the accepted value of the same equipment, `is_taken`: whether it is this one."""

    row: dict[str, Any]
    says: str
    interval: str
    drawing: BeforeAfter
    counts: Taught | None
    is_taken: bool

    @property
    def may_be_taken(self) -> bool:
        """Whether a chef may accept it."""
        return not self.row["why_not"] and not self.is_taken


def sentence(proposal: dict[str, Any], units: Units) -> str:
    """The finding in a cook's words."""
    value_text = amount(proposal["kind"], proposal["value"], units)
    match proposal["kind"]:
        case "pan":
            return f"{proposal['name']} passes {value_text} than a usual pan"
        case "door":
            return f"{proposal['name']} comes back {value_text} after its door"
        case "cut":
            return f"{proposal['name']} comes {value_text} for its mass than written down"
        case _:
            return f"{proposal['name']} runs {value_text}"


def shown(study: Study, current: Iterable[Taught], units: Units) -> list[Shown]:
    """The rows of a study."""
    counts = {
        (taught.kind, str(taught.equipment_id) if taught.equipment_id else taught.cut): taught for taught in current
    }
    proposals = []
    for taught in study.found or []:
        mine = counts.get((taught["kind"], taught["key"]))
        is_taken = mine is not None and abs(mine.value - taught["value"]) < 1e-9
        between = " to ".join(amount(taught["kind"], taught[key], units) for key in ("low", "high"))
        degree = 1.0 if taught["kind"] == "door" else units.temperature_step(1.0)
        errors = [(name, before * degree, after * degree) for name, before, after in taught["errors"]]
        proposals.append(Shown(taught, sentence(taught, units), between, before_after(errors), mine, is_taken))
    return proposals
