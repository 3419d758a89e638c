"""The grill: hot gas and glow from below, bars, the air above, a lid, and the side away from the fire."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..files.stages import Grill
from .faces import Segment, Setting, air, both, exposures, media
from .grid import FloatArray
from .terms import CONTACT_C, EMISSIVITY, H_CONTACT, H_DRY, HC, KELVIN, MEDIUM_C, RADIANT_C, SKIN, H


def over_fire_c(source_c: float) -> float:
    """Temperature of the gas that rises from a fire, °C, which its bars take on."""
    return _raised(source_c, "of_source")


def _raised(source_c: float, share: str) -> float:
    medium = media()["grill"]
    return float(medium["room_c"] + medium[share] * (source_c - medium["room_c"]))


def air_above_c(stage: Grill) -> float:
    """Temperature of the air over the piece, °C, beside the fire that all around it."""
    medium = media()["grill"]
    if stage.fire == "above":
        return float(medium["broil_air_c"])
    if stage.zone == "indirect":
        return _raised(stage.source_c, "of_source_aside") if stage.lid == "closed" else medium["aside_open_c"]
    return over_fire_c(stage.source_c) if stage.lid == "closed" else medium["open_air_c"]


def _down(stage: Grill) -> FloatArray:
    """The face over the fire."""
    medium = media()["grill"]
    if stage.fire == "above":  # a glowing element over it, and the oven's air between
        face = air(medium["broil_air_c"], {**medium, "hc": medium["hc_broil"]})
        face[RADIANT_C], face[EMISSIVITY] = stage.source_c, medium["emissivity"] * medium["broil_view"]
        return face
    gas_c = over_fire_c(stage.source_c)
    face = air(gas_c, medium)
    face[RADIANT_C], face[EMISSIVITY] = stage.source_c, medium["emissivity"] * medium["view"]
    if stage.bars:
        face[CONTACT_C], face[H_CONTACT], face[H_DRY] = gas_c, medium["bars_h"], medium["bars_h"]
    return face


def _up(stage: Grill, setting: Setting) -> FloatArray:
    medium = media()["grill"]
    face = air(air_above_c(stage), medium)
    face[H] = face[HC] = medium["hc_aside" if stage.zone == "indirect" else "hc_above"]
    if setting.skin_on_top:
        face[SKIN] *= media()["oven"]["under_skin"]
    return face


def _turned(down: FloatArray, up: FloatArray) -> FloatArray:
    """The outside of a round piece, turned over the fire: a share of it sees the fire at a time."""
    share = media()["pan-round"]["contact_share"]
    face = np.asarray(share * down + (1.0 - share) * up)
    face[MEDIUM_C] = (share * down[H] * down[MEDIUM_C] + (1.0 - share) * up[H] * up[MEDIUM_C]) / face[H]
    glow = share * down[EMISSIVITY] * _fourth(down[RADIANT_C]) + (1.0 - share) * up[EMISSIVITY] * _fourth(up[RADIANT_C])
    face[RADIANT_C] = (glow / face[EMISSIVITY]) ** 0.25 - KELVIN
    face[CONTACT_C] = down[CONTACT_C]
    return face


def _fourth(celsius: float) -> float:
    return (celsius + KELVIN) ** 4


def grill_segments(stage: Grill, setting: Setting) -> Iterator[Segment]:
    """The conditions of a grill stage: side by side over the fire, or all around beside it or on a spit."""
    up = _up(stage, setting)
    for under, seconds in exposures(stage):
        if stage.zone == "indirect":
            yield Segment(both(up), seconds)
            continue
        down = _down(stage)
        if not setting.two_faces:
            yield Segment(both(_turned(down, up)), seconds)
        elif stage.bars or stage.fire == "above":
            yield Segment(np.stack([down, up] if under else [up, down]), seconds)
        else:
            yield Segment(both(_turned(down, up)), seconds)
