"""Every write of drills."""

from __future__ import annotations

import secrets
from typing import Any

from django.db import transaction

from ember.errors import BadInput
from ember.practice.deal import LEVELS, Move, deal
from ember.practice.drill import BASTES_S, LONGEST_S, PIN_S, finish, stages_of
from ember.practice.egg_drill import KINDS as EGG_KINDS
from ember.practice.egg_drill import LONGEST_S as EGG_LONGEST_S
from ember.practice.egg_drill import egg_deal, egg_finish
from ember.practice.lay_drill import Taps, lay_finish
from kitchen.accounts.models import Kitchen, Person

from .models import Drill

KINDS = ("pan", *EGG_KINDS, "lay")
LEAST_PIECES = 3
MOST_SEED = 10_000
WAITS_S = (5, 15, 60, 300)


class DrillError(Exception):
    """An action that a drill does not allow, in words for the trainee."""


@transaction.atomic
def begin(kitchen: Kitchen, person: Person, kind: str, level: int, seed: int | None = None) -> Drill:
    """Start a drill; a seed repeats one. Raises DrillError for an unknown kind or level."""
    if kind not in KINDS or not 1 <= level <= len(LEVELS):
        raise DrillError("There is no such drill.")
    if seed is not None and not 0 <= seed < MOST_SEED:
        raise DrillError(f"Drill number: enter 0 to {MOST_SEED - 1}.")
    number = secrets.randbelow(MOST_SEED) if seed is None else seed
    return Drill.objects.create(
        kitchen=kitchen, person=person, kind=kind, level=level, seed=number, begun_at=kitchen.now()
    )


def moves_of(drill: Drill) -> list[Move]:
    """The actions so far."""
    return [Move(kind, s) for kind, s in drill.moves if kind != "pin"]


@transaction.atomic
def act(drill: Drill, what: str) -> Drill:
    """Wait for some seconds ("wait:15"), or do something. Raises DrillError for an action that is not possible."""
    drill = Drill.objects.select_for_update().get(pk=drill.pk)
    if drill.finished_at is not None:
        raise DrillError("This drill is finished.")
    verb, _, number = what.partition(":")
    if verb == "wait":
        if number not in map(str, WAITS_S):
            raise DrillError("Choose 5 s, 15 s, 1 min or 5 min.")
        drill.now_s += float(number)
        longest = EGG_LONGEST_S.get(drill.kind, LONGEST_S)
        if drill.now_s > longest:
            raise DrillError("That is the longest this drill goes on.")
    elif drill.kind == "pan":
        _pan(drill, verb)
    elif verb == "off" and drill.kind in EGG_KINDS:
        _off(drill)
    else:
        raise DrillError("That is not part of this drill.")
    drill.save()
    return drill


def _pan(drill: Drill, verb: str) -> None:
    dealt = deal(drill.level, drill.seed)
    if refusal := _refusal(drill, verb):
        raise DrillError(refusal)
    moves = [*drill.moves, [verb, drill.now_s]]
    try:
        stages_of(dealt, [Move(kind, s) for kind, s in moves if kind != "pin"], drill.now_s + 1.0)
    except BadInput as error:
        raise DrillError(f"{str(error).capitalize()}.") from None
    drill.moves = moves
    drill.now_s += {"baste": BASTES_S, "pin": PIN_S}.get(verb, 0.0)
    if verb == "cut":
        result = finish(dealt, moves_of(drill))
        _over(drill, result.score, {
            "document": result.plan.model_dump(mode="json", exclude_none=True), "word": result.result.doneness.word,
            "wanted": result.wanted.word, "low_c": result.wanted.low_c, "high_c": result.wanted.high_c,
            "peak_c": result.result.core.peak_c, "off_k": result.off_k, "yield_pct": result.result.yield_pct,
            "rule_met": result.rule_met, "earlier_s": result.earlier_s, "earlier_peak_c": result.earlier_peak_c,
            "earlier_word": result.earlier_word, "losses": [list(loss) for loss in result.losses],
        })  # fmt: skip


def _refusal(drill: Drill, verb: str) -> str:
    """Why an action is not possible in the pan now; empty if it is."""
    done = {kind for kind, _ in drill.moves}
    if verb not in ("turn", "baste", "oven", "rest", "cut", "pin"):
        return "That is not part of this drill."
    if verb in ("oven", "cut", "rest") and drill.now_s < 1.0:
        return "It is not hot yet."
    if verb == "cut" and "rest" not in done:
        return "Pull it before you cut it."
    if verb in ("turn", "baste") and done & {"oven", "rest"}:
        return "Only in the pan."
    if verb in ("oven", "rest") and "rest" in done:
        return "It is already resting."
    return ""


def _off(drill: Drill) -> None:
    try:
        result = egg_finish(egg_deal(drill.kind, drill.level, drill.seed), drill.now_s)
    except BadInput as error:
        raise DrillError(f"{str(error).capitalize()}.") from None
    drill.moves = [*drill.moves, ["off", drill.now_s]]
    _over(drill, result.score, {
        "word": result.word, "peak_c": result.peak_c, "off_k": result.off_k, "earlier_s": result.earlier_s,
        "earlier_word": result.earlier_word,
    })  # fmt: skip


def _over(drill: Drill, score: int, outcome: dict[str, Any]) -> None:
    drill.score, drill.outcome, drill.finished_at = score, outcome, drill.kitchen.now()


@transaction.atomic
def lay(drill: Drill, rows: object) -> Drill:
    """Record the taps on a pan of pieces: [[laid s, turned s, out s], ...] clockwise from the handle."""
    drill = Drill.objects.select_for_update().get(pk=drill.pk)
    if drill.finished_at is not None:
        raise DrillError("This drill is finished.")
    try:
        laid, turned, out = zip(*[[float(s) for s in seconds] for seconds in rows], strict=True)  # type: ignore[attr-defined]
        if len(laid) != pieces_of(drill):
            raise DrillError(f"There are {pieces_of(drill)} pieces.")
        result = lay_finish(Taps(laid, turned, out), side_s(drill))
    except (BadInput, TypeError, ValueError, OverflowError) as error:
        message = str(error) if isinstance(error, BadInput) else "lay, turn and take out each piece"
        raise DrillError(f"{message.capitalize()}.") from None
    _over(drill, result.score, {
        "first_s": result.first_s, "second_s": result.second_s, "orders": result.orders, "spread_s": result.spread_s,
        "off_s": result.off_s, "out_of_order": result.out_of_order,
    })  # fmt: skip
    drill.save()
    return drill


def pieces_of(drill: Drill) -> int:
    """Number of pieces in the pan of a pan-order drill."""
    return LEAST_PIECES + drill.level


def side_s(drill: Drill) -> float:
    """How long each side should lie, s: short, so that the drill is."""
    return 10.0 + 5.0 * (drill.seed % 3)
