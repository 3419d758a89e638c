"""Baths, fryers and pots as bodies of their own, which a load of cold food cools and a heater brings back."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from ..files.stages import CAN_BE_LOADED, Bath, Boil, Fry, Load, Oven, Poach, Simmer, Stage
from .faces import Segment, Setting, media
from .terms import CONTACT, CONTACT_C, FILM, FROM_AROUND, H_CONTACT, MEDIUM_C, Around

LiquidStage = Bath | Fry | Simmer | Poach | Boil
KINDS: dict[type[LiquidStage], str] = {Bath: "bath", Fry: "fry", Simmer: "pot", Poach: "pot", Boil: "pot"}


def preheat_min(stage: Stage, set_c: float) -> float | None:
    """Minutes that the stage's oven, bath, fryer or pot takes from the kitchen's temperature to `set_c`; None for other
    stages, and where its heater never gets it there.
    """
    return _heats_min(stage, media()["vessel"]["air_c"], set_c)


def comes_back_min(stage: Stage, from_c: float, set_c: float) -> float | None:
    """Minutes that the stage's oven, bath, fryer or pot takes from `from_c` back to its setting with nothing in it;
    None for other stages, and where its heater never gets it there.
    """
    return _heats_min(stage, from_c, set_c)


def at_once(stage: Stage, pieces: int, fell_k: float) -> int | None:
    """How many of `pieces` go in at once so that what holds them falls no further than it bears, where all of them
    cool it by `fell_k`; None if all may.
    """
    bears = media()["load"]["bears_k"].get(stage.kind, media()["load"]["bears_k"]["pot"])
    return None if fell_k <= bears else int(pieces * bears / fell_k)


def _heats_min(stage: Stage, from_c: float, set_c: float) -> float | None:
    if not isinstance(stage, CAN_BE_LOADED):
        return None
    air_c, load = media()["vessel"]["air_c"], stage.load or Load()
    if isinstance(stage, Oven):
        oven, (larger, power) = media()["oven"], oven_size(stage)
        heat, loss = larger * oven["preheat_j_k"], larger * oven["loss_w_k"]
    else:
        row = media()["load"][KINDS[type(stage)]]
        litres = load.litres or row["litres"]
        heat, loss = row["j_l"] * litres, row["loss_w_k"] * (litres / row["litres"]) ** (2.0 / 3.0)
        power = row["power_w"] if load.power_w is None else load.power_w
    lost_before, lost = loss * (from_c - air_c), loss * (set_c - air_c)
    if set_c <= from_c:
        return 0.0
    return None if power <= lost else heat / loss * math.log((power - lost_before) / (power - lost)) / 60.0


def oven_size(stage: Oven) -> tuple[float, float]:
    """How much more of walls an oven has than a common one, and its power, W."""
    load, row = stage.load or Load(), media()["load"]["oven"]
    larger = ((load.litres or row["litres"]) / row["litres"]) ** (2.0 / 3.0)
    return float(larger), float(row["power_w"] if load.power_w is None else load.power_w)


def loaded(segment: Segment, stage: LiquidStage, setting: Setting) -> Segment:
    """The segment with its liquid as a body, if the stage has a load; it begins at its setting."""
    if stage.load is None:
        return segment
    row, load = media()["load"][KINDS[type(stage)]], stage.load
    litres = load.litres or row["litres"]
    face = segment.faces[1]
    by_contact = face[H_CONTACT] > 0.0
    set_c = float(face[CONTACT_C] if by_contact else face[MEDIUM_C])
    faces = segment.faces.copy()
    faces[:, FROM_AROUND] = CONTACT if by_contact else FILM
    food_m2 = (load.pieces or setting.count) * setting.face_area_m2
    body = Around(
        heat_j_m2k=row["j_l"] * litres / food_m2,
        loss_w_m2k=row["loss_w_k"] * (litres / row["litres"]) ** (2.0 / 3.0) / food_m2,
        ambient_c=media()["vessel"]["air_c"],
        set_c=set_c,
        power_w_m2=(row["power_w"] if load.power_w is None else load.power_w) / food_m2,
    )
    return replace(segment, faces=np.asarray(faces), around=body, around_start_c=set_c)
