"""The equipment of each stage, in one table, and the offset of equipment from its setting."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..files.stages import Chill, Stage

# The kind of equipment a stage stands on; none for a worktop, ice in a sink, a torch.
STANDS_ON = {
    "bath": "bath", "oven": "oven", "pan": "hob", "plancha": "plancha", "grill": "grill", "fry": "fryer",
    "steam": "hob", "simmer": "hob", "poach": "hob", "boil": "hob", "rest": "shelf", "hold": "cupboard",
    "chill": "fridge", "brine": "fridge", "pressure": "hob", "thaw": "fridge",
}  # fmt: skip
REHEATED_ON = {"bath": "bath", "oven": "oven", "sauce": "hob", "steam": "hob", "pan": "hob"}
HAS_SETTING = ("oven", "bath", "cupboard", "plancha", "fryer")
SHARED = ("bath", "oven", "fryer", "cupboard", "plancha")  # what comes later goes beside what is there at its setting
A_PLACE_EACH = ("bath",)  # pieces take a place each; of other equipment all of them take one
TOLERANCE_K = {"bath": 0.3}  # how far apart two settings may be that share one of them
USUAL_TOLERANCE_K = 2.0


def stands_on(stage: Stage) -> str:
    """The kind of equipment for a stage; empty if it needs none."""
    if stage.kind == "reheat":
        return REHEATED_ON[getattr(stage, "where", "bath")]
    if isinstance(stage, Chill) and stage.blast:
        return "chiller"
    return STANDS_ON.get(stage.kind, "")


def held_in(stage: Stage) -> str:
    """The kind of place a cook would name: the pan on the ring, else the equipment."""
    in_a_pan = stage.kind == "pan" or (stage.kind == "reheat" and getattr(stage, "where", "") == "pan")
    return "pan" if in_a_pan else stands_on(stage)


def tolerance_k(kind: str) -> float:
    """How far apart two settings may be to share one piece of equipment of a kind, K."""
    return TOLERANCE_K.get(kind, USUAL_TOLERANCE_K)


def off_at(checks_k: Mapping[float, float], setting_c: float) -> float:
    """How much hotter it is than its setting, K: from {setting °C: K} linear between checked settings, constant
    outside.

    0 without a check.

    >>> off_at({110.0: -3.0, 190.0: -9.0}, 150.0)
    -6.0
    """
    if not checks_k:
        return 0.0
    settings = sorted(checks_k)
    return float(np.interp(setting_c, settings, [checks_k[c] for c in settings]))
