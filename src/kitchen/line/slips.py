"""Taps so far from their time that they may be a slip of the finger."""

from __future__ import annotations

SHARE, LEAST_S = 0.25, 1800.0


def slip_s(early_s: float, stage_s: float) -> float | None:
    """How early a tap would be, s, where that is more than a quarter of its stage or half an hour; else None."""
    return early_s if early_s > min(SHARE * stage_s, LEAST_S) else None
