"""The answer to a chill request."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..errors import BadInput
from ..files.chill import ChillAnswer, ChillRequest, ColdIn, StageReached, Way, WayOut
from ..files.piece import Piece
from ..food.catalogue import cut
from ..food.geometry import mass_of
from ..heat.problem import composition_of, density_of
from ..heat.simulate import simulate, simulate_roughly
from ..judge.categories import category_of_piece
from ..judge.cooling import cooling_steps
from ..judge.phases import judge_phase
from ..judge.standards import Standard, standard
from ..judge.storage import FISH
from ..judge.verdict import Verdict
from ..report.outcome import safety_out
from .back import back_of
from .cold import (
    THICKEST_MM,
    Cooling,
    medium_of,
    plan_for,
    size_of,
    sized,
    stacked,
    stages_of,
    words,
)  # fmt: skip
from .keep import Stored, keep_of

ICE_MELTS_J_KG = 334_000.0  # CRC Handbook of Chemistry and Physics, from memory
POINTS = 120
WAYS: tuple[Way, ...] = ("ice-bath", "blast", "walk-in", "fridge")
LONGEST_WAIT_MIN = 720.0
SIZE_OFF, WAIT_OFF_MIN = 0.004, 0.5  # how near a limit is looked for: a share of the size, minutes
BISECTIONS = 14


def answer_chill(request: ChillRequest) -> ChillAnswer:
    """Everything that follows from a chill request. Raises BadInput with the place in the request."""
    rules = standard(request.standard)
    if "cool" not in rules.phases:
        raise BadInput(f"{rules.name} has no cooling rule here.", "standard")
    _check_reachable(request)
    piece = stacked(request, request.piece)
    cooling = _followed(request, rules, piece, request.cold, request.wait_min)
    verdict = _judged(rules, cooling)
    points = np.linspace(0, len(cooling.t_s) - 1, POINTS).astype(int)
    return ChillAnswer(
        stages=_stages(rules, cooling),
        rule=safety_out(rules, replace(verdict, needs_probe=True)),
        minutes_to_end=round(float(cooling.t_s[-1]) / 60.0, 1) if cooling.arrives else None,
        latest_wait_min=_latest_wait(request, rules, piece),
        thickest_mm=_thickest(request, rules),
        ice_kg=_ice_kg(request),
        ways=[_way(request, rules, piece, way) for way in WAYS],
        keep=keep_of(rules, stored_of(request)),
        back=back_of(request, request.back, rules) if request.back else None,
        t_s=[round(float(v), 1) for v in cooling.t_s[points]],
        curve_c=[round(float(v), 2) for v in cooling.warmest_c[points]],
        surface_c=[round(float(v), 2) for v in cooling.coldest_c[points]],
        put_right=[] if verdict.met else list(words()["put_right"]["late"]),
        warnings=_warnings(request, rules, piece),
        cautions=_cautions(request),
    )


def stored_of(request: ChillRequest) -> Stored:
    """Storage of the request's food."""
    cut_entry = cut(request.piece.cut)
    category = category_of_piece(cut_entry, request.piece)
    fish = cut_entry.category if cut_entry.category in FISH else category
    return Stored(request.packed, request.kept_c, fish, request.barriers)


def end_c_of(rules: Standard) -> float:
    """Temperature at which a standard's last cooling stage ends, °C."""
    rule = rules.phases["cool"]
    return min(rule.most_c(end) for _, end, _ in rule.steps)


def _check_reachable(request: ChillRequest) -> None:
    for i, step in enumerate(request.cold):
        if step.to_c is not None and step.to_c <= medium_of(step):
            message = words()["warnings"]["flat"].format(medium=medium_of(step))
            raise BadInput(f"{message} Ask for more, or colder.", f"cold[{i}].to_c")


def _followed(
    request: ChillRequest, rules: Standard, piece: Piece, cold: list[ColdIn], wait_min: float, rough: bool = False
) -> Cooling:
    plan = plan_for(request, piece, stages_of(request, cold, wait_min))
    return Cooling((simulate_roughly if rough else simulate)(plan), end_c_of(rules))


def _judged(rules: Standard, cooling: Cooling) -> Verdict:
    return judge_phase(rules, "cool", cooling.record)


def _stages(rules: Standard, cooling: Cooling) -> list[StageReached]:
    return [
        StageReached(
            from_c=round(step.from_c, 1), to_c=round(step.to_c, 1), allowed_min=step.allowed_min,
            begins_min=None if step.begins_s is None else round(step.begins_s / 60.0, 2),
            minutes=None if step.minutes is None else round(step.minutes, 1), met=step.met,
        )
        for step in cooling_steps(rules.phases["cool"], cooling.record)
    ]  # fmt: skip


def _way(request: ChillRequest, rules: Standard, piece: Piece, way: Way) -> WayOut:
    """The request with another cooling method; its own air if it is one of those requested."""
    step_wanted = next((step for step in request.cold if step.way == way), ColdIn(way=way))
    only = ColdIn(way=way, air_c=step_wanted.air_c)
    cooling = _followed(request, rules, piece, [only], request.wait_min, rough=True)
    verdict = _judged(rules, cooling)
    ends = [step.ends_s for step in cooling_steps(rules.phases["cool"], cooling.record)]
    return WayOut(
        way=way, air_c=medium_of(only), minutes=[None if s is None else round(s / 60.0, 1) for s in ends],
        met=verdict.met, margin_min=round(verdict.margin, 1),
    )  # fmt: skip


def _last_that(holds: Callable[[float], bool], low: float, high: float, off: float) -> float | None:
    """The largest value for which a condition holds, by bisection, at most `off` too low; None if not even `low`
    does.
    """
    if not holds(low):
        return None
    if holds(high):
        return high
    for _ in range(BISECTIONS):
        if high - low <= off:
            break
        middle = 0.5 * (low + high)
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low


def _latest_wait(request: ChillRequest, rules: Standard, piece: Piece) -> float | None:
    """How long it may stand at room temperature and still meet the rule, min; None if it is late at once."""

    def met(wait_min: float) -> bool:
        return _judged(rules, _followed(request, rules, piece, request.cold, wait_min, rough=True)).met is True

    found = _last_that(met, 0.0, LONGEST_WAIT_MIN, WAIT_OFF_MIN)
    return None if found is None else round(found, 1)


def _thickest(request: ChillRequest, rules: Standard) -> float | None:
    """The thickest single layer of the same form that meets the rule with this cooling, mm."""
    size = size_of(request, request.piece)

    def met(size_mm: float) -> bool:
        return (
            _judged(
                rules, _followed(request, rules, sized(request, size_mm), request.cold, request.wait_min, rough=True)
            ).met
            is True
        )

    top = min(6.0 * size, THICKEST_MM / 2)
    found = _last_that(met, min(5.0, size), top, SIZE_OFF * size)
    return None if found is None else round(found, 1)


def _ice_kg(request: ChillRequest) -> float | None:
    """Ice that melts to take its heat down to the rule's end, kg; None without an ice bath."""
    if not any(step.way == "ice-bath" for step in request.cold):
        return None
    plan = plan_for(request, request.piece, stages_of(request, request.cold, 0.0))
    T = np.linspace(max(request.kept_c, 0.5), request.piece.start_c, 50)
    joules_kg = float(np.trapezoid(composition_of(plan).heat_capacity(T), T))
    grams = request.piece.count * mass_of(request.piece, cut(request.piece.cut), density_of(plan))
    return round(grams / 1000.0 * joules_kg / ICE_MELTS_J_KG, 2)


def _warnings(request: ChillRequest, rules: Standard, piece: Piece) -> list[str]:
    texts, warnings = words()["warnings"], []
    if request.layers > 1:
        warnings.append(texts["stack"].format(layers=request.layers, mm=size_of(request, piece)))
    if request.wait_min > 0:
        warnings.append(texts["wait"].format(minutes=request.wait_min))
    if request.cold[0].way == "fridge":
        warnings.append(texts["warm_load"])
    last = medium_of(request.cold[-1])
    if last >= end_c_of(rules):
        warnings.append(texts["flat"].format(medium=last))
    keep = keep_of(rules, stored_of(request))
    if keep.too_warm:
        warnings.append(texts["raised"].format(kept=request.kept_c))
    return warnings


def _cautions(request: ChillRequest) -> list[str]:
    texts = words()["cautions"]
    return [*texts["always"], *([texts["reduced-oxygen"]] if request.packed != "open" else [])]
