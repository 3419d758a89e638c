"""A small picture as a data URI: the heat strip has thousands of cells, which as SVG would weigh ten times more."""

from __future__ import annotations

import base64
import struct
import zlib

import numpy as np
from numpy.typing import NDArray


def data_uri(pixels: NDArray[np.uint8]) -> str:
    """An 8-bit RGB PNG of `pixels[row, column, 3]`."""
    height, width, _ = pixels.shape
    raw = b"".join(b"\0" + pixels[line].tobytes() for line in range(height))

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    png = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(raw, 6)) + chunk(b"IEND", b"")
    return "data:image/png;base64," + base64.b64encode(png).decode()
