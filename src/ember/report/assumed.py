"""What a verdict rests on that nobody measured: how wide a flat piece is, how long a roll."""

from __future__ import annotations

import math

from ..errors import EmberError
from ..files.piece import Cylinder, General, Piece, Slab
from ..files.plan import Plan
from ..files.result import WarningOut
from ..food.catalogue import Cut
from ..food.geometry import footprint_mm
from ..heat.problem import density_of, rim_of
from ..heat.simulate import simulate_roughly
from ..judge.standards import Standard
from ..solve.pull import timed
from .outcome import Outcome, outcome_of


def widest(piece: Piece, cut_entry: Cut, density_kg_m3: float) -> Piece | None:
    """The piece as wide as what was measured leaves open: as wide as long at its mass, endless without one. None if
    there is nothing open.
    """
    if piece.width_mm is not None or piece.length_mm is not None or piece.outline is not None:
        return None
    match piece.shape:
        case Slab(thickness_mm=thick) if piece.mass_g is None:
            return piece.model_copy(update={"shape": General(thickness_mm=thick, exponent=0.0)})
        case Slab():
            wide, long = footprint_mm(piece, cut_entry, density_kg_m3)
            side = math.sqrt(wide * long)
            return piece.model_copy(update={"width_mm": side, "length_mm": side})
        case Cylinder(diameter_mm=across, length_mm=None) if piece.mass_g is None:
            return piece.model_copy(update={"shape": General(thickness_mm=across, exponent=1.0)})
    return None


def width_warning(plan: Plan, cut_entry: Cut, rules: Standard, outcome: Outcome) -> list[WarningOut]:
    """A warning if the rule would not be met, at the same times, by a piece that is as wide as it may be."""
    if not outcome.verdict.met or rim_of(plan)[1] <= 0.0:
        return []
    piece = widest(plan.piece, cut_entry, density_of(plan))
    if piece is None:
        return []
    changed = timed(plan, outcome.trajectory).model_copy(update={"piece": piece})
    try:
        other = outcome_of(changed, cut_entry, rules, simulate_roughly(changed))
    except EmberError:
        return []
    if other.verdict.met:
        return []
    size = "length" if isinstance(plan.piece.shape, Cylinder) else "width"
    text = f"The rule is met only as long as its {size} is what is assumed. Measure it, or probe it at the end."
    return [WarningOut(code="size-assumed", text=text)]
