"""Log files that grew large make room for new ones. Who writes to one notices by itself that it was renamed."""

from __future__ import annotations

from pathlib import Path

from .paths import LOCAL

LARGEST_BYTES = 10_000_000
KEPT = 5


def rotate_large(folder: Path = LOCAL, largest: int = LARGEST_BYTES) -> list[Path]:
    """Rename each log of more than `largest` bytes to .1, the older ones to .2 and so on; returns those renamed."""
    renamed = []
    for path in folder.glob("*.log"):
        if path.stat().st_size <= largest:
            continue
        for number in range(KEPT - 1, 0, -1):
            older = path.with_name(f"{path.name}.{number}")
            if older.exists():
                older.rename(path.with_name(f"{path.name}.{number + 1}"))
        path.rename(path.with_name(f"{path.name}.1"))
        renamed.append(path)
    return renamed
