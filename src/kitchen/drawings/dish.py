"""A dish of custard in its tray of water: geometry only."""

from __future__ import annotations

from dataclasses import dataclass

from .egg_pot import waves

WIDTH, HEIGHT = 320.0, 140.0
FLOOR, MOST_DEEP = 120.0, 86.0


@dataclass(frozen=True)
class DishDrawing:
    """Paths in px, top left at 0 0. `runs` is empty if nothing is runny."""

    width: float
    height: float
    custard: str
    runs: str
    wall: str
    water: str
    surface: str
    tray: str
    level_words: str


def custard_dish(diameter_mm: float, depth_mm: float, level: float, runs_share: float) -> DishDrawing:
    """A dish to scale; `level`: share of its depth the water reaches; `runs_share`: runny share of its half-width."""
    scale = min(170.0 / diameter_mm, MOST_DEEP / depth_mm)
    half, deep = diameter_mm * scale / 2, depth_mm * scale
    x0, x1, top = WIDTH / 2 - half, WIDTH / 2 + half, FLOOR - deep
    rim = 8.0
    water_y = FLOOR - max(level, 0.02) * deep
    runs = ""
    if runs_share > 0.05:
        r = runs_share * half
        middle = FLOOR - deep / 2
        runs = f"M{WIDTH / 2 - r:.1f} {middle:.1f}a{r:.1f} {0.42 * deep * runs_share:.1f} 0 1 0 {2 * r:.1f} 0" + (
            f"a{r:.1f} {0.42 * deep * runs_share:.1f} 0 1 0 {-2 * r:.1f} 0Z"
        )
    return DishDrawing(
        WIDTH, HEIGHT, f"M{x0:.1f} {top:.1f}H{x1:.1f}V{FLOOR:.1f}H{x0:.1f}Z", runs,
        f"M{x0:.1f} {top - rim:.1f}V{FLOOR:.1f}H{x1:.1f}V{top - rim:.1f}",
        f"M10 {water_y:.1f}H{x0:.1f}V{FLOOR + 2:.1f}H{x1:.1f}V{water_y:.1f}H{WIDTH - 10:.0f}V{HEIGHT - 8:.0f}H10Z",
        waves(WIDTH - 22, water_y, 32.0, 2.5), f"M8 24V{HEIGHT - 6:.0f}H{WIDTH - 8:.0f}V24", f"{100 * level:.0f} %",
    )  # fmt: skip
