"""Loads that are more than a bath, fryer, pot or oven bears at once: how many go in, and how far apart."""

from __future__ import annotations

import copy
import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..files.plan import Plan
from ..files.result import Result, StageOut
from ..files.stages import CAN_BE_LOADED, Bath, Load, Oven, Stage
from ..heat.load import comes_back_min
from ..heat.media import medium_c

BESIDE = (Bath, Oven)  # a later batch goes in beside the one before; a fryer or a pot is emptied first


@dataclass(frozen=True)
class Batches:
    """`count` batches of at most `size` pieces, each `apart_min` after the one before."""

    count: int
    size: int
    apart_min: float

    @property
    def longer_min(self) -> float:
        """How much later the last batch is done than the first."""
        return (self.count - 1) * self.apart_min

    def __str__(self) -> str:
        return f"{self.count} batches of {self.size}, {self.apart_min:.0f} min apart"


def _load_of(stage: Stage) -> Load | None:
    return stage.load if isinstance(stage, CAN_BE_LOADED) else None


def split_loads(document: Mapping[str, Any], result: Result) -> dict[str, Any] | None:
    """A plan's document with as many pieces at once as its baths, fryers, pots and ovens bear by its result; None
    where all may go in.
    """
    fewer = {i: run.at_once for i, run in enumerate(result.stages) if run.at_once is not None}
    if not fewer:
        return None
    stages = copy.deepcopy(document["stages"])
    for i, pieces in fewer.items():
        stages[i]["load"]["pieces"] = max(pieces, 1)
    return {**document, "stages": stages}


def batches_of(plan: Plan, i: int, run: StageOut) -> Batches | None:
    """The batches in which a stage's pieces go in, if fewer go in at once than the plan has."""
    stage = plan.stages[i]
    load, pieces = _load_of(stage), plan.piece.count
    if load is None or load.pieces is None or load.pieces >= pieces:
        return None
    minutes = (run.end_s - run.start_s) / 60.0
    back_min = minutes if run.medium_back_s is None else run.medium_back_s / 60.0
    if run.medium_back_s is None and run.medium_low_c is not None:
        back_min += comes_back_min(stage, run.medium_low_c, medium_c(stage)) or 0.0
    apart = back_min if isinstance(stage, BESIDE) else max(back_min, minutes)
    return Batches(math.ceil(pieces / load.pieces), load.pieces, math.ceil(apart))
