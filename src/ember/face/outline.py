"""A proposal of where the piece lies in a photograph: its outline, and the line across it. A cook corrects it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput
from .frame import Point
from .light import WHITE_Y, Light, linear
from .palette import palette_of
from .picture import Picture

FloatArray = NDArray[np.float64]
Mask = NDArray[np.bool_]

WORK_PX = 320  # the longer side of what is looked at
LIKE, UNLIKE = 9.0, 20.0  # ΔE in a* and b* from any flesh of this cut
WHITE_L, PLATE_CHROMA = 91.7, 7.0  # L* of what WHITE_Y reflects
LIGHTEST = (0.88, 0.98)  # the share of the picture that is darker
WHITE_SHADE, LEAST_WHITE_PX = 10.0, 4.0
LEAST_SHARE = 0.01  # of the picture
MOST_POINTS = 32
SEED_PX = 4


@dataclass(frozen=True)
class Proposal:
    """`outline`: points about the piece, px; `top` and `under`: the ends of the line across it, the upper one first;
    `white`: something beside it that looks white.
    """

    outline: tuple[Point, ...]
    top: Point
    under: Point
    white: Point | None


def propose(
    picture: Picture, cut_id: str, inside: Sequence[Point] = (), outside: Sequence[Point] = ()
) -> Proposal:  # fmt: skip
    """Where the piece lies in a picture `[row, column, 3]`, sRGB. `inside` and `outside`: points, px, that a cook says
    are on the piece or beside it.

    Raises BadInput where nothing looks like a piece of this cut.
    """
    coarse = max(max(picture.shape[:2]) // WORK_PX, 1)
    tall, wide = (size // coarse * coarse for size in picture.shape[:2])
    blocks = picture[:tall, :wide].reshape(tall // coarse, coarse, wide // coarse, coarse, 3)
    small = blocks[:, :: max(coarse // 3, 1), :, :: max(coarse // 3, 1)].mean(axis=(1, 3))
    mask, white = _piece(
        small, cut_id, *([(p[0] / coarse, p[1] / coarse) for p in points] for points in (inside, outside))
    )
    if mask.mean() < LEAST_SHARE:
        raise BadInput("No piece of this cut was found in the picture. Drag the two handles to its top and underside.")
    outline = tuple((x * coarse, y * coarse) for x, y in _contour(mask))
    top, under = ((x * coarse, y * coarse) for x, y in _across(mask))
    return Proposal(outline, top, under, None if white is None else (white[0] * coarse, white[1] * coarse))


def _piece(
    small: FloatArray, cut_id: str, inside: Sequence[Point], outside: Sequence[Point]
) -> tuple[Mask, Point | None]:  # fmt: skip
    """Which points are the piece: grown from what surely is and what surely is not, along the edges of the picture; and
    the middle of what is white.
    """
    from scipy.ndimage import binary_fill_holes, gaussian_filter, label
    from skimage.filters import sobel
    from skimage.morphology import isotropic_erosion, isotropic_opening
    from skimage.segmentation import watershed

    lab = _lightest(small).balanced(small)
    palette = palette_of(cut_id)
    colour = gaussian_filter(lab[..., 1:], (1.0, 1.0, 0.0))
    away = np.min(np.linalg.norm(colour[:, :, None] - palette.lab[::12, 1:], axis=-1), axis=-1)
    shade = WHITE_L - lab[..., 0]
    flesh = (away < LIKE) & (np.hypot(colour[..., 0], colour[..., 1]) > PLATE_CHROMA) & (shade > 4.0)
    sure = isotropic_erosion(isotropic_opening(flesh, 2.0), 2.0)
    parts, count = label(sure)
    seeds = np.zeros(sure.shape, dtype=np.int32)
    if count:
        seeds[parts == _likeliest(parts, count)] = 1
    seeds[(away > UNLIKE) | (isotropic_erosion(shade < 2.0, 2.0))] = 2
    seeds[[0, -1], :] = seeds[:, [0, -1]] = 2
    _corrected(seeds, inside, outside)
    if not (seeds == 1).any():
        return np.zeros(sure.shape, dtype=bool), None
    edges = sobel(gaussian_filter(lab[..., 0], 1.0)) + sobel(colour[..., 0]) + sobel(colour[..., 1])
    grown = watershed(edges, seeds) == 1
    mask = np.asarray(binary_fill_holes(isotropic_opening(grown, 2.0)))
    return mask, _white(
        (np.abs(shade) < WHITE_SHADE) & (np.hypot(colour[..., 0], colour[..., 1]) < PLATE_CHROMA) & ~mask
    )


def _corrected(seeds: NDArray[np.int32], inside: Sequence[Point], outside: Sequence[Point]) -> None:
    """What a cook says holds: from the middle of the piece to a point on it, and nothing beyond a point beside it."""
    rows, columns = np.mgrid[: seeds.shape[0], : seeds.shape[1]]
    there = np.asarray(seeds == 1)
    middle = np.array([columns[there].mean(), rows[there].mean()]) if there.any() else np.array(seeds.shape[::-1]) / 2
    for points, value in ((outside, 2), (inside, 1)):
        for point in points:
            away = np.array(point) - middle
            far = max(float(np.hypot(*away)), 1.0)
            along = ((columns - middle[0]) * away[0] + (rows - middle[1]) * away[1]) / far
            aside = np.abs((columns - middle[0]) * away[1] - (rows - middle[1]) * away[0]) / far
            if value == 1:
                seeds[(along >= 0) & (along <= far) & (aside <= SEED_PX)] = 1
            else:
                seeds[(along >= far) & (aside <= along)] = 2


def _white(is_white: Mask) -> Point | None:
    """The middle of the widest white place, if it is wide enough to tap."""
    from scipy.ndimage import distance_transform_edt

    wide = distance_transform_edt(np.pad(is_white, 1))[1:-1, 1:-1]
    row, column = np.unravel_index(int(wide.argmax()), wide.shape)
    return (float(column), float(row)) if wide[row, column] >= LEAST_WHITE_PX else None


def _lightest(small: FloatArray) -> Light:
    """The light, if the lightest part of the picture is white: a plate, mostly."""
    brightness = small.sum(axis=-1)
    low, high = np.quantile(brightness, LIGHTEST)
    gains = WHITE_Y / np.median(linear(small[(brightness >= low) & (brightness <= high)]), axis=0)
    return Light((float(gains[0]), float(gains[1]), float(gains[2])), True)


def _likeliest(parts: NDArray[np.int32], count: int) -> int:
    """The part that is large and near the middle."""
    rows, columns = np.indices(parts.shape)
    middle = np.hypot(rows / parts.shape[0] - 0.5, columns / parts.shape[1] - 0.5)
    weight = np.bincount(parts.ravel(), weights=(1.2 - middle).ravel() ** 2, minlength=count + 1)
    return int(np.argmax(weight[1:])) + 1


def _contour(mask: Mask) -> list[Point]:
    from skimage.measure import approximate_polygon, find_contours

    longest = max(find_contours(np.pad(mask, 1).astype(float), 0.5), key=len) - 1.0
    tolerance = 0.8
    points = approximate_polygon(longest, tolerance)
    while len(points) > MOST_POINTS:
        tolerance *= 1.4
        points = approximate_polygon(longest, tolerance)
    return [(float(column), float(row)) for row, column in points[:-1]]


def _across(mask: Mask) -> tuple[Point, Point]:
    """The ends of the line through the middle of the piece along its shorter axis, the upper end first."""
    rows, columns = np.nonzero(mask)
    middle = np.array([columns.mean(), rows.mean()])
    spread = np.cov(np.stack([columns, rows]))
    values, axes = np.linalg.eigh(spread)
    along = axes[:, int(np.argmin(values))]
    along = along if along[1] >= 0 else -along
    reach = float(max(mask.shape))
    steps = np.arange(-reach, reach, 0.25)
    points = np.rint(middle + steps[:, None] * along).astype(int)
    there = (points >= 0).all(axis=1) & (points[:, 0] < mask.shape[1]) & (points[:, 1] < mask.shape[0])
    on = np.zeros(len(steps), dtype=bool)
    on[there] = mask[points[there, 1], points[there, 0]]
    ends = steps[on]
    first, last = (middle + end * along for end in (ends.min(), ends.max()))
    return (float(first[0]), float(first[1])), (float(last[0]), float(last[1]))
