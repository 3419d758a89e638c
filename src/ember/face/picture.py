"""A photograph from a file: decoded within limits, upright, without what it says of place and device."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput

Picture = NDArray[np.uint8]

MOST_BYTES = 20_000_000
MOST_PIXELS = 60_000_000
LEAST_SIDE = 200
KEPT_SIDE = 4000  # the longer side of what is kept, px
QUALITY = 90
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")


@dataclass(frozen=True)
class Decoded:
    """A photograph `[row, column, 3]`, sRGB, and as it is kept: JPEG without any metadata."""

    rgb: Picture
    jpeg: bytes


def decoded(data: bytes) -> Decoded:
    """The photograph in a file: JPEG, PNG, WebP or HEIC, upright.

    Raises BadInput, with the reason in words, for what is no such picture, too large or too small.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError
    from pillow_heif import register_heif_opener

    if len(data) > MOST_BYTES:
        raise BadInput(f"This file is larger than {MOST_BYTES // 1_000_000} MB. Take the photograph smaller.", "photo")
    register_heif_opener()
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data), formats=FORMATS)
            if picture.width * picture.height > MOST_PIXELS:
                raise BadInput("This picture has too many pixels. Take the photograph smaller.", "photo")
            picture.draft("RGB", (KEPT_SIDE, KEPT_SIDE))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError, Warning):
        raise BadInput("This file is no photograph: use JPEG, PNG, WebP or HEIC.", "photo") from None
    if min(upright.size) < LEAST_SIDE:
        raise BadInput(f"This picture is too small: at least {LEAST_SIDE} pixels a side.", "photo")
    upright.thumbnail((KEPT_SIDE, KEPT_SIDE))
    bare = Image.fromarray(np.asarray(upright))
    kept = io.BytesIO()
    bare.save(kept, "JPEG", quality=QUALITY)
    return Decoded(np.asarray(bare), kept.getvalue())
