"""Minutes of heating for a target: a temperature at the yolk's edge, or words of yolk and white."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..errors import NeverReached
from ..files.egg import EggTarget
from ..heat.numerics import bracketed_root
from ..kinetics.egg_gels import ALL_SET, WHITE, YOLK
from .heating import Heat

SHORTEST_MIN = 0.1
WITHIN_MIN = 1.0 / 240.0
RUNNY_AIM = 0.03
NEARLY = (0.7, 1.35)
WITHIN_DOSE = 0.005  # of the dose: half a per cent
CHALKY = "chalky"


def minutes_for(heat: Heat, target: EggTarget) -> float:
    """Minutes of heating for the target.

    Raises NeverReached if no time gives it, with how far it gets or which words exclude each other.
    """
    if target.yolk_c is not None:
        return _for_edge(heat, target.yolk_c)
    if target.white is None and target.yolk is not None and target.yolk != CHALKY:
        return _for_word(heat, target.yolk)
    yolk = _span(heat, target.yolk, lambda m: heat.after(m).yolk_set, "yolk") if target.yolk else None
    white = _span(heat, target.white, lambda m: heat.after(m).white_set, "white") if target.white else None
    if yolk is None or white is None:
        low, high = yolk or white or (SHORTEST_MIN, heat.longest_min)
        return low if target.yolk is not None else 0.5 * (low + high)
    low, high = max(yolk[0], white[0]), min(yolk[1], white[1])
    if low > high:
        later = white if white[0] > yolk[1] else yolk
        here = heat.after(yolk[1] if later is white else yolk[0])
        raise NeverReached(
            f"No time gives a {target.yolk} yolk in a {target.white} white here: with the yolk {target.yolk} the white "
            f"is {here.white}. Change the water temperature or the start to move them apart.", "target.white",
            float("nan"),
        )  # fmt: skip
    return 0.5 * (low + high)


def _for_edge(heat: Heat, celsius: float) -> float:
    longest = heat.longest_min
    if heat.edge_c(longest) < celsius:
        raise NeverReached(
            f"The edge of the yolk never comes to {celsius:g} °C here: it comes to {heat.edge_c(longest):.1f} °C.",
            "target.yolk_c", heat.edge_c(longest),
        )  # fmt: skip
    if heat.edge_c(SHORTEST_MIN) >= celsius:
        return SHORTEST_MIN
    return bracketed_root(lambda m: heat.edge_c(m) - celsius, SHORTEST_MIN, longest, 0.01, WITHIN_MIN)


def _for_word(heat: Heat, word: str) -> float:
    """The middle of a yolk word's set fractions; for a runny one, where its white is as set as possible."""
    least, most = YOLK.range_of(word)
    if heat.after(heat.longest_min).yolk_set < least:
        raise _never(heat, "yolk", word, heat.longest_min)
    aim = RUNNY_AIM if word == "runny" else 0.5 * (least + (most if word != "set" else ALL_SET))
    return minutes_for_set(heat, aim)


def _dose(fraction: float) -> float:
    """Logarithm of the dose for a set fraction, which is nearly linear in minutes."""
    return math.log(-math.log1p(-min(max(fraction, 1e-12), 1.0 - 1e-12)))


def minutes_for_set(heat: Heat, fraction: float, near: float | None = None) -> float:
    """Minutes to a set fraction of the yolk; the nearer end of the range if it is never reached. `near`: a guess."""
    low, high = SHORTEST_MIN, heat.longest_min

    wanted = _dose(fraction)

    def over(minutes: float) -> float:
        return _dose(heat.after(minutes).yolk_set) - wanted

    if near is not None:  # look around it first: most of the way is known
        a, b = max(low, NEARLY[0] * near), min(high, NEARLY[1] * near)
        if over(a) < 0 < over(b):
            return bracketed_root(over, a, b, WITHIN_DOSE, WITHIN_MIN)
    if over(low) >= 0:
        return low
    if over(high) <= 0:
        return high
    return bracketed_root(over, low, high, WITHIN_DOSE, WITHIN_MIN)


def _first(f: Callable[[float], float], level: float, longest: float) -> float:
    """The first minutes at which an increasing measure passes a level; `longest` if it never does."""
    low, high = SHORTEST_MIN, longest
    if f(low) >= level:
        return low
    if f(high) < level:
        return high
    while high - low > WITHIN_MIN:
        middle = 0.5 * (low + high)
        low, high = (low, middle) if f(middle) >= level else (middle, high)
    return high


def _span(heat: Heat, word: str | None, measure: Callable[[float], float], part: str) -> tuple[float, float]:
    """The range of minutes in which a word holds."""
    longest = heat.longest_min
    if part == "yolk":
        if word == CHALKY:
            first = _first(lambda m: float(heat.after(m).yolk == CHALKY), 1.0, longest)
            if heat.after(first).yolk != CHALKY:
                raise _never(heat, part, CHALKY, longest)
            return first, longest
        least, most = YOLK.range_of(str(word))
        most = ALL_SET if word == "set" else most
    else:
        least, most = WHITE.range_of(str(word))
        most = 2.0 if word == "firm" else most
    if measure(longest) < least:
        raise _never(heat, part, str(word), longest)
    low = _first(measure, least, longest)
    return low, max(_first(measure, most, longest) - WITHIN_MIN, low) if most <= 1.0 else longest


def _never(heat: Heat, part: str, word: str, longest: float) -> NeverReached:
    came = heat.after(longest)
    return NeverReached(
        f"The {part} never comes to {word} here: after {longest:.0f} min it is {getattr(came, part)}. "
        f"Use hotter water.",
        f"target.{part}", came.middle_peak[0],
    )  # fmt: skip
