"""A verdict on what a probe measured."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..files.judge import JudgeRequest
from ..food.catalogue import cut
from ..food.composition import Composition
from ..kinetics.lethality import FLOOR_C, FloatArray, log_reduction, organisms
from .phases import judge_phase
from .standards import ComeUp, Standard, category_of, celsius, standard
from .verdict import Verdict, judge

COME_UP_FROM_C = (50.0 - 32.0) / 1.8  # USDA FSIS Appendix A: 50 to 130 °F
DANGER_C = ((41.0 - 32.0) / 1.8, (135.0 - 32.0) / 1.8)  # US Food Code holding limits


@dataclass(frozen=True)
class Judged:
    """The verdict on readings with what it rests on."""

    standard: Standard
    verdict: Verdict
    lethality: dict[str, float]
    come_up_min: float | None
    danger_zone_min: float
    gaps: int


def worst_case(
    time_s: FloatArray, temperature_c: FloatArray, max_gap_s: float | None
) -> tuple[FloatArray, FloatArray, int]:
    """Fill gaps longer than `max_gap_s` with the colder of their two ends; also how many there were."""
    if max_gap_s is None:
        return time_s, temperature_c, 0
    gaps = np.flatnonzero(np.diff(time_s) > max_gap_s)
    if len(gaps) == 0:
        return time_s, temperature_c, 0
    edge = 1e-3
    t, T = list(time_s), list(temperature_c)
    for i in reversed(gaps):
        low = min(temperature_c[i], temperature_c[i + 1])
        t[i + 1 : i + 1] = [time_s[i] + edge, time_s[i + 1] - edge]
        T[i + 1 : i + 1] = [low, low]
    return np.array(t), np.array(T), len(gaps)


def minutes_between(time_s: FloatArray, temperature_c: FloatArray, low_c: float, high_c: float) -> float:
    """Minutes spent strictly between two temperatures, straight between samples."""
    a, b = temperature_c[:-1], temperature_c[1:]
    low, high = np.minimum(a, b), np.maximum(a, b)
    with np.errstate(divide="ignore", invalid="ignore"):
        inside = np.clip((np.minimum(high, high_c) - np.maximum(low, low_c)) / (high - low), 0.0, 1.0)
    flat = (high - low) < 1e-12
    inside = np.where(flat, ((low > low_c) & (low < high_c)).astype(float), inside)
    return float((inside * np.diff(time_s)).sum() / 60.0)


def _slow_come_up(rule: ComeUp, time_s: FloatArray, temperature_c: FloatArray) -> str:
    """What to say of a way up that took longer than the standard allows; nothing where it did not."""
    low, high = celsius(rule.start, rule.unit), celsius(rule.to, rule.unit)
    over = np.flatnonzero(temperature_c >= high - 1e-9)
    upto = int(over[0]) + 1 if len(over) else len(time_s)
    spent = minutes_between(time_s[:upto], temperature_c[:upto], low, high) if upto > 1 else 0.0
    return f"The way up took {spent / 60:.1f} h. {rule.text}." if spent > 60.0 * rule.hours else ""


def judge_readings(request: JudgeRequest) -> Judged:
    """Hold a probe log against a standard.

    Raises BadInput for an unknown cut or standard.
    """
    rules = standard(request.standard)
    piece = request.piece
    row = cut(piece.cut)
    history = [*piece.history, *(["stuffed"] if piece.stuffed else [])]
    category = category_of(row, history, piece.origin)
    raw = np.array(request.readings, dtype=float)
    t, T, gaps = worst_case(raw[:, 0], raw[:, 1], request.max_gap_s)
    if request.phase == "cook":
        composition = row.mass_fractions if piece.composition is None else Composition.from_fractions(piece.composition)
        verdict = judge(
            rules, category, request.guests == "susceptible", t, T, measured=True,
            species=row.species, fat_pct=100.0 * composition.fat, house=request.house,
        )  # fmt: skip
    else:
        verdict = judge_phase(rules, request.phase, t, T, request.kept, request.house)
    reached = np.flatnonzero(FLOOR_C <= T)
    come_up = None
    if len(reached):
        upto = int(reached[0]) + 1
        come_up = minutes_between(t[:upto], T[:upto], COME_UP_FROM_C, FLOOR_C) if upto > 1 else 0.0
    if request.phase == "cook" and rules.come_up is not None and (slow := _slow_come_up(rules.come_up, t, T)):
        verdict = replace(verdict, cautions=(slow, *verdict.cautions))
    return Judged(
        rules, verdict,
        {o.id: min(float(log_reduction(o, t, T)), 99.0) for o in organisms().values()},
        come_up, minutes_between(t, T, *DANGER_C), gaps,
    )  # fmt: skip


def as_json(judged: Judged) -> dict[str, object]:
    """The answer to a judge request."""
    verdict = judged.verdict
    cautions = list(verdict.cautions)
    if judged.gaps:
        cautions.insert(0, f"{judged.gaps} gap(s) in the readings were taken as their worst case.")
    margin = {f"margin_{verdict.margin_unit}": round(verdict.margin, 3)}
    return {
        "met": verdict.met,
        "rule": {
            "id": verdict.rule.id, "standard": judged.standard.id, "section": verdict.rule.section,
            "edition": judged.standard.edition, "text": verdict.rule.text,
        },
        "needed": verdict.needed,
        "reached": verdict.reached,
        **margin,
        "words": verdict.words,
        "lethality": [{"organism": k, "log10": round(v, 3)} for k, v in judged.lethality.items()],
        "come_up_min": None if judged.come_up_min is None else round(judged.come_up_min, 1),
        "danger_zone_min": round(judged.danger_zone_min, 1),
        "needs_probe": verdict.needs_probe,
        "cautions": cautions,
    }  # fmt: skip
