"""The pan as a body: its mass and burner, cover by food, basting, the rim, a cold start.

M c dT/dt = P - loss - heat to the food (per square metre of the food's face): cold food cools it, many pieces more. A
burner without a power holds `pan_c` as well as a good burner can.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..files.stages import Pan, Vessel
from .faces import Segment, Setting, air, both, contact, exposures, media, sides_of
from .grid import FloatArray
from .terms import HC, MEDIUM_C, WETNESS, Around, H

HOTTER_THAN_ANY_C = 1000.0


def floor_area_m2(vessel: Vessel | None) -> float:
    """Area of the pan's floor, m²."""
    diameter_mm = vessel.diameter_mm if vessel else media()["vessel"]["diameter_mm"]
    return math.pi / 4 * (diameter_mm * 1e-3) ** 2


def footprint_m2(setting: Setting) -> float:
    """Floor area covered by one piece, m²: for a slab its face, for a round piece a share of its outside."""
    share = 1.0 if setting.two_faces else media()["pan-round"]["contact_share"]
    return share * setting.face_area_m2


def pieces_in_pan(stage: Pan, setting: Setting) -> int:
    """All pieces in a pan that was described; else as many as a common pan holds without crowding, at least one."""
    if stage.pan is not None:
        return setting.count
    fits = int(media()["vessel"]["covered_at_most"] * floor_area_m2(None) / footprint_m2(setting))
    return max(min(fits, setting.count), 1)


def covered_share(stage: Pan, setting: Setting) -> float:
    """Share of the floor under food."""
    return pieces_in_pan(stage, setting) * footprint_m2(setting) / floor_area_m2(stage.pan)


def body_of(stage: Pan, setting: Setting, flame: bool) -> Around:
    """The pan for one square metre of the food's face."""
    vessel = media()["vessel"]
    food_m2 = pieces_in_pan(stage, setting) * setting.face_area_m2
    mass_kg = stage.pan.mass_kg if stage.pan else vessel["mass_kg"]
    heat = vessel["heat_j_kgk"][stage.pan.material if stage.pan else "steel"]
    # A piece larger than a common pan lies in one of its own size.
    scale = max(1.0, footprint_m2(setting) / floor_area_m2(None)) if stage.pan is None else 1.0
    power = stage.power_w if stage.power_w is not None else vessel["power_w"] * scale
    return Around(
        heat_j_m2k=mass_kg * heat * scale / food_m2,
        loss_w_m2k=vessel["loss_w_m2k"] * floor_area_m2(stage.pan) * scale / food_m2,
        ambient_c=vessel["air_c"],
        set_c=stage.pan_c if stage.pan_c is not None else HOTTER_THAN_ANY_C,
        power_w_m2=power / food_m2 if flame else 0.0,
    )


def _down(stage: Pan, under: bool, setting: Setting) -> FloatArray:
    medium = media()["pan"]
    h = medium["h"] if stage.fat else medium["h_no_fat"]
    if setting.skin_on_top and not (setting.two_faces and under):
        h = min(h, medium["h_skin"])
    h *= stage.pan.contact if stage.pan else 1.0
    return contact(stage.starts_at_c, h, min(h, medium["h_dry"]), from_around=True, juice=medium["juice"])


def _up(stage: Pan, basting: bool) -> FloatArray:
    medium = media()["pan"]
    covered = stage.cover == "lid"
    face = air(medium["covered_air_c"] if covered else medium["upper_air_c"], medium)
    if covered:
        face[WETNESS] = 0.0
    if basting and stage.baste is not None:
        # The film of fat a spoon leaves gives its heat and is replaced by the next one.
        h = min(medium["baste_h"], medium["spoonful_j_m2k"] / stage.baste.every_s)
        face[H] += h
        fat_c = min(stage.pan_c or stage.starts_at_c, medium["baste_most_c"])
        face[MEDIUM_C] = (face[HC] * face[MEDIUM_C] + h * fat_c) / face[H]
    return face


def _cut_at_basting(stage: Pan) -> Iterator[tuple[bool, float | None, bool]]:
    """(underside down, s, basting): exposures split where basting begins."""
    from_s = stage.baste.from_s if stage.baste else math.inf
    at = 0.0
    for under, seconds in exposures(stage):
        if at >= from_s:
            yield under, seconds, True
        elif seconds is None or at + seconds > from_s:
            if math.isinf(from_s):
                yield under, seconds, False
            else:
                yield under, from_s - at, False
                yield under, None if seconds is None else at + seconds - from_s, True
        else:
            yield under, seconds, False
        at += seconds or 0.0


def pan_segments(stage: Pan, setting: Setting) -> Iterator[Segment]:
    """The conditions of a pan stage: every exposure, basted or not, then the rim."""
    start: float | None = stage.starts_at_c
    for under, seconds, basting in _cut_at_basting(stage):
        flame = not (basting and stage.baste is not None and stage.baste.flame == "off")
        faces = sides_of(under, _down(stage, under, setting), _up(stage, basting), setting.two_faces)
        yield Segment(faces, seconds, body_of(stage, setting, flame), start)
        start = None
    if stage.rim_s and stage.exposures is not None:
        # Only the rim touches: the faces stand in the air over the pan.
        yield Segment(both(_up(stage, False)), stage.rim_s, body_of(stage, setting, True), start)
