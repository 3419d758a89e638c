"""The cut face on a piece's true outline: a mosaic of the cells between its sections, in the colours of their heat."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import contourpy
import numpy as np

from ember.face.palette import Colours, colours
from ember.files.result import SectionOut

from .axis import FloatArray, path
from .cut_face import BOX_PX, CutFace, bands_of
from .meat import Flesh

OVERLAP = 0.35  # px by which cells reach over their edges, so that no light shows between them


class _Mosaic:
    """Nodes of the face in px, centred on 0 0, y downwards; `copies`: the mirror images that make it whole."""

    def __init__(self, section: SectionOut, is_round: bool) -> None:
        x, y = np.array(section.x_mm), np.array(section.y_mm)
        wide = 2.0 * x.max() if section.is_half else float(np.ptp(x))
        high = 2.0 * float(np.abs(y).max())
        self.mm_px = min(BOX_PX[0] / wide, BOX_PX[1] / high)
        middle = 0.0 if section.is_half else 0.5 * (x.max() + x.min())
        # The row begins on the right, as the piece is drawn.
        self.x, self.y = (middle - x) * self.mm_px, -y * self.mm_px
        self.width, self.height = wide * self.mm_px, high * self.mm_px
        self.copies = [
            (a, b) for a in ((1, -1) if section.is_half else (1,)) for b in ((1, -1) if is_round else (1,))
        ]  # fmt: skip

    def whole(self, x: FloatArray, y: FloatArray, end: str = "Z") -> str:
        """A line with its mirror images."""
        return "".join(path(a * x, b * y) + end for a, b in self.copies)

    def cells(self) -> list[str]:
        """The cells, section by section."""
        found = []
        for i in range(self.x.shape[0] - 1):
            for j in range(self.x.shape[1] - 1):
                across, along = [i, i + 1, i + 1, i], [j, j, j + 1, j + 1]
                x, y = self.x[across, along], self.y[across, along]
                away = np.stack([x - x.mean(), y - y.mean()])
                away *= OVERLAP / np.maximum(np.hypot(*away), 1e-6)
                found.append(self.whole(x + away[0], y + away[1]))
        return found

    def rim(self) -> str:
        """The outline; open where it is mirrored."""
        return self.whole(*self._rim(), "")

    def whole_rim(self) -> str:
        """The whole face."""
        return self.whole(*self._rim())

    def _rim(self) -> tuple[FloatArray, FloatArray]:
        x = np.concatenate([self.x[:, -1], self.x[-1, ::-1], self.x[::-1, 0]])
        y = np.concatenate([self.y[:, -1], self.y[-1, ::-1], self.y[::-1, 0]])
        return x, y

    def colder(self, heat: FloatArray, than: float) -> str:
        """The region that stayed below a temperature."""
        least = float(heat.min()) - 1.0
        if than <= least:
            return ""
        filled: Any = contourpy.contour_generator(self.x, self.y, heat, fill_type="OuterOffset").filled(least, than)
        rings = []
        for points, offsets in zip(filled[0], filled[1], strict=True):
            ends = np.asarray(offsets)
            rings += [np.asarray(points)[a:b] for a, b in pairwise(ends)]
        return "".join(self.whole(ring[:, 0], ring[:, 1]) for ring in rings)

    def bone(self, bone: Sequence[bool]) -> str:
        """The sections of bone."""
        there = np.flatnonzero(bone)
        if not there.size:
            return ""
        x, y = self.x[there], self.y[there]
        return self.whole(np.concatenate([x[:, -1], x[::-1, 0]]), np.concatenate([y[:, -1], y[::-1, 0]]))


def _between_nodes(shades: Colours, shape: tuple[int, int]) -> Colours:
    """Colours of cells, [moment, cell, 3]: the mean of their corners."""
    grid = shades.reshape(len(shades), *shape, 3).astype(float)
    mean = 0.25 * (grid[:, :-1, :-1] + grid[:, 1:, :-1] + grid[:, :-1, 1:] + grid[:, 1:, 1:])
    cells: Colours = np.rint(mean).astype(np.uint8).reshape(len(shades), -1, 3)
    return cells


def _rings(mosaic: _Mosaic, heat: FloatArray, words: Sequence[tuple[float, str]]) -> tuple[tuple[str, str], ...]:
    """Regions for print, from the hottest in: each lies on those before it."""
    rings, above = [], float("inf")
    for low, word in words:
        if heat.max() >= low and heat.min() < above:
            region = mosaic.whole_rim() if above == float("inf") or heat.max() < above else mosaic.colder(heat, above)
            rings.append((word, region))
        above = low
    return tuple(ring for ring in rings if ring[1])


def section_face(
    section: SectionOut, cut_id: str, flesh: Flesh, is_round: bool, moments_s: FloatArray,
    words: Sequence[tuple[float, str]],
) -> CutFace:  # fmt: skip
    """Draw the face at each of the moments. `flesh`: of the core's section, whose bands are told; `words`: lowest heat
    and word of each, hottest first.
    """
    mosaic = _Mosaic(section, is_round)
    rows = np.clip(np.searchsorted(section.t_s, moments_s + 1e-6, side="right") - 1, 0, len(section.t_s) - 1)
    hottest, red = np.array(section.hottest_c)[rows], np.array(section.pigment)[rows]
    shape = mosaic.x.shape
    shades = _between_nodes(colours(cut_id, hottest, red, browns=True), (shape[0], shape[1]))
    bands = bands_of(not is_round, flesh, words)
    last = hottest[-1].reshape(shape)
    return CutFace(
        width=mosaic.width, height=mosaic.height, mm_px=mosaic.mm_px, flat=False, outline=mosaic.rim(),
        levels=tuple(mosaic.cells()), top=tuple(bytes(shade).hex() for shade in shades[-1]), under=(),
        fat="", inside=mosaic.bone(section.bone), inside_kind="bone" if any(section.bone) else "", fibres="",
        rings=_rings(mosaic, last, words),
        bands=bands[-1], frames=tuple(frame.tobytes().hex() for frame in shades),
        band_frames=tuple(tuple((band.word, round(band.mm, 1)) for band in told) for told in bands),
    )  # fmt: skip
