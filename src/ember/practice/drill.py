"""A simulated cook: piece, pan and oven differ slightly from their description. The trainee turns, bastes, moves and
pulls by the signs; the cut face and the curve show afterwards what happened.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from ..errors import BadInput
from ..evaluate import evaluate, scale_for, target_of
from ..files.plan import Plan, parse_plan
from ..files.result import Result
from ..food.catalogue import cut
from ..heat.simulate import simulate
from ..heat.trajectory import Trajectory
from ..judge.doneness import Word
from ..kinetics.browning import browning_index, browning_word
from .deal import Deal, Move
from .signs import PALE, sign

BASTES_S, PIN_S, LONGEST_S = 30.0, 6.0, 3 * 3600.0
EARLIER_S, EARLIER_SHARE = 120.0, 0.3
CRUST_PCT = 8.0  # what a pan and its crust cost over a gentle bath; fitted here to the model's own pan
# What a score loses: for each K outside of the wanted word, each % of juice more than needed, a face that is pale or
# charred, and a rule that is missed. Ours.
A_DEGREE, A_PERCENT, A_FACE, A_RULE = 9.0, 3.0, 8.0, 20.0


def _document(deal: Deal, mm: float, start_c: float, stages: list[dict[str, Any]]) -> dict[str, Any]:
    dish = deal.dish
    return {
        "format": "open-ember/plan", "version": 1, "name": dish.name, "stages": stages, "advisory": dish.advisory,
        "piece": {"cut": dish.cut, "shape": {"kind": "slab", "thickness_mm": round(mm, 2)}, "mass_g": dish.mass_g,
                  "start_c": round(start_c, 2)},
        "target": {"doneness": dish.word}, "depth_map": True,
    }  # fmt: skip


def _in_order(moves: Sequence[Move]) -> list[Move]:
    ordered = list(moves)
    for before, after in pairwise(ordered):
        if after.s < before.s:
            raise BadInput("what was done comes in its order", "moves")
        if before.kind == "cut":
            raise BadInput("it is cut already", "moves")
    return ordered


@dataclass
class _Piece:
    """The piece of a drill after its moves: place, face down, end of basting."""

    place: str = "pan"
    under: bool = True
    basted_until_s: float = -1.0

    def move(self, s: float, kind: str, has_oven: bool) -> None:
        """Apply a move. Raises BadInput for an impossible one."""
        if kind == "oven":
            if not has_oven or self.place != "pan":
                raise BadInput("not from there" if has_oven else "there is no oven in this drill", "moves")
            self.place = "oven"
        elif kind == "rest":
            self.place = "rest"
        elif self.place == "pan" and kind == "turn":
            self.under = not self.under
        elif self.place == "pan" and kind == "baste":
            self.basted_until_s = s + BASTES_S


def stages_of(deal: Deal, moves: Sequence[Move], now_s: float) -> list[dict[str, Any]]:
    """What the piece went through so far, as stages of a plan. Raises BadInput for impossible moves."""
    pan_c = deal.dish.pan_c + deal.pan_off_k
    oven_c = (deal.dish.oven_c or 0.0) + deal.oven_off_k
    piece, at, stages = _Piece(), 0.0, []
    times: list[tuple[float, str]] = [(move.s, move.kind) for move in _in_order(moves) if move.s <= now_s]
    times += [(move.s + BASTES_S, "basted") for move in moves if move.kind == "baste" and move.s + BASTES_S < now_s]
    for s, kind in [*sorted(times), (now_s, "now")]:
        if s - at >= 1.0:
            stages.append(_stage(piece.place, piece.under, at < piece.basted_until_s, s - at, pan_c, oven_c))
            at = s
        if kind == "cut":
            break
        piece.move(s, kind, deal.dish.oven_c is not None)
    return stages or [_stage(piece.place, piece.under, False, 1.0, pan_c, oven_c)]


def _stage(place: str, under: bool, basting: bool, seconds: float, pan_c: float, oven_c: float) -> dict[str, Any]:
    if place == "oven":
        return {"kind": "oven", "air_c": round(oven_c, 1), "minutes": seconds / 60.0}
    if place == "rest":
        return {"kind": "rest", "air_c": 24, "minutes": seconds / 60.0}
    stage: dict[str, Any] = {
        "kind": "pan", "pan_c": round(pan_c, 1), "first": "under" if under else "top", "sides": 1,
        "seconds_a_side": seconds,
    }  # fmt: skip
    return stage | ({"baste": {"every_s": 4}} if basting else {})


def truth(deal: Deal, moves: Sequence[Move], now_s: float) -> Plan:
    """The true piece in the true pan, treated as so far."""
    if not 0 < now_s <= LONGEST_S:
        raise BadInput("a drill is over after three hours", "now_s")
    return parse_plan(_document(deal, deal.true_mm, deal.start_c, stages_of(deal, moves, now_s)))


@dataclass(frozen=True)
class Look:
    """The signs now: (sense, word), its place, and whether it is over."""

    place: str
    signs: tuple[tuple[str, str], ...]
    under: bool
    basting: bool


def look(deal: Deal, moves: Sequence[Move], now_s: float, pin: bool = False) -> Look:
    """The signs at a moment; with the `pin` also what it says on the lip."""
    begun = max((move.s + 1.0 for move in moves), default=1.0)  # what was just done has begun
    plan = truth(deal, moves, max(now_s, begun))
    trajectory = simulate(plan)
    last = plan.stages[-1]
    core = float(trajectory.core_c[-1])
    seed = 1000 * deal.level.number + deal.seed
    pale = cut(deal.dish.cut).category in PALE
    under = getattr(last, "first", "under") == "under"
    signs: list[tuple[str, str]] = []
    if last.kind == "pan":
        signs.append(("sizzle", sign("sizzle", float(trajectory.around_c[-1]), seed, now_s)))
    if not (last.kind == "pan" and len(plan.stages) == 1):  # the first face cannot be seen while it lies down
        signs.append(("face", _face(trajectory, 1 if under else 0, last.kind != "pan")))
    signs.append(("juices", sign("juices_pale" if pale else "juices", core, seed, now_s)))
    signs.append(("firmness", sign("firmness", core, seed, now_s)))
    if pin:
        signs.append(("pin", sign("pin", float(trajectory.reading_c(trajectory.end_s)[0]), seed, now_s)))
    return Look(last.kind, tuple(signs), under, bool(getattr(last, "baste", None)))


def _face(trajectory: Trajectory, column: int, both: bool) -> str:
    index = browning_index(trajectory.t_s, trajectory.browning_c)
    words = [browning_word(float(value)) for value in index]
    if both:
        return words[0] if words[0] == words[1] else f"{words[0]} below, {words[1]} above"
    return words[column]


@dataclass(frozen=True)
class Outcome:
    """The result of a drill: the truth's own result, °C outside of the target word (positive if over), what pulling
    earlier would have given, and the score of 100 with its losses by reason.
    """

    plan: Plan
    result: Result
    wanted: Word
    off_k: float
    lost_pct: float
    rule_met: bool
    earlier_s: float
    earlier_peak_c: float | None
    earlier_word: str
    score: int
    losses: tuple[tuple[str, float], ...]


def _pulled(moves: Sequence[Move]) -> Move:
    rest = next((move for move in moves if move.kind == "rest"), None)
    if rest is None:
        raise BadInput("pull it before you cut it", "moves")
    return rest


def _outside_k(peak_c: float, word: Word) -> float:
    if peak_c < word.low_c:
        return peak_c - word.low_c
    return max(peak_c - word.high_c, 0.0) if not word.last else 0.0


def finish(deal: Deal, moves: Sequence[Move]) -> Outcome:
    """The result after cutting. Raises BadInput for a drill that was not pulled and cut."""
    pulled = _pulled(moves)
    cut_at = next((move.s for move in moves if move.kind == "cut"), None)
    if cut_at is None:
        raise BadInput("it is not cut yet", "moves")
    plan = truth(deal, moves, max(cut_at, 1.0))
    result = evaluate(plan)
    wanted = target_of(plan)
    if wanted is None:
        raise BadInput("a drill has a word", "target")
    off = _outside_k(result.core.peak_c, wanted)
    lost = max(_least_yield(deal, wanted) - result.yield_pct, 0.0)
    met = bool(result.safety[0].met)
    faces = [face.word for face in result.browning]
    earlier_s = min(EARLIER_S, EARLIER_SHARE * pulled.s)
    peak, word = _earlier(deal, moves, pulled, earlier_s)
    losses = [("degrees off", A_DEGREE * abs(off)), ("juice lost", A_PERCENT * lost)]
    losses += [(f"a face is {face}", A_FACE) for face in faces if face in ("none", "pale", "charred")]
    if not met and not deal.dish.advisory:
        losses.append(("the rule is not met", A_RULE))
    reasons = tuple((why, round(points, 1)) for why, points in losses if points >= 0.5)
    score = max(round(100.0 - sum(points for _, points in reasons)), 0)
    return Outcome(plan, result, wanted, off, lost, met, earlier_s, peak, word, score, reasons)


def _least_yield(deal: Deal, wanted: Word) -> float:
    """Yield, %, if this piece is cooked to the low end of the word without a pan's crust."""
    bath = {
        "kind": "bath",
        "water_c": round(min(wanted.low_c + 1.5, 95.0), 1),
        "until": {"core_c": round(wanted.low_c + 0.5, 1)},
    }
    trajectory = simulate(parse_plan(_document(deal, deal.true_mm, deal.start_c, [bath]) | {"depth_map": False}))
    return 100.0 * (1.0 - trajectory.water_lost_share) - CRUST_PCT


def _earlier(deal: Deal, moves: Sequence[Move], pulled: Move, earlier_s: float) -> tuple[float | None, str]:
    """Peak and word if it had been pulled that much earlier and rested as long."""
    if earlier_s < 5.0:
        return None, ""
    when = pulled.s - earlier_s
    before = [move for move in moves if move.s <= when and move.kind not in ("rest", "cut")]
    rested = max(next(move.s for move in moves if move.kind == "cut") - pulled.s, 1.0)
    again = [*before, Move("rest", when), Move("cut", when + rested)]
    plan = truth(deal, again, when + rested)
    run = simulate(plan)
    peak = float(run.core_c.max())
    word = next((one.word for one in reversed(scale_for(plan)) if peak >= one.low_c), scale_for(plan)[0].word)
    return peak, word
