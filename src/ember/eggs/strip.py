"""Results by the minute for this egg, water and altitude: cut eggs in a row, and the range of each word."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import EmberError
from ..files.egg import BoilRequest, PoachRequest, Timed
from ..files.egg_result import EggFace
from ..heat.grid import FloatArray
from ..kinetics.egg_gels import ALL_SET, CHALKY_S, YOLK
from .heating import Heat, egg_in, heat_of
from .shell_answer import face_of
from .solve import minutes_for_set
from .state import EggState

EGGS_SHOWN = 9
GENTLE_C = 80.0  # below it a yolk hardly comes to chalky: the row ends where it is fudgy
FUDGY_SET = 0.6  # nobody poaches further
SCAN = 28  # states along the axis, between which a word changes where its set fraction passes
INSIDE_WORDS = ((0.0, "milky inside"), (0.1, "tender"), (0.5, "set"), (0.9, "firm"))


@dataclass(frozen=True)
class CutEgg:
    """One egg of the row."""

    minutes: float
    face: EggFace
    yolk: str
    white: str
    inside: str
    green: bool


@dataclass(frozen=True)
class WordSpan:
    """The range of minutes in which a word holds."""

    word: str
    from_min: float
    to_min: float


@dataclass(frozen=True)
class Strip:
    """A row of cut eggs on an axis of minutes, with the words of white and yolk along it."""

    low_min: float
    high_min: float
    eggs: tuple[CutEgg, ...]
    white: tuple[WordSpan, ...]
    yolk: tuple[WordSpan, ...]
    green_from: float | None


def white_inside_word(fraction: float) -> str:
    """The white next to the yolk, as seen on the cut face."""
    return next(word for low, word in reversed(INSIDE_WORDS) if fraction >= low)


def _nice(step: float) -> float:
    """The next larger round step: quarters, halves, whole minutes, fives, tens."""
    return next(
        (nice for nice in (0.25, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 5.0, 10.0, 15.0, 30.0, 60.0) if step <= nice), 120.0
    )


def axis_of(heat: Heat, most_set: float = 0.995) -> tuple[float, float, float]:
    """From, to and step of the row, minutes: from a white that holds to a yolk set to `most_set`, or chalky."""
    longest = heat.longest_min
    gentle = float(heat.course.water_c[-1]) < GENTLE_C
    begins = _first(heat, lambda s: s.white_set >= (0.1 if gentle else 0.5), longest)
    ends = _first(heat, lambda s: s.yolk == "chalky" or s.yolk_set > (FUDGY_SET if gentle else most_set), longest)
    if ends - begins < 1e-6:
        begins = 0.3 * ends
    step = _nice((ends - begins) / (EGGS_SHOWN - 1))
    low = max(round(begins / step) * step, step)
    return low, low + step * (EGGS_SHOWN - 1), step


def _first(heat: Heat, holds: Callable[[EggState], bool], longest: float) -> float:
    low, high = 0.05, longest
    while high - low > 0.02 * max(low, 0.5):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if holds(heat.after(middle)) else (middle, high)
    return high


def strip_of(request: Timed) -> Strip:
    """The row of a request, whatever its minutes or target."""
    heat = heat_of(request)
    low, high, step = axis_of(heat, FUDGY_SET if isinstance(request, PoachRequest) else 0.995)
    if high > heat.longest_min:
        heat = heat_of(request, high + step)
    at = [low + i * step for i in range(EGGS_SHOWN)]
    eggs = tuple(_cut(m, heat.after(m)) for m in at)
    minutes = np.linspace(max(low - 0.5 * step, 0.05), high + 0.5 * step, SCAN)
    states = [heat.after(float(m)) for m in minutes]
    yolk = np.array([s.yolk_set for s in states])
    inside = np.array([s.white_inside_set for s in states])
    chalk = np.minimum(yolk / ALL_SET, [s.chalky_s / CHALKY_S for s in states])
    edges = [(level, word, yolk) for level, word in YOLK.words] + [(1.0, "chalky", chalk)]
    return Strip(
        float(minutes[0]), float(minutes[-1]), eggs,
        _spans(minutes, [(level, word, inside) for level, word in INSIDE_WORDS]), _spans(minutes, edges),
        _passes(minutes, np.array([s.green for s in states]), 1.0),
    )  # fmt: skip


def _passes(minutes: FloatArray, values: FloatArray, level: float) -> float | None:
    """When an increasing measure passes a level, linear between two states; None if it does not."""
    over = np.flatnonzero(values >= level)
    if not len(over):
        return None
    i = int(over[0])
    if i == 0:
        return float(minutes[0])
    share = (level - values[i - 1]) / (values[i] - values[i - 1])
    return float(minutes[i - 1] + share * (minutes[i] - minutes[i - 1]))


def _spans(minutes: FloatArray, edges: Sequence[tuple[float, str, FloatArray]]) -> tuple[WordSpan, ...]:
    """Range of each word: each begins where its measure passes its level."""
    spans: list[WordSpan] = []
    for level, word, values in edges:
        begins = float(minutes[0]) if level <= 0.0 else _passes(minutes, values, level)
        if begins is None:
            continue
        if spans:
            spans[-1] = replace(spans[-1], to_min=begins)
        spans.append(WordSpan(word, begins, float(minutes[-1])))
    return tuple(span for span in spans if span.to_min > span.from_min)


def _cut(minutes: float, state: EggState) -> CutEgg:
    return CutEgg(
        minutes, face_of(state), state.yolk, state.white, white_inside_word(state.white_inside_set), state.green >= 1.0
    )


@dataclass(frozen=True)
class Move:
    """The effect of another condition on the minutes for the same yolk: the minutes, and the difference, s."""

    what: str
    minutes: float | None
    by_s: float | None
    note: str = ""


def moves_of(request: Timed, minutes: float) -> list[Move]:
    """Conditions that change the minutes for the same yolk: start, mass, number, start of the pot, no ice."""
    heat = heat_of(request, max(1.2 * minutes, 1.0))
    wanted = heat.after(minutes).yolk_set
    egg = egg_in(request)
    off = 3.0 if egg.kind.id == "hen" else round(0.05 * egg.mass_g, 1 if egg.mass_g < 30 else 0)
    changes: list[tuple[str, dict[str, object]]] = []
    other_start = 20.0 if egg.start_c < 12 else 4.0
    changes.append((f"Egg at {other_start:.0f} °C", {"egg": _egg(request, start_c=other_start)}))
    for sign in (-1, 1):
        mass = min(max(egg.mass_g + sign * off, egg.kind.mass_g[0]), egg.kind.mass_g[1])
        changes.append((f"{mass:.0f} g egg", {"egg": _egg(request, mass_g=mass)}))
    if isinstance(request, BoilRequest):
        twice = 12 if request.count < 9 else 2 * request.count
        changes.append((f"{twice} in the pot", {"count": twice}))
        if request.start == "hot":
            changes.append(("Cold start", {"start": "cold"}))
        else:
            changes.append(("Into boiling water", {"start": "hot"}))
    if request.method != "circulator":
        changes.append(("1000 m higher", {"altitude_m": request.altitude_m + 1000.0}))
    into = "open" if request.then.kind == "ice_bath" else "ice_bath"
    then = request.then.model_copy(update={"kind": into, "minutes": None})
    changes.append(("Opened at once" if into == "open" else "Into ice", {"then": then}))
    return [_move(what, request.model_copy(update=change), wanted, minutes) for what, change in changes]


def _egg(request: Timed, **change: float) -> object:
    egg = egg_in(request)
    defaults = {"mass_g": egg.mass_g, "start_c": egg.start_c, "size": None, "girth_mm": None}
    return request.egg.model_copy(update=defaults | change)


def _move(what: str, request: Timed, wanted: float, minutes: float) -> Move:
    if request.water_c is not None and request.water_c > request.boiling_c:
        request = request.model_copy(update={"water_c": None})
    try:
        heat = heat_of(request, 2.0 * minutes + 2.0)
    except EmberError:
        return Move(what, None, None, "not on this burner")
    minutes_wanted = minutes_for_set(heat, wanted, minutes)
    if minutes_wanted >= heat.longest_min - 1e-6:
        return Move(what, None, None, "not in this water")
    note = f"from the boil, at {int(heat.begins_s // 60)}:{int(heat.begins_s % 60):02d}" if heat.begins_s else ""
    return Move(what, minutes_wanted, 60.0 * (minutes_wanted - minutes), note)


def left_whole_min(request: Timed, minutes: float) -> float | None:
    """Minutes for the same yolk if the eggs are left whole in air; None if no time gives it."""
    wanted = heat_of(request, max(1.2 * minutes, 1.0)).after(minutes).yolk_set
    then = request.then.model_copy(update={"kind": "air", "minutes": None})
    move = _move("", request.model_copy(update={"then": then}), wanted, minutes)
    return move.minutes
