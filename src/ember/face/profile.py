"""From a framed photograph to a profile: what each depth of the piece looks like, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, map_coordinates, median_filter

from .frame import STEP_MM, Frame
from .light import CLIPPED, Light, light_at
from .picture import Picture

FloatArray = NDArray[np.float64]

STRIPS = 5
GLARE_L, GLARE_C = 88.0, 12.0  # lighter and greyer than flesh
SMOOTH_MM = 0.4
END_STEP_MM, ENDS, ACROSS, SPOT = 0.25, 12, 3, 5
END_SMOOTH = 2.0  # points
LEAST_SEEN = 0.35  # of the points of a depth


@dataclass(frozen=True)
class Profile:
    """The face by depth. `depth_mm` from the top; `lab` `[depth, 3]` as a robust middle across the band; `strips`
    `[strip, depth, 3]` the same for each of STRIPS side by side, left to right; `unlike`: how much the lines differ,
    ΔE; `blown`, `glare`: shares of all points; `ends`: how much the colour changes where the line leaves the piece, ΔE,
    at the end where it changes less; `rise_mm`: within how much it changes there, at the sharper end: much if the
    picture is blurred.
    """

    depth_mm: FloatArray
    lab: FloatArray
    strips: FloatArray
    unlike: FloatArray
    blown: float
    glare: float
    ends: float
    rise_mm: float
    light: Light


def profile_of(picture: Picture, frame: Frame) -> Profile:
    """Read a photograph `[row, column, 3]`, sRGB, within its frame."""
    light = light_at(picture, frame.white)
    columns, rows, depth = frame.grid()
    rgb = sampled(picture, frame, columns, rows)
    lab = light.balanced(rgb, (columns, rows))
    blown = (rgb >= CLIPPED).any(axis=-1)
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    glare = (lab[..., 0] > GLARE_L) & (chroma < GLARE_C)
    unseen = blown | glare
    middle = _middle(lab, unseen)
    parts = np.array_split(np.arange(lab.shape[1]), STRIPS)
    strips = np.stack([_middle(lab[:, part], unseen[:, part]) for part in parts])
    unlike = np.median(np.linalg.norm((strips - middle)[..., 1:], axis=-1), axis=0)
    return Profile(
        depth, middle, strips, unlike, float(blown.mean()), float(glare.mean()),
        *_ends(picture, frame, light), light,
    )  # fmt: skip


def _ends(picture: Picture, frame: Frame, light: Light) -> tuple[float, float]:
    """How much the colour changes across each end of the line, ΔE, at the end where it is less; and within how many mm
    it does at the sharper one.
    """
    top, under = np.array(frame.top), np.array(frame.under)
    step = frame.px_mm * END_STEP_MM
    changes, rises = [], []
    for end, other in ((top, under), (under, top)):
        along = (other - end) / np.linalg.norm(other - end)
        across = np.array([-along[1], along[0]])
        places = end + step * np.arange(-ENDS, ENDS + 1)[:, None, None] * along
        places = places + step * np.arange(-ACROSS, ACROSS + 1)[None, :, None] * across
        rgb = sampled(picture, frame, places[..., 0], places[..., 1])
        line = light.balanced(np.median(rgb, axis=1))
        beside, inside = np.median(line[:SPOT], axis=0), np.median(line[-SPOT:], axis=0)
        changes.append(float(np.linalg.norm(inside - beside)))
        smooth = gaussian_filter1d(line, END_SMOOTH, axis=0)  # else the noise of a blurred picture looks sharp
        steepest = float(np.linalg.norm(smooth[2:] - smooth[:-2], axis=1).max()) / (2 * END_STEP_MM)
        rises.append(changes[-1] / max(steepest, 1e-6))
    return min(changes), min(rises)


def sampled(picture: Picture, frame: Frame, columns: FloatArray, rows: FloatArray) -> FloatArray:
    """The picture at points, averaged over about a point's distance so that nothing between them is missed."""
    margin = 4
    rows, columns = np.clip(rows, 0, picture.shape[0] - 1), np.clip(columns, 0, picture.shape[1] - 1)
    low = max(int(rows.min()) - margin, 0), max(int(columns.min()) - margin, 0)
    part = picture[low[0] : int(rows.max()) + margin + 1, low[1] : int(columns.max()) + margin + 1]
    coarse = max(int(frame.px_mm * STEP_MM), 1)
    if coarse > 1:
        tall, wide = (size // coarse * coarse for size in part.shape[:2])
        part = part[:tall, :wide].reshape(tall // coarse, coarse, wide // coarse, coarse, 3).mean(axis=(1, 3))
    at = np.stack([(rows - low[0] + 0.5) / coarse - 0.5, (columns - low[1] + 0.5) / coarse - 0.5])
    return np.stack(
        [map_coordinates(part[..., i].astype(np.float32), at, order=1, mode="nearest") for i in range(3)], axis=-1
    ).astype(float)


def _middle(lab: FloatArray, unseen: NDArray[np.bool_]) -> FloatArray:
    """The median colour of each depth over the points that say something, smoothed a little."""
    seen = 1.0 - unseen.mean(axis=1)
    masked = np.where((unseen & (seen > LEAST_SEEN)[:, None])[..., None], np.nan, lab)
    middle = np.nanmedian(masked, axis=1)
    width = max(round(SMOOTH_MM / STEP_MM), 1) | 1
    return np.asarray(median_filter(middle, size=(width, 1), mode="nearest"))
