"""The look of cut flesh: its colour by what heat has done to it, and the words for its bands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ember.files.result import Result
from ember.kinetics.colour import Tint, as_if_heated_c, lab, opacity, rgb_of, tint_of

from .axis import FloatArray, between

Colours = NDArray[np.uint8]

# Red meat by the hottest it has been, or looks as if it had been.
RED_C = (38, 46, 51, 55, 59, 63, 68, 85)
RED_HEX = ("6E1C28", "8E2B37", "B54650", "C9646A", "D48A84", "C79C8C", "A88E7C", "9A806C")
# A dry outside: what a hot pan makes of any flesh, red and pale.
CRUST_C = (92, 104, 122)
RED_CRUST, PALE_CRUST = ("9A806C", "7A5A42", "4A2F20"), ("D9BE94", "B07A3C", "6B4020")
RED_FROM_A = 12.0  # a* of the raw flesh
CHROMA = 1.12  # a plate is seen in better light than a colorimeter gives it
LOOKS_ITS_HEAT_C = 53.0  # below it the red says nothing, the heat alone does
BAND_RED = ((100.0, "crust"), (65.0, "grey"), (58.0, "pink"), (51.0, "rosy"), (44.0, "red"))


def _stops(hexes: tuple[str, ...]) -> FloatArray:
    return np.array([[int(h[i : i + 2], 16) for i in (0, 2, 4)] for h in hexes], dtype=float)


def is_red(cut_id: str) -> bool:
    """Whether the flesh is red when raw; fish is judged by its opacity."""
    tint = tint_of(cut_id)
    return tint.raw[1] >= RED_FROM_A and not tint.fish


def _ramp(T: FloatArray, at: tuple[int, ...], hexes: tuple[str, ...]) -> FloatArray:
    stops = _stops(hexes)
    return np.stack([np.interp(T, at, stops[:, i]) for i in range(3)], axis=-1)


def _pale(tint: Tint, hottest_c: FloatArray, pigment: FloatArray) -> FloatArray:
    flat = lab(tint, pigment.ravel(), opacity(hottest_c.ravel(), tint.fish))
    flat[:, 1:] *= CHROMA
    return rgb_of(flat).reshape(*hottest_c.shape, 3)


def colours(cut_id: str, hottest_c: FloatArray, pigment: FloatArray, browns: bool) -> Colours:
    """Colours `[..., 3]` of flesh by the hottest it has been and its remaining redness; `browns`: its surface was
    bare.
    """
    tint = tint_of(cut_id)
    if is_red(cut_id):
        looks = np.maximum(as_if_heated_c(pigment, tint.t50_c), np.minimum(hottest_c, LOOKS_ITS_HEAT_C))
        shades = _ramp(looks, RED_C, RED_HEX)
    else:
        shades = _pale(tint, hottest_c, pigment)
    if browns:
        share = np.clip((hottest_c - CRUST_C[0]) / (CRUST_C[1] - CRUST_C[0]), 0.0, 1.0)[..., None]
        shades = (1 - share) * shades + share * _ramp(hottest_c, CRUST_C, RED_CRUST if is_red(cut_id) else PALE_CRUST)
    return np.asarray(np.clip(np.rint(shades), 0, 255), dtype=np.uint8)


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
