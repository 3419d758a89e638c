"""Colours of temperatures, with linen (49 to 60 °C) the lightest, and small pictures of them as data URIs."""

from __future__ import annotations

import base64
import struct
import zlib

import numpy as np
from numpy.typing import NDArray

STOPS_C = (0, 20, 38, 49, 55, 64, 80, 125)
STOPS_HEX = ("6E8CA1", "94AAB7", "BFC9C8", "E3DCCB", "F1E4CB", "EBC08D", "DC8A45", "BF4F14")
_RGB = np.array([[int(h[i : i + 2], 16) for i in (0, 2, 4)] for h in STOPS_HEX], dtype=float)


def rgb(celsius: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Colours [..., 3] of temperatures of any shape."""
    T = np.asarray(celsius, dtype=float)
    return np.stack([np.interp(T, STOPS_C, _RGB[:, i]) for i in range(3)], axis=-1).round().astype(np.uint8)


def hex_colour(celsius: float) -> str:
    """A colour for an SVG attribute."""
    r, g, b = rgb(np.array(celsius))
    return f"#{r:02x}{g:02x}{b:02x}"


def data_uri(pixels: NDArray[np.uint8]) -> str:
    """An 8-bit RGB PNG of `pixels[row, column, 3]`."""
    height, width, _ = pixels.shape
    raw = b"".join(b"\0" + pixels[line].tobytes() for line in range(height))

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    png = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(raw, 6)) + chunk(b"IEND", b"")
    return "data:image/png;base64," + base64.b64encode(png).decode()
