"""Boundary conditions on the faces of a piece as rows of numbers; the values are in data/media.toml."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from ..files import stages as st
from .grid import FloatArray
from .terms import (
    CONTACT,
    CONTACT_C,
    EMISSIVITY,
    FACE_COLUMNS,
    FROM_AROUND,
    H_CONTACT,
    H_DRY,
    HC,
    JUICE,
    MEDIUM_C,
    NO_RIM,
    NOTHING_AROUND,
    RADIANT_C,
    SKIN,
    SKIN_SLOPE,
    VAPOUR_PA,
    WETNESS,
    Around,
    H,
    Rim,
)

SEA_LEVEL_BOIL_C = 100.0


@cache
def media() -> dict[str, dict[str, Any]]:
    """The rows of media.toml; those of bare faces with what they share."""
    table = tomllib.loads(resources.files(__package__).joinpath("data/media.toml").read_text("utf-8"))
    return {name: {**table["bare"], **row} if row.get("bare") else row for name, row in table.items()}


@dataclass(frozen=True)
class Setting:
    """What a stage needs to know of the piece: faces, cover of its top, and amount.

    `face_area_m2`: one face of a slab or the whole outside of a round body; `bagged`: whether the wet stage before left
    it in its bag; `rim`: of a flat piece that is followed by its thickness, with nothing around it yet; `thick_m`: its
    thickness.
    """

    two_faces: bool
    face_area_m2: float
    count: int
    skin_on_top: bool = False
    bagged: bool = False
    rim: Rim = NO_RIM
    thick_m: float = 0.0
    wide_m: float = 0.0


@dataclass(frozen=True)
class Segment:
    """A part of a stage with constant conditions. `faces[2, FACE_COLUMNS]`: underside, then top (or outside).

    `duration_s` is None if the stage's own end decides; `around_start_c` None if the body around continues from the
    segment before.
    """

    faces: FloatArray
    duration_s: float | None = None
    around: Around = NOTHING_AROUND
    around_start_c: float | None = None
    boil_c: float = SEA_LEVEL_BOIL_C
    rim: Rim = NO_RIM


def vapour_pressure_pa(temperature_c: float, relative_humidity: float) -> float:
    """Partial pressure of water vapour in air, Pa; saturation by Buck 1981 (J Appl Meteorol 20:1527).

    >>> round(vapour_pressure_pa(20.0, 0.5))  # psychrometric tables: half of 2339 Pa
    1169
    """
    exponent = (18.678 - temperature_c / 234.5) * (temperature_c / (257.14 + temperature_c))
    return float(relative_humidity * 611.21 * np.exp(exponent))


def film(medium_c: float, h: float) -> FloatArray:
    """A face in a stirred medium."""
    face = np.zeros(FACE_COLUMNS)
    face[MEDIUM_C], face[H] = medium_c, h
    return face


def air(air_c: float, medium: dict[str, Any]) -> FloatArray:
    """A face in moist air that also radiates."""
    face = np.zeros(FACE_COLUMNS)
    face[MEDIUM_C], face[H], face[HC] = air_c, medium["hc"], medium["hc"]
    face[RADIANT_C], face[EMISSIVITY] = air_c, medium["emissivity"]
    face[WETNESS], face[JUICE] = medium["wetness"], medium.get("juice", 1.0)
    face[SKIN], face[SKIN_SLOPE] = medium.get("skin", 0.0), medium.get("skin_slope", 0.0)
    humidity = medium.get("relative_humidity")
    face[VAPOUR_PA] = medium["vapour_pa"] if humidity is None else vapour_pressure_pa(min(air_c, 99.0), humidity)
    return face


def contact(plate_c: float, h: float, h_dry: float, from_around: bool = False, juice: float = 1.0) -> FloatArray:
    """A face on a hot plate or under hot oil; `juice`: share of its juice that stays between them."""
    face = np.zeros(FACE_COLUMNS)
    face[CONTACT_C], face[H_CONTACT], face[H_DRY] = plate_c, h, h_dry
    face[JUICE] = juice
    face[FROM_AROUND] = CONTACT if from_around else 0.0
    return face


def rolled(touching: FloatArray, free: FloatArray) -> FloatArray:
    """The outside of a round piece that is rolled: a share of it touches, the rest is free."""
    share = media()["pan-round"]["contact_share"]
    face = free.copy()
    for column in (H, HC, EMISSIVITY):
        face[column] *= 1.0 - share
    face[CONTACT_C], face[FROM_AROUND] = touching[CONTACT_C], touching[FROM_AROUND]
    face[H_CONTACT], face[H_DRY] = share * touching[H_CONTACT], share * touching[H_DRY]
    return face


def both(face: FloatArray) -> FloatArray:
    """The same conditions on both faces."""
    return np.stack([face, face])


def sides_of(under: bool, down: FloatArray, up: FloatArray, two_faces: bool) -> FloatArray:
    """Conditions with one side down; `under`: whether it is the piece's underside."""
    if not two_faces:
        return both(rolled(down, up))
    return np.stack([down, up] if under else [up, down])


def exposures(stage: st.Pan | st.Plancha | st.Grill) -> Iterator[tuple[bool, float | None]]:
    """Which side is down in turn (True: the underside) and for how long, s.

    Infinite if the stage's own end decides.
    """
    under = stage.first == "under"
    number = 0
    while stage.exposures is None or number < stage.exposures:
        yield under, stage.side_s
        if stage.side_s is None:
            return
        under, number = not under, number + 1
