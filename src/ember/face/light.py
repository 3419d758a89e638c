"""The light of a photograph: what is white in it makes the colours comparable."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .frame import Point
from .picture import Picture

FloatArray = NDArray[np.float64]

PATCH_PX = 12
CLIPPED = 250
WHITE_Y = 0.80  # reflectance of a plate, a cloth, paper
MOST_GAIN = 6.0
TOO_DARK = 30.0


def linear(rgb: NDArray[np.floating] | Picture) -> FloatArray:
    """sRGB, 0 to 255, as light, 0 to 1 (IEC 61966-2-1).

    >>> linear(np.array([0.0, 255.0, 188.0])).round(3).tolist()
    [0.0, 1.0, 0.503]
    """
    share = np.asarray(rgb, dtype=float) / 255.0
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def encoded(light: FloatArray) -> FloatArray:
    """Light, 0 to 1, as sRGB, 0 to 1: the inverse of `linear`."""
    inside = np.clip(light, 0.0, 1.0)
    return np.where(inside <= 0.0031308, 12.92 * inside, 1.055 * inside ** (1 / 2.4) - 0.055)


@dataclass(frozen=True)
class Light:
    """Gains of red, green and blue that make what is white white. `why_not`: why the white could not be used."""

    gains: tuple[float, float, float] = (1.0, 1.0, 1.0)
    is_known: bool = False
    why_not: str = ""

    def balanced(self, rgb: FloatArray) -> FloatArray:
        """sRGB `[..., 3]`, 0 to 255, as L*a*b* in this light made even."""
        from skimage.color import rgb2lab

        return np.asarray(rgb2lab(encoded(linear(rgb) * np.array(self.gains))))


def light_at(picture: Picture, white: Point | None) -> Light:
    """The light by something white in the picture; as it is where nothing white is named, or it cannot be used."""
    if white is None:
        return Light(why_not="nothing white was tapped")
    column, row = (round(value) for value in white)
    patch = picture[max(row - PATCH_PX, 0) : row + PATCH_PX + 1, max(column - PATCH_PX, 0) : column + PATCH_PX + 1]
    flat = patch.reshape(-1, 3)
    usable = flat[(flat.max(axis=1) < CLIPPED) & (flat.max(axis=1) > TOO_DARK)]
    if len(usable) < len(flat) / 4:
        return Light(why_not="what was tapped as white is burnt out, or in the dark")
    gains = WHITE_Y / np.median(linear(usable), axis=0)
    if gains.max() > MOST_GAIN or gains.max() / gains.min() > MOST_GAIN:
        return Light(why_not="what was tapped is not white")
    return Light((float(gains[0]), float(gains[1]), float(gains[2])), True)
