"""The light of a photograph: what is white in it makes the colours comparable."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .frame import Point
from .picture import Picture

FloatArray = NDArray[np.float64]

PATCH_PX = 12
CLIPPED = 250
WHITE_Y = 0.80  # reflectance of a plate, a cloth, paper
MOST_GAIN, MOST_COLOUR = 16.0, 6.0  # of a dark picture; of warm light, its strongest channel over its weakest
TOO_DARK = 30.0
FIELD_POINTS = 160
WHITE_PTP, LEAST_WHITE = 0.12, 0.05


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
    """Gains of red, green and blue that make what is white white. `why_not`: why the white could not be used.

    `field`: how bright the light is over the picture, as log of a polynomial in x and y (see `_terms`), 0 where white
    was tapped; `size`: columns and rows of the picture.
    """

    gains: tuple[float, float, float] = (1.0, 1.0, 1.0)
    is_known: bool = False
    why_not: str = ""
    field: tuple[float, ...] = ()
    size: tuple[int, int] = (1, 1)

    def balanced(self, rgb: FloatArray, at: tuple[FloatArray, FloatArray] | None = None) -> FloatArray:
        """sRGB `[..., 3]`, 0 to 255, as L*a*b* in this light made even. `at`: columns and rows of the points, px."""
        from skimage.color import rgb2lab

        light = linear(rgb) * np.array(self.gains)
        if at is not None and self.field:
            bright = np.exp(_terms(at[0] / self.size[0], at[1] / self.size[1]) @ np.array(self.field))
            light = light / np.clip(bright, 0.5, 2.0)[..., None]
        return np.asarray(rgb2lab(encoded(light)))


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
    if gains.max() > MOST_GAIN or gains.max() / gains.min() > MOST_COLOUR:
        return Light(why_not="what was tapped is not white")
    known = Light((float(gains[0]), float(gains[1]), float(gains[2])), True)
    return replace(known, field=_field(picture, known, white), size=(picture.shape[1], picture.shape[0]))


def _terms(x: FloatArray, y: FloatArray) -> FloatArray:
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)


def _field(picture: Picture, light: Light, white: Point) -> tuple[float, ...]:
    """How the light falls off, by what else is as white as what was tapped; nothing where too little of it is about."""
    step = max(max(picture.shape[:2]) // FIELD_POINTS, 1)
    rows, columns = (np.arange(step // 2, size, step) for size in picture.shape[:2])
    some = picture[np.ix_(rows, columns)].astype(float)
    balanced = linear(some) * np.array(light.gains)
    bright = balanced.mean(axis=-1)
    is_white = (some.max(axis=-1) < CLIPPED) & (np.ptp(balanced, axis=-1) < WHITE_PTP * bright)
    is_white &= (bright > 0.6 * WHITE_Y) & (bright < 1.5 * WHITE_Y)
    x, y = np.meshgrid(columns / picture.shape[1], rows / picture.shape[0])
    quarters = [is_white[a, b].mean() for a in (slice(0, len(rows) // 2), slice(len(rows) // 2, None))
                for b in (slice(0, len(columns) // 2), slice(len(columns) // 2, None))]  # fmt: skip
    if min(quarters) < LEAST_WHITE:
        return ()
    terms, value = _terms(x[is_white], y[is_white]), np.log(bright[is_white] / WHITE_Y)
    fitted = np.linalg.lstsq(terms, value, rcond=None)[0]
    near = np.abs(terms @ fitted - value) < 3 * np.median(np.abs(terms @ fitted - value)) + 1e-3
    fitted = np.linalg.lstsq(terms[near], value[near], rcond=None)[0]
    at = _terms(np.array(white[0] / picture.shape[1]), np.array(white[1] / picture.shape[0]))
    fitted[0] -= float(at @ fitted)
    return tuple(float(value) for value in fitted)
