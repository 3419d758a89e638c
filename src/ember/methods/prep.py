"""Preparation steps: names, reasons, and positions."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..files.stages import COLOURING
from ..food.catalogue import Cut
from .library import Body, body_of


class PrepKind(BaseModel):
    """One kind of step; `before`: the position of a new one."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    why: str
    minutes: float
    before: Literal["first", "colour", "last"]
    tissue: tuple[str, ...] = ()
    bodies: tuple[Body, ...] = ()


@cache
def prep_kinds() -> dict[str, PrepKind]:
    """Every kind of step by its id."""
    text = resources.files(__package__).joinpath("data/prep.toml").read_text("utf-8")
    return {key: PrepKind(id=key, **values) for key, values in tomllib.loads(text).items()}


def thought_of(cut_entry: Cut) -> list[PrepKind]:
    """Likely steps for this cut."""
    return [
        kind
        for kind in prep_kinds().values()
        if (not kind.tissue or set(kind.tissue) & set(cut_entry.tissue))
        and (not kind.bodies or body_of(cut_entry) in kind.bodies)
        and (kind.id != "snip" or cut_entry.curls == "rim")
    ]


def place_for(kind: PrepKind, stages: Sequence[str]) -> int:
    """The stage a new step precedes, by the kinds of the plan's stages; their number: after them all."""
    match kind.before:
        case "first":
            return 0
        case "last":
            return len(stages)
        case _:
            colouring = [i for i, stage in enumerate(stages) if stage in COLOURING]
            return colouring[0] if colouring else 0
