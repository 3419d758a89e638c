"""What flesh looks like by the heat it has seen: the colours of the drawn face, and the words for its bands."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..kinetics.colour import Tint, as_if_heated_c, lab, opacity, pigment_left, rgb_of, tint_of

FloatArray = NDArray[np.float64]
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
BAND_PALE = ((100.0, "crust"), (56.0, "cooked through"), (48.0, "just set"))
BAND_FISH = ((100.0, "crust"), (52.0, "opaque"), (43.0, "translucent"))
RAW = "raw"
# Shadows and the camera's exposure move L* most; pale flesh changes little else.
RED_TELLS, PALE_TELLS = (0.35, 1.0, 0.8), (0.7, 1.0, 0.8)
COLDEST_C, HOTTEST_C = 30.0, 122.0
HEATED_K_S = 1.5 / 60.0  # the ramp by which pigment and heat are told apart


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
    """Colours `[..., 3]`, sRGB, of flesh by the hottest it has been, °C, and its remaining redness, 0 to 1.

    `browns`: its surface was bare.
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
class Palette:
    """The colours of a cut by the heat it looks as if it had seen: `looks_c` rising, `lab` and `rgb` (sRGB) `[n, 3]`;
    `bands`: (from °C, word) hottest first, the last one the rawest; `weights`: how much each of L*, a* and b* tells in
    a photograph.
    """

    looks_c: FloatArray
    rgb: Colours
    lab: FloatArray
    weights: FloatArray
    bands: tuple[tuple[float, str], ...]


@lru_cache(maxsize=64)
def palette_of(cut_id: str) -> Palette:
    """The palette of a cut, from raw to a dark crust, as heated at 1.5 K a minute."""
    from skimage.color import rgb2lab  # only who reads pictures waits for it

    T = np.arange(COLDEST_C, HOTTEST_C + 0.25, 0.5)
    t50_c = tint_of(cut_id).t50_c
    left = np.array([_left_at(celsius, t50_c) for celsius in T])
    rgb = colours(cut_id, T, left, browns=True)
    weights = np.array(RED_TELLS if is_red(cut_id) else PALE_TELLS)
    return Palette(T, rgb, np.asarray(rgb2lab(rgb[None] / 255.0)[0]), weights, bands_of(cut_id))


def _left_at(celsius: float, t50_c: float) -> float:
    times = np.linspace(0.0, max(celsius - 20.0, 1.0) / HEATED_K_S, 400)
    return float(pigment_left(times, 20.0 + times * HEATED_K_S, t50_c))


def bands_of(cut_id: str) -> tuple[tuple[float, str], ...]:
    """(from °C, word) of each band that can be seen on the face of a cut, hottest first."""
    if is_red(cut_id):
        return (*BAND_RED, (-99.0, RAW))
    return (*(BAND_FISH if tint_of(cut_id).fish else BAND_PALE), (-99.0, RAW))
