"""Simulated eggs: a scramble, a poach and a custard whose pan, water and eggs differ slightly from their description.
One decision: when to take it off, so that carryover lands on the word.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from ..eggs.heating import heat_of
from ..eggs.pan_answer import answer_scramble
from ..eggs.sauce_answer import answer_custard
from ..eggs.scramble import set_word
from ..errors import BadInput, NeverReached
from ..files.egg import CustardRequest, PoachRequest, ScrambleRequest, parse_egg
from ..files.egg_result import CustardAnswer
from .signs import sign

Kind = Literal["scramble", "poach", "custard"]
KINDS: tuple[Kind, ...] = ("scramble", "poach", "custard")
SHARES = {1: 0.4, 2: 1.0, 3: 1.8}  # how far the truth may be from what is told, by level
LONGEST_S = {"scramble": 420.0, "poach": 540.0, "custard": 5400.0}
A_DEGREE, A_WORD = 9.0, 30.0
POACH_YOLK, POACH_WHITE = ("runny", "syrupy"), ("set", "firm")
SCRAMBLE_WANTED_C = (71.0, 74.5)
EARLIER_S = {"scramble": 10.0, "poach": 30.0, "custard": 120.0}


@dataclass(frozen=True)
class EggDeal:
    """An egg drill: the description in words, and the true request."""

    kind: Kind
    level: int
    seed: int
    told: str
    wanted: str
    request: dict[str, object]


@dataclass(frozen=True)
class EggOutcome:
    """The result: its word, °C outside of the target, what taking it off earlier would have given, and the score of
    100.
    """

    word: str
    peak_c: float
    off_k: float
    earlier_s: float
    earlier_word: str
    score: int


def egg_deal(kind: str, level: int, seed: int) -> EggDeal:
    """A drill. The same kind, level and seed give the same one. Raises BadInput for an unknown kind or level."""
    if kind not in KINDS or level not in SHARES:
        raise BadInput(f"one of {', '.join(KINDS)}, levels 1 to {len(SHARES)}", "kind")
    random = np.random.default_rng([KINDS.index(kind), level, seed])
    share = SHARES[level]
    mass, start, heat = 58.0, 6.0, share * float(random.uniform(-1, 1))
    egg = {"kind": "hen", "mass_g": round(mass + share * float(random.uniform(-6, 6)), 1),
           "start_c": round(max(start + share * float(random.uniform(-3, 8)), 2.0), 1)}  # fmt: skip
    head: dict[str, object] = {"format": "open-ember/egg", "version": 1, "method": kind}
    if kind == "scramble":
        eggs = int(random.integers(3, 7))
        request = {**head, "eggs": eggs, "egg": egg, "school": "slow", "stop": "none",
                   "power_w": round(eggs * 95.0 * (1.0 + 0.3 * heat))}  # fmt: skip
        text = f"{eggs} eggs, a low flame, stirred all the time, on to a warm plate"
        return EggDeal("scramble", level, seed, text, "soft and glossy on the plate", request)
    if kind == "poach":
        request = {**head, "egg": egg, "count": 1, "water_c": round(88.0 + 4.0 * heat, 1), "minutes": 3.0,
                   "then": {"kind": "open"}}  # fmt: skip
        text = f"one egg of about {mass:.0f} g from the fridge, water that hardly moves"
        return EggDeal("poach", level, seed, text, "white set, yolk runny or like syrup", request)
    depth = round(34.0 + 6.0 * share * float(random.uniform(-1, 1)), 1)
    request = {**head, "custard": "cream", "ramekin_mm": [78.0, depth], "oven_c": round(178.0 + 18.0 * heat, 1),
               "start_c": round(40.0 + 6.0 * share * float(random.uniform(-1, 1)), 1), "after": "lifted"}  # fmt: skip
    text = "cream custards, 78 by 34 mm, 178 °C, hot water to two thirds, warm mix"
    return EggDeal("custard", level, seed, text, "set with a tremble, lifted out at once", request)


def _now_c(deal: EggDeal, at_s: float) -> float:
    """The temperature behind the signs: the eggs, the edge of the yolk, or the middle of the custard, °C."""
    request = parse_egg(deal.request)
    if isinstance(request, ScrambleRequest):
        return float(np.interp(at_s, *_stirred_on(json.dumps(deal.request))))
    if isinstance(request, PoachRequest):
        return heat_of(request, LONGEST_S["poach"] / 60.0 + 1.0).edge_c(at_s / 60.0)
    custard = _hottest(_custard(request))
    return float(np.interp(at_s, custard.t_s, custard.middle_c))


@lru_cache(maxsize=64)
def _stirred_on(request: str) -> tuple[list[float], list[float]]:
    """The eggs stirred without end: times and °C."""
    scramble = parse_egg(json.loads(request))
    if not isinstance(scramble, ScrambleRequest):
        raise BadInput("that is no scramble", "method")
    made = answer_scramble(_until(scramble, 89.0))
    return made.t_s, made.egg_c


def _custard(request: object) -> CustardRequest:
    if not isinstance(request, CustardRequest):
        raise BadInput("that is no custard", "method")
    return request


def _until(request: ScrambleRequest, off_c: float) -> ScrambleRequest:
    return request.model_copy(update={"off_c": off_c})


def _hottest(request: CustardRequest) -> CustardAnswer:
    """The custard left in as long as possible."""
    for want in (92.0, 88.0, 84.0, 80.0):
        try:
            return answer_custard(request.model_copy(update={"target_c": want}))
        except NeverReached:
            continue
    return answer_custard(request.model_copy(update={"target_c": 76.0}))


def egg_look(deal: EggDeal, at_s: float) -> str:
    """The signs at a moment."""
    if not 0.0 <= at_s <= LONGEST_S[deal.kind]:
        raise BadInput("that is longer than anybody waits", "at_s")
    names = {"scramble": "egg_scrambled", "poach": "egg_poached", "custard": "egg_custard"}
    return sign(names[deal.kind], _now_c(deal, at_s), 100 * deal.level + deal.seed, at_s)


def _made(deal: EggDeal, at_s: float) -> tuple[str, float, float, bool]:
    """Word, peak °C, K outside of the target, and whether it is the target word, if taken off then."""
    request = parse_egg(deal.request)
    if isinstance(request, ScrambleRequest):
        made = answer_scramble(_until(request, min(max(_now_c(deal, at_s), 55.0), 89.0)))
        low, high = SCRAMBLE_WANTED_C
        off = made.peak_c - low if made.peak_c < low else max(made.peak_c - high, 0.0)
        return set_word(made.peak_c), made.peak_c, off, off == 0.0
    if isinstance(request, PoachRequest):
        state = heat_of(request, LONGEST_S["poach"] / 60.0 + 1.0).after(at_s / 60.0)
        is_wanted = state.yolk in POACH_YOLK and state.white in POACH_WHITE
        return f"yolk {state.yolk}, white {state.white}", state.middle_peak[0], 0.0, is_wanted
    made_c = _custard_at(_custard(request), at_s)
    peak_c = round(made_c.peak_c, 1)
    off = peak_c - made_c.low_c if peak_c < made_c.low_c else max(peak_c - made_c.high_c, 0.0)
    word = "set" if off == 0.0 else "runs" if off < 0 else "too firm" if made_c.peak_c < made_c.curdles_c else "curdled"
    return word, made_c.peak_c, off, off == 0.0


def _custard_at(request: CustardRequest, at_s: float) -> CustardAnswer:
    """The custard pulled at a moment: the target whose own pull is then."""

    def late_s(want: float) -> float:
        return 60.0 * answer_custard(request.model_copy(update={"target_c": want})).minutes - at_s

    low, high = 60.5, _hottest(request).want_c
    if late_s(low) >= 0:
        return answer_custard(request.model_copy(update={"target_c": low}))
    if late_s(high) <= 0:
        return answer_custard(request.model_copy(update={"target_c": high}))
    want = float(brentq(late_s, low, high, xtol=0.05))
    return answer_custard(request.model_copy(update={"target_c": want}))


def egg_finish(deal: EggDeal, at_s: float) -> EggOutcome:
    """The result. Raises BadInput for an impossible time."""
    if not 1.0 <= at_s <= LONGEST_S[deal.kind]:
        raise BadInput("take it off first", "at_s")
    word, peak, off, is_wanted = _made(deal, at_s)
    earlier = min(EARLIER_S[deal.kind], 0.3 * at_s)
    before = _made(deal, at_s - earlier)[0]
    score = max(round(100.0 - A_DEGREE * abs(off) - (0.0 if is_wanted or off else A_WORD)), 0)
    return EggOutcome(word, round(peak, 1), round(off, 1), earlier, before, score)
