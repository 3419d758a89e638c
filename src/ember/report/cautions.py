"""Cautions beyond microbes, each at the stage where the risk is."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any

from ..files.plan import Plan
from ..files.result import CautionOut
from ..files.stages import Brine, Oven
from ..food.catalogue import Cut


@cache
def _texts() -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath("data/cautions.toml").read_text("utf-8"))


def cautions_of(plan: Plan, row: Cut) -> list[CautionOut]:
    """What can hurt the cook, or spoil the piece, stage by stage; those of the piece come first and have no stage."""
    texts = _texts()
    piece = texts["piece"]
    found = [CautionOut(stage=None, text=text) for text in row.cautions]
    treated = plan.piece.treated or row.treated
    if treated and any(isinstance(stage, Brine) for stage in plan.stages):
        found.append(CautionOut(stage=None, text=piece["treated"]))
    if plan.piece.stuffed:
        found.append(CautionOut(stage=None, text=piece["stuffed"]))
    if any(step.kind == "tie" for step in plan.prep):
        found.append(CautionOut(stage=None, text=piece["tie"]))
    for i, stage in enumerate(plan.stages):
        said = list(texts["stages"].get(stage.kind, []))
        if isinstance(stage, Oven):
            keys = [stage.where, stage.cover, "door" if stage.door_every_min is not None else ""]
            said += [texts["oven"][key] for key in keys if key in texts["oven"]]
        found += [CautionOut(stage=i, text=text) for text in said]
    return list({(c.stage, c.text): c for c in found}.values())
