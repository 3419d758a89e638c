"""The piece in its own proportions, with its measures as handles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from .axis import FloatArray, path

Kind = Literal["slab", "cylinder", "sphere", "bird", "outline"]

WIDE_PX, HIGH_PX = 116.0, 84.0  # leaves room for the upright measure's word
LEFT_PX, TOP_PX = 6.0, 8.0
TILT = 0.42  # how round a flat piece's top looks from where the cook stands
BIRD_HIGH = 0.62  # of a bird's length
LEAST_PX = 7.0  # what is thinner cannot be seen


@dataclass(frozen=True)
class PieceDrawing:
    """Geometry for the template, px. `mm_px`: px a millimetre; `tall`, `across`: where the two measures stand."""

    kind: Kind
    mm_px: float
    body: str
    top: str
    marks: str
    tall: tuple[float, float, float]
    across: tuple[float, float, float]
    bird: tuple[float, float] | None = None
    thin: tuple[float, float, float] | None = None  # the thin end's measure, of an outline that has one
    bone: tuple[float, float] | None = None  # where the bone's edge meets the upper face, of an outline that has one
    usual: str = ""  # how sure an outline is that nobody measured
    corner: tuple[float, float] | None = None  # where an end's upper corner is, of an outline whose ends can be round
    pan: str = ""  # what it lies on

    @property
    def tall_word_y(self) -> float:
        """Base line of the upright measure's word."""
        return (self.tall[1] + self.tall[2]) / 2 + 5 - (13 if self.tall[2] - self.tall[1] < 44 else 0)

    @property
    def across_word_x(self) -> float:
        """Middle of the level measure's word."""
        return (self.across[0] + self.across[1]) / 2

    @property
    def across_px(self) -> float:
        """Length of the level measure, px."""
        return self.across[1] - self.across[0]

    @property
    def across_mm(self) -> float:
        """What the level measure spans, mm."""
        return self.across_px / self.mm_px

    @property
    def mass_power(self) -> int:
        """Exponent of mass by that span: 2 for a flat piece, 1 for a roll, 3 otherwise."""
        return {"slab": 2, "cylinder": 1}.get(self.kind, 3)

    @property
    def height(self) -> float:
        """The whole drawing with its lower measure."""
        return self.across[2] + 22.0


THIN_ROOM_PX, ROW_PX, DEEP_PX = 30.0, 108.0, 78.0


def outline_drawing(
    x_mm: FloatArray, half_mm: FloatArray, is_round: bool, thin_mm: float | None, bone_mm: float = 0.0,
    drapes: bool = True,
) -> PieceDrawing:  # fmt: skip
    """Draw a piece along its row, thick end on the right: `half_mm`, half the thickness at places along it. One that
    drapes lies on all of its underside, a stiff one on its lowest place, a round one about its axis.
    """
    long, thick = float(x_mm[-1] - x_mm[0]), 2.0 * float(half_mm.max())
    scale = min(ROW_PX / long, DEEP_PX / thick)
    right = THIN_ROOM_PX + long * scale
    x = right - (x_mm - x_mm[0]) * scale  # the row begins at its thick end
    foot = TOP_PX + thick * scale
    middle = TOP_PX + thick * scale / 2
    level = drapes and not is_round
    top = foot - 2.0 * half_mm * scale if level else middle - half_mm * scale
    under = 0.0 * x + foot if level else middle + half_mm * scale
    body = path(np.concatenate([x, x[::-1]]), np.concatenate([top, under[::-1]])) + "Z"
    marks = f"M{right - bone_mm * scale:.1f} {TOP_PX:.1f}V{foot:.1f}" if bone_mm else ""
    bone = (right - bone_mm * scale, TOP_PX) if bone_mm else None
    thin = None
    if thin_mm is not None:
        thin = (THIN_ROOM_PX - 12.0, float(top[-1]), float(under[-1]))
    return PieceDrawing(
        "outline", scale, body, "", marks, (right + 14, TOP_PX, foot), (THIN_ROOM_PX, right, foot + 12), thin=thin,
        bone=bone, corner=(right, TOP_PX),
        pan=f"M{THIN_ROOM_PX - 4:.1f} {foot + 1.5:.1f}H{right + 4:.1f}",
    )  # fmt: skip


@dataclass(frozen=True)
class PlanView:
    """A piece from above, px: its rim, and the measures of its width (upright) and length (level); one of them where
    they are the same.
    """

    mm_px: float
    body: str
    upright: tuple[float, float, float] | None
    level: tuple[float, float, float]

    @property
    def height(self) -> float:
        """The whole drawing with its lower measure."""
        return self.level[2] + 22.0

    @property
    def long_mm(self) -> float:
        """What the level measure spans, mm."""
        return (self.level[1] - self.level[0]) / self.mm_px

    @property
    def wide_mm(self) -> float:
        """What the upright measure spans, mm."""
        return (self.upright[2] - self.upright[1]) / self.mm_px if self.upright else self.long_mm


PLAN_WIDE_PX, PLAN_HIGH_PX = 108.0, 64.0


def plan_view(wide_mm: float, long_mm: float, form: Literal["box", "oval", "tip", "disc"]) -> PlanView:
    """Draw a flat piece from above, its length across the page: square, domed, with a tip on the left, or a disc."""
    scale = min(PLAN_WIDE_PX / long_mm, PLAN_HIGH_PX / wide_mm)
    wide, long = wide_mm * scale, long_mm * scale
    left, right, top, foot = THIN_ROOM_PX, THIN_ROOM_PX + long, 6.0, 6.0 + wide
    middle, r = 6.0 + wide / 2, min(wide, long) / 8
    match form:
        case "oval" | "disc":
            body = f"M{left:.1f} {middle:.1f}a{long / 2:.1f} {wide / 2:.1f} 0 1 1 {long:.1f} 0"
            body += f"a{long / 2:.1f} {wide / 2:.1f} 0 1 1 {-long:.1f} 0Z"
        case "tip":
            body = f"M{right - r:.1f} {top:.1f}q{r:.1f} 0 {r:.1f} {r:.1f}V{foot - r:.1f}q0 {r:.1f} {-r:.1f} {r:.1f}"
            body += f"C{left + long / 2:.1f} {foot:.1f} {left:.1f} {middle + wide / 4:.1f} {left:.1f} {middle:.1f}"
            body += f"S{left + long / 2:.1f} {top:.1f} {right - r:.1f} {top:.1f}Z"
        case "box":
            body = f"M{left + r:.1f} {top:.1f}H{right - r:.1f}q{r:.1f} 0 {r:.1f} {r:.1f}V{foot - r:.1f}"
            body += f"q0 {r:.1f} {-r:.1f} {r:.1f}H{left + r:.1f}q{-r:.1f} 0 {-r:.1f} {-r:.1f}V{top + r:.1f}"
            body += f"q0 {-r:.1f} {r:.1f} {-r:.1f}Z"
    upright = None if form == "disc" else (right + 14, top, foot)
    return PlanView(scale, body, upright, (left, right, foot + 10))


def piece_drawing(kind: Kind, size_mm: float, wide_mm: float, long_mm: float) -> PieceDrawing:
    """Draw a piece of this size (thickness or diameter), width and length."""
    match kind:
        case "slab":
            return _slab(size_mm, max(wide_mm, long_mm))
        case "cylinder":
            return _cylinder(size_mm, long_mm)
        case "sphere":
            return _ball(size_mm)
        case "bird":
            return _bird(size_mm)
        case "outline":
            raise ValueError("an outline is drawn from its points")


def _slab(thick_mm: float, wide_mm: float) -> PieceDrawing:
    scale = min(WIDE_PX / wide_mm, HIGH_PX / (thick_mm + TILT * wide_mm))
    rx, thick = wide_mm * scale / 2, max(thick_mm * scale, LEAST_PX)
    ry, cx = rx * TILT, LEFT_PX + wide_mm * scale / 2
    y = TOP_PX + ry
    body = f"M{cx - rx:.1f} {y:.1f}v{thick:.1f}a{rx:.1f} {ry:.1f} 0 0 0 {2 * rx:.1f} 0v{-thick:.1f}"
    top = f"M{cx - rx:.1f} {y:.1f}a{rx:.1f} {ry:.1f} 0 0 1 {2 * rx:.1f} 0a{rx:.1f} {ry:.1f} 0 0 1 {-2 * rx:.1f} 0Z"
    marks = "".join(
        f"M{cx + d * rx:.1f} {y - 0.35 * ry:.1f}l{0.34 * rx:.1f} {0.4 * ry:.1f}" for d in (-0.55, -0.2, 0.15)
    )
    return PieceDrawing(
        "slab", scale, body, top, marks, (cx + rx + 14, y, y + thick), (cx - rx, cx + rx, y + thick + ry + 9)
    )


def _cylinder(across_mm: float, long_mm: float) -> PieceDrawing:
    scale = min(WIDE_PX / (long_mm + 0.25 * across_mm), HIGH_PX / across_mm)
    r, long = max(across_mm * scale, LEAST_PX) / 2, long_mm * scale
    flat = 0.5 * r
    x, y = LEFT_PX + flat, TOP_PX + r
    body = f"M{x:.1f} {y - r:.1f}h{long - flat:.1f}a{flat:.1f} {r:.1f} 0 0 1 0 {2 * r:.1f}h{flat - long:.1f}"
    top = (
        f"M{x - flat:.1f} {y:.1f}a{flat:.1f} {r:.1f} 0 1 0 {2 * flat:.1f} 0a{flat:.1f} {r:.1f} 0 1 0 {-2 * flat:.1f} 0Z"
    )
    marks = f"M{x + 0.3 * long:.1f} {y - 0.62 * r:.1f}h{0.4 * long:.1f}"
    marks += f"M{x + 0.2 * long:.1f} {y + 0.66 * r:.1f}h{0.5 * long:.1f}"
    right = x + long
    return PieceDrawing("cylinder", scale, body, top, marks, (right + 14, y - r, y + r), (x - flat, right, y + r + 9))


def _ball(across_mm: float) -> PieceDrawing:
    scale = HIGH_PX / across_mm
    r = HIGH_PX / 2
    cx, cy = LEFT_PX + WIDE_PX / 2, TOP_PX + r
    top = f"M{cx - r:.1f} {cy:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0Z"
    marks = f"M{cx - 0.8 * r:.1f} {cy - 0.3 * r:.1f}a{r:.1f} {0.36 * r:.1f} 0 0 0 {1.6 * r:.1f} 0"
    return PieceDrawing("sphere", scale, "", top, marks, (cx + r + 14, cy - r, cy + r), (cx - r, cx + r, cy + r + 9))


def _bird(breast_mm: float) -> PieceDrawing:
    high = WIDE_PX * BIRD_HIGH
    scale = high / (2.0 * breast_mm)  # the breast is about half of what stands in the oven
    y, right = TOP_PX, LEFT_PX + WIDE_PX
    return PieceDrawing(
        "bird", scale, "", "", "", (right + 12, y, y + high), (LEFT_PX, right, y + high + 9),
        (WIDE_PX / 134.0, high / 84.0),
    )  # fmt: skip
