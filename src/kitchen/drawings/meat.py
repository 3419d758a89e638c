"""The look of cut flesh over time, by depth, and the words for its bands; colours are those of ember.face.palette."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ember.face.palette import BAND_RED, Colours, colours, is_red
from ember.files.result import Result

from .axis import FloatArray, between


@dataclass(frozen=True)
class Flesh:
    """Flesh by depth and time: `depth_m` as in the depth map, `hottest_c` and `rgb` by [moment, depth]."""

    depth_m: FloatArray
    hottest_c: FloatArray
    rgb: Colours


def flesh_of(cut_id: str, result: Result, moments_s: FloatArray, browns: bool = True) -> Flesh:
    """The flesh of a result at given moments.

    Raises ValueError for a result without its depth map.
    """
    depth_map, face = result.depth_map, result.cut_face
    if depth_map is None or face is None:
        raise ValueError("the cut face needs the result's depth map")
    t, x, temperature_c = depth_map.arrays
    depth = np.array(face.depth_m)
    rows = np.clip(np.searchsorted(t, moments_s + 1e-6, side="right") - 1, 0, len(t) - 1)
    T = np.maximum.accumulate(temperature_c, axis=0)[rows]
    hottest = between(depth, x, T)
    return Flesh(depth, hottest, colours(cut_id, hottest, np.array(face.pigment)[rows], browns))


def words_by_heat(cut_id: str, word: str, high_c: float) -> tuple[tuple[float, str], ...]:
    """Lowest temperature, °C, of each visible band, hottest first; the last is the middle's."""
    if is_red(cut_id):
        return (*BAND_RED, (-99.0, "raw"))
    return ((100.0, "crust"), (high_c, f"past {word}"), (-99.0, word))
