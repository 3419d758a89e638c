"""The oven: air, humidity, covers, what the piece lies in, and the door.

If the door is opened the oven's air with its inner walls is a body of its own (terms.Around), heated by its power and
cooled by the open door and the load, so that a full oven recovers more slowly. Radiation continues: the outer walls
hold their heat.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..files.stages import Oven
from .covers import radiated_h, under_cover
from .faces import Segment, Setting, air, both, contact, film, media, sides_of, vapour_pressure_pa
from .grid import FloatArray
from .load import oven_size
from .numerics import bracketed_root
from .pan import floor_area_m2
from .terms import (
    CONTACT_C,
    EMISSIVITY,
    FILM,
    FROM_AROUND,
    H_CONTACT,
    H_DRY,
    HC,
    MEDIUM_C,
    NOTHING_AROUND,
    RADIANT_C,
    SKIN,
    VAPOUR_PA,
    WETNESS,
    Around,
    H,
)

BOILING_PA = 101_325.0
SIMMERING_C = 98.0
USUAL_SIZE_M = 0.09
WALLS_STAND_IN_C = 25.0


def vapour_pa(stage: Oven) -> float:
    """Partial pressure of water vapour in the oven's air, Pa: by its humidity if set, else typical of such ovens."""
    medium = media()[f"oven-{stage.mode}"]
    if stage.humid_share is not None:
        return stage.humid_share * _most_vapour_pa(stage)
    usual = media()["oven"]["water_tray_pa"] if stage.water_tray else medium["vapour_pa"]
    return min(float(usual), _most_vapour_pa(stage))


def _most_vapour_pa(stage: Oven) -> float:
    """Most vapour the oven's air can hold, Pa; above boiling nearly all steam."""
    return min(vapour_pressure_pa(min(stage.air_c + stage.offset_k, 100.0), 1.0), BOILING_PA * 0.95)


def uncovered(stage: Oven, size_m: float = USUAL_SIZE_M, under_skin: bool = False) -> FloatArray:
    """A bare face of a piece in the oven's air; `under_skin`: intact skin or a fat cap covers it."""
    face = oven_air(stage.air_c + stage.offset_k, stage.mode, size_m, under_skin)
    face[VAPOUR_PA] = vapour_pa(stage)
    return face


def oven_air(air_c: float, mode: str, size_m: float = USUAL_SIZE_M, under_skin: bool = False) -> FloatArray:
    """A face in the air of such an oven. In still air its film is free convection's: Churchill & Chu's exponents
    (Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, 9.6.1, from memory), about the fitted row.
    """
    medium, oven = media()[f"oven-{mode}"], media()["oven"]
    face = air(air_c, medium)
    if medium.get("free"):
        over = max(air_c - oven["film_from_c"], oven["film_least_k"]) / oven["film_rise_k"]
        small = oven["film_size_mm"] / max(1e3 * size_m, oven["film_least_mm"])
        face[H] = face[HC] = medium["hc"] * (over * small) ** 0.25
    face[RADIANT_C] -= medium.get("walls", 0.0) * max(air_c - WALLS_STAND_IN_C, 0.0)
    if under_skin:
        face[SKIN] *= oven["under_skin"]
    return face


def _faces(stage: Oven, setting: Setting) -> FloatArray:
    bare = uncovered(stage, setting.thick_m)
    up = under_cover(stage, uncovered(stage, setting.thick_m, setting.skin_on_top), _most_vapour_pa(stage))
    if stage.where == "rack":
        return np.stack([under_cover(stage, bare, _most_vapour_pa(stage)), up]) if setting.two_faces else both(up)
    medium = media()["oven"]
    if stage.where == "pan":
        down = contact(stage.air_c, medium["pan_h"], medium["pan_h"], from_around=True)
        return sides_of(True, down, up, setting.two_faces)
    if stage.where == "water_bath":
        return _in_water_bath(stage, up, setting)
    down = _on_tray(bare)
    if setting.two_faces:
        return sides_of(True, down, up, True)
    return both(_partly(up, down))


def _on_tray(bare: FloatArray) -> FloatArray:
    """The under side on a thin tray, which takes heat from the oven's air below and by its bare rim."""
    medium = media()["oven"]
    below = bare[H] + radiated_h(bare[EMISSIVITY], bare[MEDIUM_C])
    return film(bare[MEDIUM_C], 1.0 / (1.0 / (medium["tray_fin"] * below) + 1.0 / medium["tray_h"]))


def _partly(free: FloatArray, film_below: FloatArray) -> FloatArray:
    """The outside of a round piece, a share of which lies on a tray."""
    share, face = media()["pan-round"]["contact_share"], free.copy()
    for column in (H, HC, EMISSIVITY):
        face[column] *= 1.0 - share
    face[H] += share * film_below[H]
    return face


def water_bath_c(stage: Oven) -> float:
    """Steady temperature of the water around a dish, °C: heat gained from the oven leaves as vapour."""
    # The compiler loads with the first simulation, not with the first import.
    from .surface import face_flux

    open_water = uncovered(stage)
    open_water[WETNESS], open_water[SKIN] = 1.0, 0.0
    dry = open_water.copy()
    dry[WETNESS] = 0.0
    gain = media()["oven"]["bath_gain"]
    if stage.cover == "lid":
        open_water[VAPOUR_PA] = min(media()["oven"]["lid_vapour_pa"], _most_vapour_pa(stage))

    def excess(water_c: float) -> float:
        warmed = gain * face_flux(dry, water_c, 0.0, 0.0)[0]
        return float(face_flux(open_water, water_c, 1.0, 0.0)[0]) + float(warmed)

    hottest = min(stage.air_c + stage.offset_k, SIMMERING_C)
    if excess(hottest) > 0:
        return hottest
    if excess(0.0) < 0:
        return 0.0
    return bracketed_root(excess, 0.0, hottest, 1.0, 0.01)


def _in_water_bath(stage: Oven, up: FloatArray, setting: Setting) -> FloatArray:
    medium = media()["oven"]
    water = contact(water_bath_c(stage), medium["bath_h"], medium["bath_h"])
    if setting.two_faces:
        return np.stack([water, up])
    face = up.copy()
    for column in (H, HC, EMISSIVITY):
        face[column] *= 1.0 - medium["bath_share"]
    face[CONTACT_C] = water[CONTACT_C]
    face[H_CONTACT] = face[H_DRY] = medium["bath_share"] * medium["bath_h"]
    return both(face)


def _oven_body(stage: Oven, setting: Setting, door_open: bool) -> Around:
    medium = media()["oven"]
    larger, power = oven_size(stage)
    pieces = stage.load.pieces if stage.load is not None else None
    food_m2 = (pieces or setting.count) * setting.face_area_m2
    set_c = stage.air_c + stage.offset_k
    if stage.back_k_min is not None:
        power = stage.back_k_min / 60.0 * medium["heat_j_k"] + medium["loss_w_k"] * (set_c - medium["room_c"])
    return Around(
        heat_j_m2k=larger * medium["heat_j_k"] / food_m2,
        loss_w_m2k=larger * (medium["loss_w_k"] + (medium["door_loss_w_k"] if door_open else 0.0)) / food_m2,
        ambient_c=medium["room_c"],
        set_c=set_c,
        power_w_m2=power / food_m2,
    )


def _hot_pan(stage: Oven, setting: Setting) -> Around:
    """A common pan that came in with the piece, exchanging heat with the oven's air on both of its sides."""
    vessel = media()["vessel"]
    heat = vessel["mass_kg"] * vessel["heat_j_kgk"]["steel"]
    food_m2 = setting.count * setting.face_area_m2
    loss = vessel["loss_w_m2k"] * floor_area_m2(None)
    return Around(heat / food_m2, loss / food_m2, stage.air_c + stage.offset_k, 0.0, 0.0)


def oven_segments(stage: Oven, setting: Setting) -> Iterator[Segment]:
    """The conditions of an oven stage: one stretch, or door after door until it ends."""
    faces = _faces(stage, setting)
    if stage.where == "pan":
        yield Segment(faces, None, _hot_pan(stage, setting), None)
        return
    every = stage.door_every_min
    if every is None:
        if stage.load is not None:
            yield with_door(stage, setting, False, None, stage.air_c + stage.offset_k)
        else:
            yield Segment(faces, None, NOTHING_AROUND)
        return
    medium = media()["oven"]
    door_s = medium["baste_s"] if stage.baste_every_min is not None else medium["door_s"]
    start: float | None = stage.air_c + stage.offset_k
    while True:
        yield with_door(stage, setting, False, max(60.0 * every - door_s, 1.0), start)
        yield with_door(stage, setting, True, door_s, None)
        start = None


def with_door(
    stage: Oven, setting: Setting, is_open: bool, seconds: float | None = None, start_c: float | None = None
) -> Segment:
    """The oven while its door is open, or while it recovers; its air starts at `start_c`."""
    faces = _faces(stage, setting)
    for face in faces:
        face[FROM_AROUND] = FILM
    return Segment(faces, seconds, _oven_body(stage, setting, is_open), start_c)
