"""What a photograph of a cut face says: bands in millimetres from both faces, the middle, and what cannot be told."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput
from .bands import Band, bands_in, looks_of, one_colour, valley, word_of
from .frame import Frame
from .palette import CRUST_C, Palette, palette_of
from .picture import Picture
from .profile import Profile, profile_of

FloatArray = NDArray[np.float64]

STRANGE, BURNT = 9.0, 13.5  # ΔE from any flesh: sauce, a rub, shadow; of the crust
CRUST_MM = 2.0
# ΔE of the whole from a face of this cut, and of the piece from what lies beside it: rendered faces have up to 1.9 and
# from 25, pictures of other things mostly over 9 and under 2.
DOUBTFUL, NO_FLESH = 4.0, 7.0
LEAST_ENDS, CLEAR_ENDS = 4.0, 8.0
UNEVEN = 9.0
SOFT_MM, BLURRED_MM = 1.9, 2.5  # of an edge: out of focus by 0.8 and 1.1 mm
MOST_BLOWN, MOST_GLARE = 0.25, 0.45
RIM_MM = 0.5
LABEL_SHARE = 0.15  # the label may lie lower than the face
FLAT_SHARE = 0.25  # of the thickness each way
COLOUR_NOISE = 2.5  # ΔE of a photograph in good light, one standard deviation
NOISE_WITHOUT_WHITE = 6.0


class NoFaceError(BadInput):
    """A picture in which no cut face can be read, with the reason in words."""


@dataclass(frozen=True)
class FaceReading:
    """A face as it was cut. `top` and `under`: the bands from each face in, without the middle; `middle`: the word and
    thickness of the innermost band; `coldest_mm`: depth of the coldest place from the top, `off_middle_mm` how far that
    is from half the thickness, `give_or_take_mm` within how much of one colour it lies; `core_c`: the heat that the
    middle looks as if it had seen, with `core_low_c` and `core_high_c`; `uneven_mm`: by how much the bands differ from
    left to right; `looks_c` by `depth_mm`; `doubts`: what cannot be told, and why.
    """

    top: tuple[Band, ...]
    under: tuple[Band, ...]
    middle: Band
    coldest_mm: float
    off_middle_mm: float
    give_or_take_mm: float
    core_c: float
    core_low_c: float
    core_high_c: float
    uneven_mm: float
    depth_mm: tuple[float, ...]
    looks_c: tuple[float, ...]
    doubts: tuple[str, ...]


def read_face(picture: Picture, frame: Frame, cut_id: str) -> FaceReading:
    """Read a photograph `[row, column, 3]`, sRGB. Raises NoFaceError for a picture that shows no cut face."""
    profile = profile_of(picture, frame)
    palette = palette_of(cut_id)
    looks, strange = looks_of(profile.lab, palette)
    coldest, looks = valley(looks, _certainty(palette, looks) * _inside(profile.depth_mm, frame.mm))
    _refuse(profile, _misfit(profile, looks, palette))
    by_strip = [valley(looks_of(strip, palette)[0], None, coldest)[1] for strip in profile.strips]
    depth = profile.depth_mm
    top = bands_in(depth[: coldest + 1], looks[: coldest + 1], [s[: coldest + 1] for s in by_strip], palette)
    under_depth = frame.mm - depth[coldest:][::-1]
    under = bands_in(under_depth, looks[coldest:][::-1], [s[coldest:][::-1] for s in by_strip], palette)
    low, core, high = _core(looks, coldest, palette, profile)
    word = word_of(core, palette)
    taken = sum(band.mm for band in (*top[:-1], *under[:-1]))
    middle = Band(word, round(frame.mm - taken, 2), round(max(top[-1].spread_mm, under[-1].spread_mm), 2))
    uneven = max((band.spread_mm for band in (*top[:-1], *under[:-1])), default=0.0)
    first, last = one_colour(looks, coldest, palette, COLOUR_NOISE if profile.light.is_known else NOISE_WITHOUT_WHITE)
    coldest_mm, flat_mm = float(depth[first] + depth[last]) / 2, float(depth[last] - depth[first]) / 2
    return FaceReading(
        tuple(top[:-1]), tuple(under[:-1]), middle, round(coldest_mm, 2), round(coldest_mm - frame.mm / 2, 2),
        round(flat_mm, 2), round(core, 1), round(low, 1), round(high, 1), round(uneven, 2),
        tuple(float(d) for d in depth.round(3)), tuple(float(c) for c in looks.round(2)),
        tuple(_doubts(profile, strange, frame, flat_mm)),
    )  # fmt: skip


def _certainty(palette: Palette, looks: FloatArray) -> FloatArray:
    """How much colour changes with heat there: where it hardly does, a reading says little."""
    moves = np.linalg.norm(np.gradient(palette.lab * palette.weights, palette.looks_c, axis=0), axis=1)
    return np.asarray(np.clip(np.interp(looks, palette.looks_c, moves), 0.15, 3.0))


def _inside(depth_mm: FloatArray, mm: float) -> FloatArray:
    """Nearly nothing for the outermost points, where what lies behind the piece shows through."""
    return np.where(np.minimum(depth_mm, mm - depth_mm) < RIM_MM, 0.02, 1.0)


def _core(looks: FloatArray, coldest: int, palette: Palette, profile: Profile) -> tuple[float, float, float]:
    """The heat of the middle with an honest band: by how far colour may be off, and by where it stops changing."""
    core = float(looks[coldest])
    noise = COLOUR_NOISE if profile.light.is_known else NOISE_WITHOUT_WHITE
    noise = float(np.hypot(noise, profile.unlike[max(coldest - 4, 0) : coldest + 5].mean()))
    here = np.array([np.interp(core, palette.looks_c, palette.lab[:, i]) for i in range(3)])
    alike = np.linalg.norm((palette.lab - here) * palette.weights, axis=1) <= noise
    cooked = palette.looks_c < CRUST_C[0]
    values = palette.looks_c[alike & cooked]
    low, high = (float(values.min()), float(values.max())) if len(values) else (core, core)
    return min(low, core), core, max(high, core)


def _misfit(profile: Profile, looks: FloatArray, palette: Palette) -> FloatArray:
    """How far each depth's colour is from that of the face read, ΔE."""
    fitted = np.stack([np.interp(looks, palette.looks_c, palette.lab[:, i]) for i in range(3)], axis=-1)
    return np.asarray(np.linalg.norm((profile.lab - fitted) * palette.weights, axis=1))


def _refuse(profile: Profile, misfit: FloatArray) -> None:
    if profile.ends < LEAST_ENDS:
        raise NoFaceError(
            "The line does not end where a piece ends. Drag its ends to the top and the underside.", "top"
        )
    if profile.blown > MOST_BLOWN:
        raise NoFaceError("Too much of the face is burnt out. Take it without flash, away from the lamp.", "photo")
    if profile.glare > MOST_GLARE:
        raise NoFaceError("Most of the face shines. Blot it, and hold the lamp aside.", "photo")
    away = float(np.median(misfit))
    if away > NO_FLESH or (away > DOUBTFUL and profile.ends < CLEAR_ENDS) or profile.unlike.mean() > UNEVEN:
        raise NoFaceError("These are not the colours of this cut. Put the line across the cut face.", "photo")
    if profile.rise_mm > BLURRED_MM:
        raise NoFaceError("This picture is blurred. Hold still, and tap the face to focus.", "photo")


def _doubts(profile: Profile, strange: FloatArray, frame: Frame, flat_mm: float) -> list[str]:
    doubts = []
    by_label = frame.label_mm
    if by_label is not None and abs(by_label / frame.mm - 1.0) > LABEL_SHARE:
        doubts.append(f"By the label the piece is {by_label:.0f} mm thick here, not {frame.mm:.0f} mm.")
    if profile.rise_mm > SOFT_MM:
        doubts.append("The picture is not sharp: the bands may be a millimetre off.")
    if flat_mm > FLAT_SHARE * frame.mm:
        doubts.append("The middle has one colour: where its coldest place is cannot be told.")
    if not profile.light.is_known:
        doubts.append(f"The light is not known: {profile.light.why_not}. Colours are taken as they are.")
    if profile.glare > MOST_GLARE / 4:
        doubts.append("Part of the face shines: it was left out.")
    covered = strange > STRANGE
    if covered.mean() > 0.1:
        doubts.append("Part of the face has another colour (sauce, a rub, shadow): what it covers is a guess.")
    if float(np.median(strange[profile.depth_mm < CRUST_MM])) > BURNT:
        doubts.append("The crust is darker than any known: it may be burnt, or in shadow.")
    return doubts
