"""Colour of the cut face: remaining red pigment, opacity, and the resulting colour.

Pigment: a dose D = ∫ 10^((T − 60)/3) dt; remaining N = 1/(1 + (D/D50)^0.41). Fitted to published endpoints and to long
cooks of the trade (unsure); cured meat keeps its colour.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

Z_K = 3.0
SPREAD = 0.41
RAMP_K_MIN = 1.5  # how fast the published endpoints were heated
D50_AT_60_S = 52.0
WHITE_FISH = "cod"
# CIE standard illuminant D65, and XYZ to linear sRGB (IEC 61966-2-1; from memory).
WHITE = np.array([0.95047, 1.0, 1.08883])
TO_RGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])


@dataclass(frozen=True)
class Tint:
    """Raw and cooked colour of a kind of flesh, L*a*b*."""

    raw: tuple[float, float, float]
    cooked: tuple[float, float, float]
    t50_c: float
    fish: bool = False


@cache
def _table() -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath("data/colour.toml").read_text("utf-8"))


@cache
def tints() -> dict[str, Tint]:
    """Colours by name."""
    rows = {key: values for key, values in _table().items() if key != "cuts"}
    return {
        key: Tint(tuple(values["raw"]), tuple(values["cooked"]), values["t50_c"], values.get("fish", False))
        for key, values in rows.items()
    }


def tint_of(cut_id: str) -> Tint:
    """The colour of a cut: its own, its species', or that of white fish."""
    names = _table()["cuts"]
    return tints()[names.get(cut_id) or names.get(cut_id.split("/")[0], WHITE_FISH)]


def pigment_history(time_s: FloatArray, temperature_c: FloatArray, t50_c: float) -> FloatArray:
    """Share of the red pigment that is still native at each time, 0 to 1; `temperature_c[n]` or `[n, place]`."""
    t = np.asarray(time_s, dtype=float)
    T = np.minimum(np.asarray(temperature_c, dtype=float), 110.0)
    a, b = 10 ** ((T[:-1] - 60.0) / Z_K), 10 ** ((T[1:] - 60.0) / Z_K)
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = np.log(b / a)
        mean = np.where(np.abs(ratio) > 1e-6, (b - a) / ratio, 0.5 * (a + b))
    step = np.diff(t)
    dose = np.zeros_like(T)
    np.cumsum(mean * (step if T.ndim == 1 else step[:, None]), axis=0, out=dose[1:])
    d50 = D50_AT_60_S * 10 ** ((t50_c - 60.0) / Z_K)
    return np.asarray(1.0 / (1.0 + (dose / d50) ** SPREAD))


def pigment_left(time_s: FloatArray, temperature_c: FloatArray, t50_c: float) -> FloatArray:
    """Share of the red pigment that is still native at the end.

    >>> t = np.array([0.0, 12 * 3600.0])
    >>> round(float(pigment_left(t, np.array([60.0, 60.0]), 67.0)), 2)  # twelve hours at 60 °C
    0.37
    """
    return np.asarray(pigment_history(time_s, temperature_c, t50_c)[-1])


def as_if_heated_c(left: FloatArray, t50_c: float) -> FloatArray:
    """Temperature at which meat heated at 1.5 K a minute has the same redness left, °C.

    The dose of such a ramp is its last temperature's rate times z / (ln 10 · 1.5 K/min).

    >>> t = np.linspace(0, 2400, 2401)
    >>> left = pigment_left(t, t * 1.5 / 60, 67.0)  # to 60 °C
    >>> round(float(as_if_heated_c(left, 67.0)), 1)
    60.0
    """
    d50 = D50_AT_60_S * 10 ** ((t50_c - 60.0) / Z_K)
    share = np.clip(np.asarray(left, dtype=float), 1e-6, 1.0 - 1e-6)
    dose_s = d50 * (1.0 / share - 1.0) ** (1.0 / SPREAD)
    return np.asarray(60.0 + Z_K * np.log10(dose_s / (60.0 * Z_K / (np.log(10.0) * RAMP_K_MIN))))


def _step(T: FloatArray, middle_c: float, width_k: float) -> FloatArray:
    return np.asarray(1.0 / (1.0 + np.exp(-(T - middle_c) / width_k)))


def opacity(hottest_c: FloatArray, fish: bool) -> FloatArray:
    """Opacity of the flesh, 0 to 1, by the hottest it has been."""
    T = np.asarray(hottest_c, dtype=float)
    if fish:
        return np.asarray(0.75 * _step(T, 44.0, 2.2) + 0.25 * _step(T, 62.0, 4.0))
    return np.asarray(0.6 * _step(T, 51.0, 2.5) + 0.4 * _step(T, 66.0, 4.0))


def lab(tint: Tint, left: FloatArray, opaque: FloatArray) -> FloatArray:
    """L*a*b* `[place, 3]` by remaining pigment and opacity."""
    raw, cooked = np.array(tint.raw), np.array(tint.cooked)
    left, opaque = np.atleast_1d(left), np.atleast_1d(opaque)
    turned = opaque if tint.fish else 1.0 - left
    shares = np.stack([opaque, turned, turned], axis=-1)
    return np.asarray(raw + shares * (cooked - raw))


def rgb_of(colour: FloatArray) -> FloatArray:
    """L*a*b* `[n, 3]` as sRGB, 0 to 255."""
    rows = np.atleast_2d(colour)
    fy = (rows[:, 0] + 16.0) / 116.0
    f = np.stack([fy + rows[:, 1] / 500.0, fy, fy - rows[:, 2] / 200.0], axis=1)
    xyz = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * WHITE
    linear = np.clip(xyz @ TO_RGB.T, 0.0, 1.0)
    rgb = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
    return np.asarray(255.0 * rgb)


def hex_of(colour: FloatArray) -> list[str]:
    """L*a*b* `[n, 3]` as sRGB, "#rrggbb".

    >>> hex_of(np.array([[100.0, 0.0, 0.0], [0.0, 0.0, 0.0]]))
    ['#ffffff', '#000000']
    """
    return ["#{:02x}{:02x}{:02x}".format(*np.rint(pixel).astype(int)) for pixel in rgb_of(colour)]
