"""The pictures themselves: files by their digest beside the database, in a folder of each kitchen, in every backup."""

from __future__ import annotations

import hashlib
import os
import tempfile
import time
from io import BytesIO
from pathlib import Path

import numpy as np
from django.conf import settings
from django.db.models import Sum
from numpy.typing import NDArray

from kitchen.accounts.models import Kitchen

from .models import FacePhoto

ENDING = ".jpg"
CACHED = "private, max-age=31536000, immutable"  # a picture never changes
ORPHAN_S = 86_400.0  # a file whose row was never written
QUALITY = 85
THUMBNAIL_PX = 320


class QuotaError(Exception):
    """The pictures of a kitchen take as much room as they may, in words."""


def folder_of(kitchen_id: int) -> Path:
    """Where a kitchen's pictures are."""
    return Path(settings.PHOTOS) / str(kitchen_id)


def path_of(photo: FacePhoto) -> Path:
    """Where the picture of a photograph is, or was."""
    return folder_of(photo.kitchen_id) / f"{photo.sha256}{ENDING}"


def digest_of(data: bytes) -> str:
    """SHA-256 of a picture."""
    return hashlib.sha256(data).hexdigest()


def used_bytes(kitchen: Kitchen) -> int:
    """How much room a kitchen's pictures take."""
    total = FacePhoto.objects.of(kitchen).filter(removal=None).aggregate(sum=Sum("bytes"))
    return int(total["sum"] or 0)


def keep(kitchen: Kitchen, jpeg: bytes) -> str:
    """Write a picture to its place, whole or not at all; returns its digest. Raises QuotaError."""
    if used_bytes(kitchen) + len(jpeg) > settings.PHOTO_QUOTA_B:
        raise QuotaError(
            f"The photographs of this kitchen fill their {settings.PHOTO_QUOTA_B // 1_000_000:,} MB. "
            "A chef can remove some, or keep them for less long (Kitchen, Settings)."
        )
    digest = digest_of(jpeg)
    folder = folder_of(kitchen.pk)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    target = folder / f"{digest}{ENDING}"
    if target.exists():
        os.utime(target)  # it is wanted again
        return digest
    with tempfile.NamedTemporaryFile(dir=folder, delete=False) as file:
        file.write(jpeg)
        file.flush()
        os.fsync(file.fileno())
    Path(file.name).replace(target)
    return digest


def smaller(path: Path, longest_px: int) -> bytes:
    """A picture for the screen, its longer side at most `longest_px`."""
    from PIL import Image

    with Image.open(path) as picture:
        picture.draft("RGB", (longest_px, longest_px))
        picture.thumbnail((longest_px, longest_px))
        out = BytesIO()
        picture.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def thumbnail(kitchen: Kitchen, sha256: str) -> bytes:
    """A small picture for paper. Raises FileNotFoundError."""
    return smaller(folder_of(kitchen.pk) / f"{sha256}{ENDING}", THUMBNAIL_PX)


def encoded_jpeg(rgb: NDArray[np.uint8]) -> bytes:
    """A picture `[row, column, 3]`, sRGB, as JPEG."""
    from PIL import Image

    out = BytesIO()
    Image.fromarray(rgb).save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def faults_of(kitchen: Kitchen) -> list[str]:
    """Pictures that should be there and are not, or not as they were taken."""
    faults = []
    for photo in FacePhoto.objects.of(kitchen).filter(removal=None).select_related("cook").iterator(200):
        path = path_of(photo)
        name = photo.cook or photo
        if not path.is_file():
            faults.append(f"{name}: its photograph is missing")
        elif digest_of(path.read_bytes()) != photo.sha256:
            faults.append(f"{name}: its photograph is not the one that was taken")
    return faults


def sweep(kitchen: Kitchen) -> int:
    """Delete files that no row wants any more; returns how many."""
    wanted = set(FacePhoto.objects.of(kitchen).filter(removal=None).values_list("sha256", flat=True))
    gone = 0
    for path in folder_of(kitchen.pk).glob("*"):
        if path.stem not in wanted and time.time() - path.stat().st_mtime > ORPHAN_S:
            path.unlink()
            gone += 1
    return gone
