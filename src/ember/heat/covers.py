"""What lies over a piece in hot air: cloth, foil as a tent or close, a parcel of paper, a crust, a lid."""

from __future__ import annotations

from ..files.stages import Oven
from .faces import media
from .grid import FloatArray
from .terms import EMISSIVITY, HC, JUICE, KELVIN, MEDIUM_C, SIGMA, SKIN, VAPOUR_PA, WETNESS, H

FACE_C = 80.0  # usual of a wrapped piece, for the radiation of its cover


def under_cover(stage: Oven, face: FloatArray, most_vapour_pa: float) -> FloatArray:
    """A face in an oven's air, under the stage's cover. `most_vapour_pa`: the most that air can hold."""
    medium = media()["oven"]
    match stage.cover:
        case "cloth":
            under = face.copy()
            under[H] = under[HC] = 1.0 / (1.0 / face[H] + 1.0 / medium["cloth_h"])
            under[EMISSIVITY], under[WETNESS] = medium["cloth_emissivity"], medium["cloth_wetness"]
            under[SKIN] = 0.0
            return under
        case "foil":
            return under_foil(face)
        case "wrapped":
            return _closed(face, medium["wrapped_emissivity"], medium["wrap_h"])
        case "parcel":
            return _closed(face, medium["parcel_emissivity"], medium["wrap_h"])
        case "crust":
            return _closed(face, medium["crust_emissivity"], medium["crust_k"] / (1e-3 * medium["crust_mm"]))
        case "lid":
            under = face.copy()
            under[H] = under[HC] = medium["lid_hc"]
            under[EMISSIVITY], under[SKIN] = medium["lid_emissivity"], 0.0
            under[VAPOUR_PA] = max(min(medium["lid_vapour_pa"], most_vapour_pa), face[VAPOUR_PA])
            return under
    return face


def under_foil(face: FloatArray) -> FloatArray:
    """A face in hot air, under foil that stands off it."""
    medium, under = media()["oven"], face.copy()
    outside = face[H] + medium["foil_radiates_h"]
    under[H] = under[HC] = 1.0 / (1.0 / outside + 1.0 / medium["foil_gap_h"])
    under[EMISSIVITY], under[WETNESS], under[SKIN] = medium["foil_emissivity"], medium["foil_wetness"], 0.0
    return under


def _closed(face: FloatArray, emissivity: float, h: float) -> FloatArray:
    """A face under a cover that lies close: the air's film and radiation reach the cover, `h` W/m²K the face under it;
    nothing evaporates and all juice is kept.
    """
    under = face.copy()
    outside = face[H] + radiated_h(emissivity, face[MEDIUM_C])
    under[H] = 1.0 / (1.0 / outside + 1.0 / h)
    under[HC] = under[EMISSIVITY] = under[WETNESS] = under[SKIN] = 0.0
    under[JUICE] = 1.0
    return under


def radiated_h(emissivity: float, air_c: float) -> float:
    """Radiation from walls at `air_c` as a film, W/m²K, linear about the mean with a usual face."""
    return emissivity * 4.0 * SIGMA * (0.5 * (air_c + FACE_C) + KELVIN) ** 3
