"""The face of a photograph laid upright and in even white light, to be looked at beside another."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .frame import Frame
from .light import light_at
from .picture import Picture
from .profile import sampled

WIDE_SHARE = 1.1  # of the thickness
MOST_PX = 640  # of the thickness as drawn
MARGIN_SHARE = 0.06  # of the thickness, above and below


def upright(picture: Picture, frame: Frame) -> NDArray[np.uint8]:
    """The face `[row, column, 3]`, sRGB, its top above: WIDE_SHARE of its thickness wide, with a margin above and below
    that shows where it ends.
    """
    from skimage.color import lab2rgb

    step = max(frame.mm / MOST_PX, 1.0 / frame.px_mm)
    depth = np.arange(-MARGIN_SHARE * frame.mm, (1 + MARGIN_SHARE) * frame.mm, step)
    aside = np.arange(-WIDE_SHARE * frame.mm / 2, WIDE_SHARE * frame.mm / 2, step)
    columns, rows = frame.at(depth, aside[::-1])  # the right of the picture stays right
    rgb = sampled(picture, replace(frame, width_mm=WIDE_SHARE * frame.mm), columns, rows)
    lab = light_at(picture, frame.white).balanced(rgb, (columns, rows))
    return np.asarray(np.rint(255.0 * np.clip(lab2rgb(lab), 0.0, 1.0)), dtype=np.uint8)
