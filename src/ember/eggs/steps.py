"""The steps of an egg cook, second by second: order, times, and what to check."""

from __future__ import annotations

BETWEEN_DROPS_S = 25.0  # one poached egg after the other; common practice
CHECKS = {
    "poach": ["floats", "springs back", "wobbles"],
    "custard": ["edge set, middle trembles", "knife clean at the edge"],
    "sauce": ["ribbon falls and stays", "no grain on the spoon"],
    "stirred": ["a finger's line on the spoon stays"],
}


def eggs_named(count: int, kind: str) -> str:
    """ "the egg", "6 quail eggs"."""
    name = "egg" if kind == "hen" else f"{kind} egg"
    return f"the {name}" if count == 1 else f"{count} {name}s"
