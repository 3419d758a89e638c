"""Photographs of made-up cut faces, of which everything is known: bands, light, tilt, noise.

A piece lies cut on a white plate on a dark table. Its colours are the palette's, with fibre, juice that shines, uneven
doneness, a vignette, warm light, a lens out of focus, sensor noise and JPEG. For studies, tests and the demonstration.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, zoom

from ..face.frame import Point
from ..face.label import BORDER_MM, SIDE_MM
from ..face.light import encoded, linear
from ..face.palette import palette_of

FloatArray = NDArray[np.float64]

# Planckian light through a camera that is set to 5,500 K: gains of red and blue by colour temperature (approximate).
KELVIN = (2700.0, 3200.0, 4000.0, 5000.0, 5500.0, 6500.0)
RED = (1.75, 1.50, 1.25, 1.06, 1.0, 0.90)
BLUE = (0.42, 0.55, 0.75, 0.93, 1.0, 1.14)
PLATE, TABLE, INK = 0.80, 0.06, 0.03
CARD_MM = 30.0
MARGIN_MM = 14.0


@dataclass(frozen=True)
class Scene:
    """What is photographed, and how. Temperatures °C, lengths mm, angles in degrees; `edge_mm`: how deep heat went in
    from each face (top, underside); `uneven_mm`: how much deeper on the right than on the left. `profile`: (depths from
    the top, °C) instead of a core, a surface and edges. `label`: a card with the 20 mm label lies beside it.
    """

    cut: str = "beef/ribeye"
    mm: float = 34.0
    wide_mm: float = 70.0
    core_c: float = 54.0
    surface_c: float = 115.0
    edge_mm: tuple[float, float] = (4.0, 4.0)
    uneven_mm: float = 0.0
    profile: tuple[tuple[float, ...], tuple[float, ...]] | None = None
    px_mm: float = 14.0
    kelvin: float = 5500.0
    exposure: float = 1.0
    tilt: float = 0.0
    turn: float = 0.0
    noise: float = 0.01
    glare: float = 0.02
    blur_mm: float = 0.05
    vignette: float = 0.2
    fibre: float = 2.0
    quality: int = 88
    seed: int = 1
    label: bool = False


@dataclass(frozen=True)
class Photograph:
    """A rendered photograph with what is known of it: `looks_c` at each of `depth_mm` from the top in the middle."""

    rgb: NDArray[np.uint8]
    top: Point
    under: Point
    white: Point
    depth_mm: FloatArray
    looks_c: FloatArray

    def edge_mm(self, celsius: float, from_top: bool = True) -> float:
        """How deep from a face it looks hotter than this, mm."""
        looks = self.looks_c if from_top else self.looks_c[::-1]
        hot = looks >= celsius
        return float(len(looks) if hot.all() else np.argmin(hot)) * float(self.depth_mm[1] - self.depth_mm[0])


def heat(scene: Scene, depth: FloatArray, deeper: FloatArray | float = 0.0) -> FloatArray:
    """The heat that each depth, mm from the top, looks as if it had seen: falling from both faces to the core."""
    if scene.profile is not None:
        inwards = np.where(depth < scene.mm / 2, deeper, -deeper)
        return np.asarray(np.interp(depth - inwards, *scene.profile))
    a, b = (edge + deeper for edge in scene.edge_mm)
    top = np.exp(-((np.maximum(depth, 0.0) / (1.25 * a)) ** 1.15))
    under = np.exp(-((np.maximum(scene.mm - depth, 0.0) / (1.25 * b)) ** 1.15))
    return np.asarray(scene.core_c + (scene.surface_c - scene.core_c) * np.maximum(top, under))


def photograph(scene: Scene) -> Photograph:
    """Render a scene."""
    random = np.random.default_rng(scene.seed)
    tall_mm, wide_mm = scene.mm + 2 * MARGIN_MM, scene.wide_mm + 2 * MARGIN_MM
    scale = scene.px_mm
    shape = (round(tall_mm * scale), round((wide_mm + CARD_MM * scene.label) * scale))
    y = (np.arange(shape[0]) + 0.5)[:, None] / scale - MARGIN_MM
    x = (np.arange(shape[1]) + 0.5)[None, :] / scale - MARGIN_MM
    wave = 0.25 * np.sin(x / 9.0 + scene.seed) + 0.15 * np.sin(x / 3.7)  # no face is flat
    deeper = scene.uneven_mm * (x / scene.wide_mm - 0.5) + 0.25 * _cloud(random, shape, 6.0 * scale)
    looks = heat(scene, y - wave, np.maximum(deeper, -0.8 * min(scene.edge_mm)))
    palette = palette_of(scene.cut)
    lab = np.stack([np.interp(looks, palette.looks_c, palette.lab[..., i]) for i in range(3)], axis=-1)
    lab[..., 0] += scene.fibre * (_cloud(random, shape, 0.5 * scale) + 0.8 * _cloud(random, shape, 1.6 * scale))
    lab[..., 1:] += 0.4 * scene.fibre * _cloud(random, shape, 1.2 * scale)[..., None]
    light = linear(_rgb(lab))
    corner = np.abs((x - scene.wide_mm / 2) / (scene.wide_mm / 2)) ** 5
    is_piece = (y > wave + 2.0 * corner) & (y < scene.mm + wave - 2.0 * corner) & (x > 0) & (x < scene.wide_mm)
    plate = ((y - scene.mm / 2) / (tall_mm * 0.49)) ** 2 + ((x - scene.wide_mm / 2) / (wide_mm * 0.49)) ** 2 < 1
    scenery = np.where(plate[..., None], PLATE, TABLE * np.array([1.1, 0.9, 0.7]))
    if scene.label:
        scenery = _with_label(random, scenery, x - scene.wide_mm - MARGIN_MM, y - scene.mm / 2)
    light = np.where(is_piece[..., None], light, scenery)
    shine = _cloud(random, shape, 0.9 * scale) > _quantile(1.0 - scene.glare)
    light = np.where((shine & is_piece)[..., None], 0.3 * light + 0.7, light)
    return _taken(scene, random, light)


def _with_label(random: np.random.Generator, scenery: FloatArray, x: NDArray[Any], y: NDArray[Any]) -> FloatArray:
    """A white card with the label, its upper left corner half the card above and left of the middle; x and y in mm."""
    half, inner = SIDE_MM / 2, SIDE_MM / 2 - BORDER_MM
    x = x - CARD_MM / 2
    away = np.maximum(np.abs(x), np.abs(y))
    modules = random.random((14, 14)) < 0.5
    inside = (inner - 1.0) * 2 / 14
    i, j = (np.clip(((v + inner - 1.0) / inside).astype(int), 0, 13) for v in (y, x))
    is_ink = ((away < half) & (away > inner)) | ((away < inner - 1.0) & modules[i, j])
    card = np.where(is_ink, INK, PLATE)
    return np.where((away < CARD_MM / 2 - 1.0)[..., None], card[..., None], scenery)


def _taken(scene: Scene, random: np.random.Generator, light: FloatArray) -> Photograph:
    """Through a lens and a camera."""
    rows, columns = light.shape[:2]
    gains = [np.interp(scene.kelvin, KELVIN, RED), 1.0, np.interp(scene.kelvin, KELVIN, BLUE)]
    r2 = ((np.arange(rows)[:, None] / rows - 0.5) ** 2 + (np.arange(columns)[None, :] / columns - 0.5) ** 2) / 0.5
    exposed = scene.exposure / max(float(max(gains)), 1.0)  # a camera keeps the plate from burning out
    light = light * np.array(gains) * exposed * (1.0 - scene.vignette * r2)[..., None]
    middle = (MARGIN_MM + scene.wide_mm / 2) * scene.px_mm
    points = {
        "top": (middle, MARGIN_MM * scene.px_mm), "under": (middle, (MARGIN_MM + scene.mm) * scene.px_mm),
        "white": (middle, 0.45 * MARGIN_MM * scene.px_mm),
    }  # fmt: skip
    light, points = _seen_from(scene, light, points)
    blur = scene.blur_mm * scene.px_mm
    if blur > 0.1:
        light = gaussian_filter(light, (blur, blur, 0))
    light = light + scene.noise * np.sqrt(np.maximum(light, 0.02)) * random.standard_normal(light.shape)
    rgb = _as_jpeg(np.rint(255.0 * encoded(light)).astype(np.uint8), scene.quality)
    depth = np.arange(0.0, scene.mm, 0.02) + 0.01
    return Photograph(rgb, points["top"], points["under"], points["white"], depth, heat(scene, depth))


def _seen_from(
    scene: Scene, light: FloatArray, points: dict[str, Point]
) -> tuple[FloatArray, dict[str, Point]]:  # fmt: skip
    """Turned in the picture and tilted from above, as a hand holds a camera."""
    from skimage.transform import ProjectiveTransform, warp

    if scene.tilt == 0 and scene.turn == 0:
        return light, points
    rows, columns = light.shape[:2]
    tilt, turn = np.radians(scene.tilt), np.radians(scene.turn)
    away = 3.0 * max(rows, columns)  # px from the camera to the plate
    centre = np.array([[1, 0, -columns / 2], [0, 1, -rows / 2], [0, 0, 1]], dtype=float)
    turned = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    tilted = np.array([[1, 0, 0], [0, np.cos(tilt), 0], [0, np.sin(tilt) / away, 1]])
    back = np.array([[1, 0, columns / 2], [0, 1, rows / 2], [0, 0, 1]], dtype=float)
    matrix = back @ tilted @ turned @ centre
    moved = warp(light, ProjectiveTransform(matrix).inverse, mode="edge", order=1)

    def at(point: Point) -> Point:
        x, y, w = matrix @ np.array([*point, 1.0])
        return float(np.clip(x / w, 0, columns - 1)), float(np.clip(y / w, 0, rows - 1))

    return np.asarray(moved), {name: at(point) for name, point in points.items()}


def _cloud(random: np.random.Generator, shape: tuple[int, int], size_px: float) -> FloatArray:
    """Noise of this size, mean 0 and standard deviation 1."""
    coarse = max(size_px / 2.0, 1.0)
    few = random.standard_normal((int(shape[0] / coarse) + 3, int(shape[1] / coarse) + 3))
    grown = zoom(gaussian_filter(few, 0.8), coarse, order=1)[: shape[0], : shape[1]]
    return np.asarray((grown - grown.mean()) / grown.std())


def _quantile(share: float) -> float:
    from scipy.stats import norm

    return float(norm.ppf(share))


def _rgb(lab: FloatArray) -> FloatArray:
    from skimage.color import lab2rgb

    return np.asarray(255.0 * np.clip(lab2rgb(lab), 0.0, 1.0))


def _as_jpeg(rgb: NDArray[np.uint8], quality: int) -> NDArray[np.uint8]:
    from PIL import Image

    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(io.BytesIO(file.getvalue())))
