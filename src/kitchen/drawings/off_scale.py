"""An offset on a scale around zero, with the accepted range and a mark for each check."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

WIDTH_PX = 232.0
MARGIN_PX = 16.0
APART_PX = 26.0


@dataclass(frozen=True)
class OffMark:
    """One check: its place, the temperature it was made at, and whether it is outside the accepted range."""

    x: float
    label_x: float
    at_c: float
    off_k: float
    is_off: bool

    @property
    def width(self) -> float:
        """Width; wider outside the range, since colour alone would not show in grey."""
        return 10.0 if self.is_off else 6.0

    @property
    def left(self) -> float:
        """Its left edge."""
        return self.x - self.width / 2


@dataclass(frozen=True)
class OffScale:
    """Ticks as (px, K), the accepted range as (px, px wide), and the marks."""

    ticks: tuple[tuple[float, float], ...]
    let_pass: tuple[float, float]
    marks: tuple[OffMark, ...]


def off_scale(checks: Sequence[tuple[float, float]], wide_k: float, let_pass_k: float) -> OffScale:
    """A scale from -`wide_k` to `wide_k` of checks (at °C, offset K); marks beyond it are drawn at its end."""

    def at(kelvin: float) -> float:
        held = min(max(kelvin, -wide_k), wide_k)
        return MARGIN_PX + (held + wide_k) / (2 * wide_k) * (WIDTH_PX - 2 * MARGIN_PX)

    marks: list[OffMark] = []
    for at_c, off_k in sorted(checks, key=lambda check: check[1]):
        x = at(off_k)
        label = max(x, marks[-1].label_x + APART_PX) if marks else x
        marks.append(OffMark(x, label, at_c, off_k, abs(off_k) > let_pass_k + 1e-9))
    ticks = tuple((at(share * wide_k), share * wide_k) for share in (-1.0, -0.5, 0.0, 0.5, 1.0))
    return OffScale(ticks, (at(-let_pass_k), at(let_pass_k) - at(-let_pass_k)), tuple(marks))
