"""The label of the prep card in a photograph: a black square of 20 mm around a code. Its four corners tell how the
camera was tilted; the code is not read.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .picture import Picture

FloatArray = NDArray[np.float64]
Mask = NDArray[np.bool_]

SIDE_MM, BORDER_MM = 20.0, 2.0
WORK_PX = 800  # the longer side of what is looked at
WINDOW, DARKER = 45, 0.12  # of what is dark: than its neighbourhood, in shares of white
LEAST_PX, MOST_SHARE = 14, 0.5  # of a side; of the picture's shorter side
HOLLOW = (0.2, 0.8)  # how much of the square is dark: its border, and whatever code
MOST_SKEW = 2.2  # the longest side over the shortest
TOLERANCE = 0.06  # of the outline, so that four corners remain
DARK, LIGHT = 0.9, 0.8  # of the points along the border, and just inside of it
CORNERS = np.array([[0.0, 0.0], [SIDE_MM, 0.0], [SIDE_MM, SIDE_MM], [0.0, SIDE_MM]])


def plane_of(picture: Picture) -> FloatArray | None:
    """The homography `[3, 3]` from px of a picture `[row, column, 3]` to mm on the plane of the label in it; None where
    there is no label.
    """
    from scipy.ndimage import binary_fill_holes, find_objects, label
    from skimage.color import rgb2gray
    from skimage.filters import threshold_local

    coarse = max(max(picture.shape[:2]) // WORK_PX, 1)
    grey = rgb2gray(picture[::coarse, ::coarse])
    dark = grey < threshold_local(grey, WINDOW, method="mean") - DARKER * float(grey.max()) / 2
    parts, _ = label(dark)
    for number, place in enumerate(find_objects(parts), start=1):
        tall, wide = (part.stop - part.start for part in place)
        if min(tall, wide) < LEAST_PX or max(tall, wide) > MOST_SHARE * min(grey.shape):
            continue
        mine = parts[place] == number
        filled = np.asarray(binary_fill_holes(mine))
        if not HOLLOW[0] <= mine.sum() / filled.sum() <= HOLLOW[1]:
            continue
        corners = _corners(filled)
        if corners is None:
            continue
        corners = corners + np.array([place[1].start, place[0].start])
        plane = homography(corners * coarse + (coarse - 1) / 2, CORNERS)
        if plane is not None and _is_label(grey, plane, coarse):
            return plane
    return None


def _corners(filled: Mask) -> FloatArray | None:
    """The four corners of a square seen at a slant, px, clockwise; None for any other shape."""
    from skimage.measure import approximate_polygon, find_contours

    outline = max(find_contours(np.pad(filled, 2).astype(float), 0.5), key=len) - 2.0
    rough = approximate_polygon(outline, TOLERANCE * len(outline) / 2)[:-1]
    if len(rough) != 4:
        return None
    sides = np.linalg.norm(rough - np.roll(rough, -1, axis=0), axis=1)
    if sides.min() < LEAST_PX / 2 or sides.max() > MOST_SKEW * sides.min():
        return None
    lines = [_line(outline, a, b) for a, b in pairwise([*rough, rough[0]])]
    points = np.array([_meeting(lines[i - 1], lines[i]) for i in range(4)])[:, ::-1]
    around = points - points.mean(axis=0)
    turn = around[0, 0] * around[1, 1] - around[0, 1] * around[1, 0]
    return points if turn > 0 else points[::-1]


def _line(outline: FloatArray, a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The line that fits the outline between two corners: a point on it, and its direction."""
    along = (b - a) / np.linalg.norm(b - a)
    s = (outline - a) @ along / np.linalg.norm(b - a)
    aside = np.abs((outline - a) @ np.array([-along[1], along[0]]))
    near = outline[(s > 0.15) & (s < 0.85) & (aside < 0.1 * np.linalg.norm(b - a) + 1.0)]
    if len(near) < 4:
        return a, along
    middle = near.mean(axis=0)
    return middle, np.linalg.svd(near - middle)[2][0]


def _meeting(one: tuple[FloatArray, FloatArray], other: tuple[FloatArray, FloatArray]) -> FloatArray:
    matrix = np.stack([one[1], -other[1]], axis=1)
    if abs(np.linalg.det(matrix)) < 1e-6:
        return one[0]
    return np.asarray(one[0] + np.linalg.solve(matrix, other[0] - one[0])[0] * one[1])


def homography(points: FloatArray, onto: FloatArray) -> FloatArray | None:
    """The homography `[3, 3]` that takes four points onto four others; None where three of them are in line.

    Direct linear transform (Hartley & Zisserman 2004, Multiple View Geometry, algorithm 4.1, with h33 = 1; from
    memory).
    """
    rows, right = [], []
    for (x, y), (u, v) in zip(points, onto, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    try:
        solved = np.linalg.solve(np.array(rows, dtype=float), np.array(right, dtype=float))
    except np.linalg.LinAlgError:
        return None
    return np.append(solved, 1.0).reshape(3, 3)


def mapped(matrix: NDArray[Any], points: NDArray[Any]) -> FloatArray:
    """Points `[..., 2]` through a homography."""
    h = np.concatenate([points, np.ones((*points.shape[:-1], 1))], axis=-1) @ matrix.T
    return np.asarray(h[..., :2] / h[..., 2:])


def _is_label(grey: FloatArray, plane: FloatArray, coarse: int) -> bool:
    """Whether there is a dark border all around, and light just inside and outside of it."""
    back = np.linalg.inv(plane)
    low, high = np.quantile(grey, (0.02, 0.98))

    def along(inset_mm: float) -> FloatArray:
        s = np.linspace(inset_mm, SIDE_MM - inset_mm, 24)
        a, b = np.full_like(s, inset_mm), np.full_like(s, SIDE_MM - inset_mm)
        ring = np.concatenate([np.stack(pair, axis=1) for pair in ((s, a), (s, b), (a, s), (b, s))])
        at = np.rint((mapped(back, ring) - (coarse - 1) / 2) / coarse).astype(int)
        at = np.clip(at, 0, np.array(grey.shape[::-1]) - 1)
        return np.asarray(grey[at[:, 1], at[:, 0]])

    border, inside, outside = along(BORDER_MM / 2), along(BORDER_MM + 0.55), along(-1.0)
    level = 0.5 * (float(np.median(border)) + float(np.median(inside)))
    if float(np.median(inside)) - float(np.median(border)) < 0.25 * (high - low):
        return False
    return bool(
        (border < level).mean() >= DARK and (inside > level).mean() >= LIGHT and (outside > level).mean() >= LIGHT
    )
