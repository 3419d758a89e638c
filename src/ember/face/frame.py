"""Where the face is in a photograph: a line from the top of the piece to its underside, and something white."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput
from .label import mapped

FloatArray = NDArray[np.float64]
Point = tuple[float, float]

LEAST_PX = 60.0
LEAST_MM, MOST_MM = 6.0, 250.0
STEP_MM = 0.125
USUAL_WIDTH = 0.8  # of the thickness: how wide the band of lines is


@dataclass(frozen=True)
class Frame:
    """The face in a photograph, in px from its upper left corner. `top` and `under`: the ends of the line across it;
    `mm`: the thickness between them; `width_mm`: how wide the band of lines about it is; `white`: something white,
    which tells the light. `plane`: the homography from px to mm of a label in the picture, which tells the tilt.
    """

    top: Point
    under: Point
    mm: float
    width_mm: float
    white: Point | None = None
    plane: FloatArray | None = field(default=None, compare=False)

    @classmethod
    def of(
        cls, top: Point, under: Point, mm: float, shape: tuple[int, ...], white: Point | None = None,
        width_mm: float | None = None, plane: FloatArray | None = None,
    ) -> Frame:  # fmt: skip
        """A frame within a picture of this shape. Raises BadInput with the field that is wrong."""
        rows, columns = shape[:2]
        for name, point in (("top", top), ("under", under), ("white", white)):
            if point is not None and not (0 <= point[0] < columns and 0 <= point[1] < rows):
                raise BadInput("This point is outside the picture.", name)
        if not LEAST_MM <= mm <= MOST_MM:
            raise BadInput(f"A thickness of {LEAST_MM:g} to {MOST_MM:g} mm.", "mm")
        if math.dist(top, under) < LEAST_PX:
            raise BadInput("Top and underside are too close together in this picture. Take it from closer.", "under")
        return cls(top, under, mm, width_mm or USUAL_WIDTH * mm, white, plane)

    @property
    def px_mm(self) -> float:
        """Pixels a millimetre."""
        return math.dist(self.top, self.under) / self.mm

    def grid(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Columns and rows `[depth, line]` in px of points STEP_MM apart, and the depths, mm, from the top."""
        depth = np.arange(STEP_MM / 2, self.mm, STEP_MM)
        aside = np.arange(-self.width_mm / 2, self.width_mm / 2 + STEP_MM / 2, STEP_MM)
        return *self.at(depth, aside), depth

    def at(self, depth_mm: FloatArray, aside_mm: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Columns and rows `[depth, aside]` in px of points at these depths and so far to the left of the line, seen
        from its top.
        """
        ends = np.array([self.top, self.under])
        top, under = ends if self.plane is None else mapped(self.plane, ends)
        along = (under - top) / self.mm  # the thickness that was told counts: the label may lie lower than the face
        across = np.array([-along[1], along[0]])
        points = top + depth_mm[:, None, None] * along + aside_mm[None, :, None] * across
        if self.plane is not None:
            points = mapped(np.linalg.inv(self.plane), points)
        return points[..., 0], points[..., 1]

    @property
    def label_mm(self) -> float | None:
        """How thick the piece is by the label; None without one."""
        if self.plane is None:
            return None
        return float(np.linalg.norm(np.subtract(*mapped(self.plane, np.array([self.top, self.under])))))
