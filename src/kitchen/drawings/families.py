"""Families of stages by their pattern: waves for water, dots for air, a bar for a pan, dashes for rest, stars for
chill.
"""

from __future__ import annotations

FAMILY = {
    "temper": "air", "bath": "water", "pan": "pan", "plancha": "pan", "grill": "pan", "torch": "pan", "oven": "oven",
    "fry": "oven", "steam": "water", "simmer": "water", "poach": "water", "boil": "water", "rest": "rest",
    "hold": "rest", "ice_bath": "chill", "chill": "chill", "reheat": "oven", "brine": "water", "medium": "air",
    "pressure": "water", "freeze": "chill", "thaw": "chill",
}  # fmt: skip


def family_of(kind: str) -> str:
    """The family of a kind of stage; places off the heat ("plate") count as rest."""
    return FAMILY.get(kind, "rest")


def pattern(kind: str, width: float) -> str:
    """The family's pattern as a path, fitted to the length of its block so that none is cut in half."""
    inner = width - 4
    match family_of(kind):
        case "water":
            waves = max(int(inner / 16), 1)
            step = inner / waves
            return "M2 6" + "".join(f"q{step / 4:.2f} -5 {step / 2:.2f} 0t{step / 2:.2f} 0" for _ in range(waves))
        case "rest":
            dashes = max(int((inner + 8) / 22), 1)
            step = (inner + 8) / dashes
            return "".join(f"M{2 + i * step:.1f} 6h{step - 8:.1f}" for i in range(dashes))
        case "pan":
            return f"M0 6h{width:.1f}"
        case "chill":
            stars = max(int(inner / 18), 1)
            places = [2 + (i + 0.5) * inner / stars for i in range(stars)]
            return "".join(f"M{x - 3.5:.1f} 6h7M{x - 1.8:.1f} 3l3.6 6M{x + 1.8:.1f} 3l-3.6 6" for x in places)
        case _:
            dots = max(int(inner / 12), 2)
            return "".join(f"M{2 + i * inner / dots + inner / dots / 2:.1f} 6h.01" for i in range(dots))
