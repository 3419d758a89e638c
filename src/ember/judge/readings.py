"""The verdict on probe readings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..files.judge import JudgeRequest
from ..files.piece import Piece
from ..food.catalogue import Cut, cut
from ..food.composition import Composition
from ..food.geometry import body_size
from ..kinetics.lethality import FLOOR_C
from .categories import category_of_piece
from .inactivation import inactivations
from .phases import PhaseFood, judge_phase
from .plausible import HOT_WANTED, bound_k_s, clamped
from .record import FloatArray, TemperatureRecord, between_s
from .roast_ovens import OvenUse
from .standards import Standard, standard
from .verdict import JudgedFood, Verdict, judge

COME_UP_FROM_C = (50.0 - 32.0) / 1.8  # USDA FSIS Appendix A: 50 to 130 °F
DANGER_C = ((41.0 - 32.0) / 1.8, (135.0 - 32.0) / 1.8)  # US Food Code holding limits
MOST_LOGS = 99.0
RAW_KG_M3 = 1050.0  # of raw meat, to scale a form to its mass; handbook value, from memory


@dataclass(frozen=True)
class Judged:
    """The verdict on readings with its basis. `strays`: number of outliers that were limited."""

    standard: Standard
    verdict: Verdict
    lethality: dict[str, float]
    come_up_min: float | None
    danger_zone_min: float
    gaps: int
    strays: int


def _samples(request: JudgeRequest) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """Device and typed readings in order of time, and which are typed; of two at one moment the typed one counts."""
    at = {s: (c, False) for s, c in request.readings} | {s: (c, True) for s, c in request.checks}
    times = sorted(at)
    return (
        np.array(times, dtype=float), np.array([at[s][0] for s in times], dtype=float),
        np.array([at[s][1] for s in times], dtype=bool),
    )  # fmt: skip


def _bound(request: JudgeRequest, cut_entry: Cut) -> float:
    piece = request.piece
    if piece.shape is None:
        return bound_k_s(request.phase)
    sized = Piece(cut=piece.cut, shape=piece.shape, start_c=5.0, mass_g=piece.mass_g, stuffed=piece.stuffed)
    body = body_size(sized, cut_entry, RAW_KG_M3)
    return bound_k_s(request.phase, body.size_mm, body.exponent)


def record_of(request: JudgeRequest, cut_entry: Cut) -> tuple[TemperatureRecord, int]:
    """The record of a request with its outliers limited, and how many there were."""
    t, raw, by_hand = _samples(request)
    T, strays = clamped(t, raw, by_hand, _bound(request, cut_entry), request.phase in HOT_WANTED)
    return TemperatureRecord(t, T, request.max_gap_s), strays


def food_of(request: JudgeRequest, cut_entry: Cut) -> JudgedFood:
    """What a standard needs to know of the request's piece."""
    piece = request.piece
    composition = (
        cut_entry.mass_fractions if piece.composition is None else Composition.from_fractions(piece.composition)
    )
    ovens = None if request.ovens is None else [OvenUse(oven.air, oven.celsius) for oven in request.ovens]
    return JudgedFood(
        category=category_of_piece(cut_entry, piece), species=cut_entry.species,
        fat_pct=100.0 * composition.fat, mass_g=piece.mass_g, susceptible=request.guests == "susceptible",
        advisory=request.advisory, house=request.house, ovens=ovens,
    )  # fmt: skip


def _phase_food(request: JudgeRequest, food: JudgedFood) -> PhaseFood:
    return PhaseFood(
        category=food.category, packed=request.kept, barriers=request.barriers, house=request.house,
        frozen_before="frozen-parasite" in request.piece.history,
    )  # fmt: skip


def judge_readings(request: JudgeRequest) -> Judged:
    """Judge a probe log by a standard.

    Raises BadInput for an unknown cut or standard, and for a phase without a rule.
    """
    rules, cut_entry = standard(request.standard), cut(request.piece.cut)
    record, strays = record_of(request, cut_entry)
    food = food_of(request, cut_entry)
    if request.phase == "cook":
        verdict = judge(rules, food, record, measured=True)
    else:
        verdict = judge_phase(rules, request.phase, record, _phase_food(request, food))
    t, T = record.colder
    kills = {key: float(one.steps(t, T).sum()) for key, one in inactivations(rules, food).items()}
    if verdict.rule.kind == "table" and "log10" in verdict.reached:
        kills[verdict.organism] = verdict.reached["log10"]
    reached = np.flatnonzero(FLOOR_C <= T)
    come_up = None
    if len(reached):
        upto = int(reached[0]) + 1
        come_up = between_s((t[:upto], T[:upto]), COME_UP_FROM_C, FLOOR_C) / 60.0 if upto > 1 else 0.0
    return Judged(
        rules, verdict, {key: min(killed, MOST_LOGS) for key, killed in kills.items()}, come_up,
        between_s((t, T), *DANGER_C) / 60.0, len(record.gaps), strays,
    )  # fmt: skip


def notes_of(judged: Judged) -> list[str]:
    """What was changed in the readings before they were judged."""
    notes = []
    if judged.strays:
        some = "1 reading jumps" if judged.strays == 1 else f"{judged.strays} readings jump"
        notes.append(f"{some} further than food can and back: counted only as far as heat could have taken it.")
    if judged.gaps:
        some = "1 gap" if judged.gaps == 1 else f"{judged.gaps} gaps"
        notes.append(f"{some} in the readings: each counts at the worse of its two ends.")
    return notes


def as_json(judged: Judged) -> dict[str, Any]:
    """The answer to a judge request."""
    verdict = judged.verdict
    margin = max(min(verdict.margin, 1e6), -1e6)
    return {
        "state": verdict.state.value,
        "met": verdict.met,
        "rule": {
            "id": verdict.rule.id, "standard": judged.standard.id, "section": verdict.rule.section,
            "edition": judged.standard.edition, "text": verdict.rule.text,
        },
        "kind": verdict.rule.kind,
        "organism": verdict.organism,
        "needed": verdict.needed,
        "reached": verdict.reached,
        f"margin_{verdict.margin_unit}": round(margin, 3),
        "reason": verdict.reason,
        "words": verdict.words,
        "lethality": [{"organism": k, "log10": round(v, 3)} for k, v in judged.lethality.items()],
        "come_up_min": None if judged.come_up_min is None else round(judged.come_up_min, 1),
        "danger_zone_min": round(judged.danger_zone_min, 1),
        "needs_probe": verdict.needs_probe,
        "advisory_allowed": verdict.advisory_allowed,
        "cautions": [*notes_of(judged), *verdict.cautions],
    }  # fmt: skip
