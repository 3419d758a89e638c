"""Cautions besides microbes, each at the stage of the risk."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
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


def cautions_of(plan: Plan, cut_entry: Cut) -> list[CautionOut]:
    """What can hurt the cook or spoil the piece, stage by stage; those of the piece come first and have no stage."""
    texts = _texts()
    cautions = [CautionOut(stage=None, text=text) for text in _of_piece(plan, cut_entry, texts["piece"])]
    for i, stage in enumerate(plan.stages):
        texts_of_stage = list(texts["stages"].get(stage.kind, []))
        if isinstance(stage, Oven):
            keys = [stage.where, stage.cover, "door" if stage.door_every_min is not None else ""]
            texts_of_stage += [texts["oven"][key] for key in keys if key in texts["oven"]]
        cautions += [CautionOut(stage=i, text=text) for text in texts_of_stage]
    return list({(c.stage, c.text): c for c in cautions}.values())


def _of_piece(plan: Plan, cut_entry: Cut, texts: Mapping[str, str]) -> Iterator[str]:
    yield from cut_entry.cautions
    treated = plan.piece.treated or cut_entry.treated
    if treated and any(isinstance(stage, Brine) for stage in plan.stages):
        yield texts["treated"]
    if plan.piece.stuffed:
        yield texts["stuffed"]
    done = {step.kind for step in plan.prep}
    yield from (texts[kind] for kind in ("tie", "skewer", "shield") if kind in done)
