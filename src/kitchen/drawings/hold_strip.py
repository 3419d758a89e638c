"""A hot hold as a strip of time: its doneness, and where the rule's time limit ends it."""

from __future__ import annotations

from dataclasses import dataclass

from ember.files.result import HoldOut

WIDTH_PX, HEIGHT_PX = 236.0, 26.0
LETTER_PX = 7.6
TICK_MINUTES = (5, 10, 15, 30, 60, 120, 240, 480, 1440, 2880)
MOST_TICKS = 4


@dataclass(frozen=True)
class HoldSpan:
    """A span of one word; `word` is empty if it does not fit. `late`: not the first word."""

    x: float
    width: float
    word: str
    late: bool


@dataclass(frozen=True)
class HoldStrip:
    """Geometry for the template, px. `clock_x`: the end of time as a control, None if outside."""

    stage: int
    spans: tuple[HoldSpan, ...]
    ticks: tuple[tuple[float, int], ...]
    clock_x: float | None

    @property
    def clock_width(self) -> float:
        """Width of the strip past the time limit, px."""
        return 0.0 if self.clock_x is None else WIDTH_PX - self.clock_x


def hold_strip(hold: HoldOut) -> HoldStrip:
    """The strip of one hold."""

    def at(minutes: float) -> float:
        return WIDTH_PX * minutes / hold.minutes

    starts = [(0.0, hold.points[0].word)]
    for before, point in zip(hold.points, hold.points[1:], strict=False):
        if point.word != starts[-1][1]:
            first = len(starts) == 1 and hold.stays_min is not None
            starts.append((hold.stays_min if first and hold.stays_min else before.minutes, point.word))
    ends = [minutes for minutes, _ in starts[1:]] + [hold.minutes]
    spans = tuple(
        HoldSpan(at(a), at(b) - at(a), word if LETTER_PX * len(word) < at(b) - at(a) else "", i > 0)
        for i, ((a, word), b) in enumerate(zip(starts, ends, strict=True))
    )
    step = next((m for m in TICK_MINUTES if hold.minutes / m <= MOST_TICKS), TICK_MINUTES[-1])
    ticks = tuple((at(m), m) for m in range(step, int(hold.minutes) + 1, step))
    over = hold.clock_min is not None and hold.clock_min < hold.minutes
    return HoldStrip(hold.stage, spans, ticks, at(hold.clock_min) if over and hold.clock_min is not None else None)
