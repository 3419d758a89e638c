"""The face that a plan promises, read with the same eyes as a photograph: bands by the colours it would have."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..files.result import Result
from .bands import Band, bands_in, looks_of, one_colour, valley, word_of
from .palette import colours, palette_of
from .reading import FaceReading

FloatArray = NDArray[np.float64]

STEP_MM = 0.1


def promised_face(cut_id: str, result: Result, browns: bool = True) -> FaceReading:
    """The face at the end of a result, which must have its depth map.

    `browns`: its surface was bare. Raises ValueError for a result without a depth map.
    """
    depth_map, face = result.depth_map, result.cut_face
    if depth_map is None or face is None:
        raise ValueError("the promised face needs the result's depth map")
    _, map_m, temperature_c = depth_map.arrays
    depth_m = np.array(face.depth_m)
    hottest = np.interp(depth_m, map_m, temperature_c.max(axis=0))
    pigment = np.array(face.pigment)[-1]
    from_top_mm, heat, left = 1e3 * (depth_m[-1] - depth_m[::-1]), hottest[::-1], pigment[::-1]
    if result.stages[0].faces_c is None:  # round: given from the middle out
        from_top_mm = np.concatenate([from_top_mm, 2 * from_top_mm[-1] - from_top_mm[-2::-1]])
        heat, left = (np.concatenate([values, values[-2::-1]]) for values in (heat, left))
    mm = float(from_top_mm[-1])
    depth = np.arange(STEP_MM / 2, mm, STEP_MM)
    return face_of_colours(
        cut_id, depth, mm,
        colours(cut_id, np.interp(depth, from_top_mm, heat), np.interp(depth, from_top_mm, left), browns),
    )  # fmt: skip


def face_of_colours(cut_id: str, depth_mm: FloatArray, mm: float, rgb: NDArray[np.uint8]) -> FaceReading:
    """Colours `[depth, 3]`, sRGB, at depths from the top, mm, of a piece `mm` thick, as a reading without doubts."""
    from skimage.color import rgb2lab

    palette = palette_of(cut_id)
    coldest, looks = valley(looks_of(np.asarray(rgb2lab(rgb[None] / 255.0)[0]), palette)[0], None)
    top = bands_in(depth_mm[: coldest + 1], looks[: coldest + 1], [], palette)
    under = bands_in(mm - depth_mm[coldest:][::-1], looks[coldest:][::-1], [], palette)
    core = float(looks[coldest])
    left = mm - sum(band.mm for band in (*top[:-1], *under[:-1]))
    first, last = one_colour(looks, coldest, palette, 0.0)
    place, flat = float(depth_mm[first] + depth_mm[last]) / 2, float(depth_mm[last] - depth_mm[first]) / 2
    return FaceReading(
        tuple(top[:-1]), tuple(under[:-1]), Band(word_of(core, palette), round(left, 2), 0.0), round(place, 2),
        round(place - mm / 2, 2), round(flat, 2), round(core, 1), round(core, 1), round(core, 1), 0.0,
        tuple(float(d) for d in depth_mm.round(3)), tuple(float(c) for c in looks.round(2)), (),
    )  # fmt: skip
