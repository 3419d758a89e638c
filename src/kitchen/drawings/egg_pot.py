"""A pot with eggs in it, each as high as it is done; geometry only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

WIDTH, HEIGHT = 772.0, 268.0
SURFACE_Y, FLOOR_Y = 84.0, 246.0
EGG_RX, EGG_RY = 46.0, 33.0
RIM_Y = 50.0  # above it stand only eggs that wait
MOST = 6


@dataclass(frozen=True)
class PotEgg:
    """An egg in the pot: px of its middle, its outline, how closed its white is, the yolk's opacity."""

    number: int
    x: float
    y: float
    outline: str
    edge: str
    yolk: float
    where: str
    due_ms: int


@dataclass(frozen=True)
class Pot:
    """px; what is shown begins at `top`."""

    width: float
    height: float
    top: float
    surface: str
    eggs: tuple[PotEgg, ...]
    spoon_x: float | None


def waves(width: float, y: float, length: float = 48.0, high: float = 4.0) -> str:
    """A line of water."""
    half = length / 2
    n = int(width // half)
    return f"M6 {y:.1f}" + "".join(f"q{half / 2:.1f} {high if i % 2 else -high:.1f} {half:.1f} 0" for i in range(n))


def blob(x: float, y: float, ragged: float) -> str:
    """The outline of a white, from ragged (1) to closed (0)."""
    points = []
    for i in range(24):
        angle = 2 * math.pi * i / 24
        wave = 1.0 + 0.16 * ragged * math.sin(5 * angle + 0.7) + 0.08 * ragged * math.sin(9 * angle)
        points.append((x + EGG_RX * wave * math.cos(angle), y + EGG_RY * wave * math.sin(angle)))
    start = f"M{points[0][0]:.1f} {points[0][1]:.1f}"
    return start + "".join(f"L{px:.1f} {py:.1f}" for px, py in points[1:]) + "Z"


def egg_pot(eggs: Sequence[tuple[int, str, float, int]]) -> Pot:
    """The pot; `eggs` are (number, place, share of its heating done, due in ms since 1970), the next to lift first.

    In the water an egg rises as it cooks; a waiting one stands on the rim, a finished one is not drawn.
    """
    shown = [egg for egg in eggs if egg[1] != "out"][:MOST]
    found = []
    gap = (WIDTH - 60.0) / max(len(shown), 1)
    for i, (number, where, share, due) in enumerate(shown):
        x = 30.0 + gap * (i + 0.5)
        y = (
            SURFACE_Y - 56.0
            if where == "waits"
            else FLOOR_Y - EGG_RY - 14 - share * (FLOOR_Y - SURFACE_Y - EGG_RY - 22)
        )
        ragged = 1.0 if where == "waits" else max(1.0 - 2.0 * share, 0.0)
        edge = "closed" if ragged == 0.0 else "closing" if ragged < 0.5 else "open"
        found.append(PotEgg(number, x, y, blob(x, y, ragged), edge, 1.0 - 0.62 * share, where, due))
    spoon = next((egg.x for egg in found if egg.where == "in"), None)
    top = 0.0 if any(egg.where == "waits" for egg in found) else RIM_Y
    return Pot(WIDTH, HEIGHT - top, top, waves(WIDTH - 12, SURFACE_Y), tuple(found), spoon)
