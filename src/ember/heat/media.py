"""Stages as boundary conditions of a piece, and the medium's temperature."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from ..files import stages as st
from .faces import (
    SEA_LEVEL_BOIL_C,
    Segment,
    Setting,
    air,
    both,
    contact,
    exposures,
    film,
    media,
    rolled,
    sides_of,
)
from .fire import grill_segments
from .grid import FloatArray
from .load import loaded
from .oven import oven_air, oven_segments
from .pan import pan_segments
from .rims import with_rim
from .terms import H_CONTACT, H_DRY, WETNESS, Around, H


def _in_water(stage: st.Simmer | st.Poach | st.Boil | st.Steam, setting: Setting) -> Segment:
    medium = media()[stage.kind]
    bagged = stage.bagged if stage.bagged is not None else False
    return Segment(both(film(medium_c(stage), medium["h_bagged" if bagged else "h"])), boil_c=stage.boiling_c)


def _bath(water_c: float, stirred: bool, bagged: bool) -> Segment:
    medium = media()["bath-stirred" if stirred else "bath-still"]
    return Segment(both(film(water_c, medium["h" if bagged else "h_bare"])))


def _dry_if(bagged: bool, face: FloatArray) -> FloatArray:
    if bagged:
        face[WETNESS] = 0.0
    return face


def _rest(stage: st.Rest, setting: Setting) -> Segment:
    free = air(stage.air_c, media()[f"rest-{stage.cover}"])
    if stage.on == "rack":
        return Segment(both(free))
    if stage.on == "hot_plate":
        h = media()["hot-plate"]["h"]
        return Segment(sides_of(True, contact(stage.plate_c, h, h), free, setting.two_faces))
    medium = media()["board"]
    share = 1.0 if setting.two_faces else media()["pan-round"]["contact_share"]
    board = Around(share * medium["heat_j_m2k"], 0.0, stage.air_c, 0.0, 0.0)
    down = contact(stage.air_c, medium["h"], medium["h"], from_around=True)
    return Segment(sides_of(True, down, free, setting.two_faces), around=board, around_start_c=stage.air_c)


def _chill(stage: st.Chill, setting: Setting) -> Segment:
    kind = "blast" if stage.blast else "walk-in" if stage.walk_in else "fridge"
    bagged = stage.bagged if stage.bagged is not None else setting.bagged
    return Segment(both(_dry_if(bagged, air(stage.air_c, media()[f"chill-{kind}"]))))


def _reheat(stage: st.Reheat, setting: Setting) -> Segment:
    defaults = media()["reheat"]
    bagged = stage.bagged if stage.bagged is not None else setting.bagged
    match stage.where:
        case "oven":
            face = oven_air(stage.air_c or defaults["oven_c"], "still", setting.thick_m, setting.skin_on_top)
            return Segment(both(_dry_if(bagged, face)))
        case "bath":
            return _bath(
                stage.water_c if stage.water_c is not None else defaults["bath_c"], True, stage.bagged is not False
            )
        case "steam":
            return Segment(both(film(SEA_LEVEL_BOIL_C, media()["steam"]["h_bagged" if bagged else "h"])))
        case "sauce":
            water_c = stage.water_c if stage.water_c is not None else defaults["sauce_c"]
            return Segment(both(film(water_c, media()["poach"]["h_bagged" if bagged else "h"])))
        case "pan":
            medium = media()["pan"]
            down = contact(stage.pan_c or defaults["pan_c"], medium["h"], medium["h_dry"])
            # Stirred and turned about: each face lies down half of the time.
            down[H_CONTACT], down[H_DRY] = 0.5 * down[H_CONTACT], 0.5 * down[H_DRY]
            return Segment(both(down if setting.two_faces else rolled(down, air(medium["upper_air_c"], medium))))


def _ice(stage: st.IceBath, setting: Setting) -> Segment:
    medium = media()["ice-bath"]
    bagged = stage.bagged if stage.bagged is not None else setting.bagged
    key = ("h_bagged" if bagged else "h") + ("" if stage.stirred else "_still")
    return Segment(both(film(medium["water_c"], medium[key])))


def _hold(stage: st.Hold, setting: Setting) -> Segment:
    bagged = stage.bagged if stage.bagged is not None else setting.bagged
    if stage.water_c is not None:
        return _bath(stage.water_c, True, stage.bagged is not False)
    return Segment(both(_dry_if(bagged, air(stage.air_c or 0.0, media()["hold"]))))


def _on_plate(stage: st.Plancha, setting: Setting) -> Iterator[Segment]:
    medium, up = media()["plancha"], air(media()["pan"]["upper_air_c"], media()["pan"])
    h = medium["h"] if stage.fat else medium["h_no_fat"]
    down = contact(stage.plate_c, h, min(h, medium["h_dry"]), juice=media()["pan"]["juice"])
    for under, seconds in exposures(stage):
        yield Segment(sides_of(under, down, up, setting.two_faces), seconds)


def _temper(stage: st.Temper, setting: Setting) -> Segment:
    return Segment(both(air(stage.air_c, media()["temper"])))


def _water_bath(stage: st.Bath, setting: Setting) -> Segment:
    water = _bath(stage.water_c + stage.offset_k, stage.stirred, stage.bagged)
    if stage.lies == "against" and setting.two_faces:
        water.faces[0, H] = 0.0  # a pair of like pieces: no heat passes between them
    return water


def _fry(stage: st.Fry, setting: Setting) -> Segment:
    medium = media()["fry"]
    behind = media()["coat"]["resistance"].get(stage.coat, 0.0)
    wet, dry = (1.0 / (1.0 / medium[key] + behind) for key in ("h", "h_dry"))
    return Segment(both(contact(stage.oil_c, wet, dry)))


def _torch(stage: st.Torch, setting: Setting) -> Segment:
    flame = film(media()["torch"]["gas_c"], media()["torch"]["h"])
    free = air(media()["vessel"]["air_c"], media()["rest-open"])
    return Segment(np.stack([free, flame]) if setting.two_faces else both(flame))


def _brine(stage: st.Brine, setting: Setting) -> Segment:
    if stage.form == "liquid":
        return _bath(stage.temp_c, False, False)
    return Segment(both(air(stage.temp_c, media()["chill-fridge"])))


def _pressure(stage: st.Pressure, setting: Setting) -> Segment:
    return Segment(both(film(stage.boiling_c, media()["pressure"]["h"])), boil_c=stage.boiling_c)


def _freeze(stage: st.Freeze, setting: Setting) -> Segment:
    return Segment(both(air(stage.air_c, media()["freeze-blast" if stage.blast else "freeze-still"])))


def _thaw(stage: st.Thaw, setting: Setting) -> Segment:
    if stage.where == "water":
        return Segment(both(film(medium_c(stage), media()["thaw"]["water_h"])))
    row = media()["chill-fridge" if stage.where == "fridge" else "temper"]
    return Segment(both(_dry_if(True, air(medium_c(stage), row))))


def _medium(stage: st.Medium, setting: Setting) -> Segment:
    h = stage.h_w_m2k
    under, top = h if isinstance(h, tuple) else (h, h)
    return Segment(np.stack([film(stage.medium_c, under), film(stage.medium_c, top)]))


# Stages with one set of conditions from beginning to end.
CONSTANT: dict[type[st.Stage], Callable[[Any, Setting], Segment]] = {
    st.Temper: _temper, st.Bath: _water_bath, st.Fry: _fry, st.Steam: _in_water, st.Simmer: _in_water,
    st.Poach: _in_water, st.Boil: _in_water, st.Rest: _rest, st.Hold: _hold, st.IceBath: _ice, st.Chill: _chill,
    st.Reheat: _reheat, st.Torch: _torch, st.Brine: _brine, st.Medium: _medium, st.Pressure: _pressure,
    st.Freeze: _freeze, st.Thaw: _thaw,
}  # fmt: skip


def segments(stage: st.Stage, setting: Setting) -> Iterator[Segment]:
    """The conditions of a stage, in order; a stage that turns until it ends yields them without end."""
    for segment in _of_faces(stage, setting):
        yield with_rim(segment, stage, setting)


def _of_faces(stage: st.Stage, setting: Setting) -> Iterator[Segment]:
    match stage:
        case st.Pan():
            yield from pan_segments(stage, setting)
        case st.Plancha():
            yield from _on_plate(stage, setting)
        case st.Grill():
            yield from grill_segments(stage, setting)
        case st.Oven():
            yield from oven_segments(stage, setting)
        case st.Bath() | st.Fry() | st.Simmer() | st.Poach() | st.Boil():
            yield loaded(CONSTANT[type(stage)](stage, setting), stage, setting)
        case _:
            yield CONSTANT[type(stage)](stage, setting)


def is_bagged(stage: st.Stage, before: bool) -> bool:
    """Whether the piece is in its bag in the stages after this one."""
    match stage:
        case st.Bath():
            return stage.bagged
        case st.Hold() | st.IceBath() | st.Chill() | st.Reheat():
            return stage.bagged if stage.bagged is not None else before
        case st.Steam() | st.Simmer() | st.Poach() | st.Boil():
            return bool(stage.bagged)
        case st.Temper() | st.Medium():
            return before
        case _:
            return False


# Kinds of stages that state the temperature of their medium, and the key it is stated by.
STATED_BY = {
    "temper": "air_c", "rest": "air_c", "oven": "air_c", "chill": "air_c", "bath": "water_c", "plancha": "plate_c",
    "grill": "source_c", "fry": "oil_c", "steam": "boiling_c", "brine": "temp_c", "medium": "medium_c",
    "pressure": "boiling_c", "freeze": "air_c",
}  # fmt: skip


def medium_c(stage: st.Stage) -> float:
    """Temperature of the medium as a cook would name it, which the food approaches, °C."""
    if (key := STATED_BY.get(stage.kind)) is not None:
        return float(getattr(stage, key))
    match stage:
        case st.Pan():
            return stage.pan_c if stage.pan_c is not None else stage.starts_at_c
        case st.Simmer() | st.Poach() | st.Boil():
            medium = media()[stage.kind]
            return stage.water_c if stage.water_c is not None else min(medium.get("water_c", 100.0), stage.boiling_c)
        case st.Hold():
            return float(stage.air_c if stage.air_c is not None else stage.water_c or 0.0)
        case st.IceBath():
            return float(media()["ice-bath"]["water_c"])
        case st.Thaw():
            own_c = stage.water_c if stage.where == "water" else stage.air_c
            return float(own_c if own_c is not None else media()["thaw"][f"{stage.where}_c"])
        case st.Reheat():
            defaults = media()["reheat"]
            given = {
                "oven": stage.air_c,
                "bath": stage.water_c,
                "sauce": stage.water_c,
                "pan": stage.pan_c,
                "steam": 100.0,
            }
            given_c = given[stage.where]
            return float(given_c if given_c is not None else defaults[f"{stage.where}_c"])
        case _:
            return float(media()["torch"]["gas_c"])


def hottest_c(stage: st.Stage) -> float:
    """Upper limit of the food's temperature in this stage, °C."""
    if isinstance(stage, st.Rest) and stage.on == "hot_plate":
        return max(stage.air_c, stage.plate_c)
    if isinstance(stage, st.Pan):
        return max(medium_c(stage), stage.starts_at_c)
    return medium_c(stage)
