"""Whole eggs in water, bath or steam: the answer."""

from __future__ import annotations

import math

import numpy as np

from ..files.actions import Action
from ..files.base import StepOut
from ..files.egg import BoilRequest, CirculatorRequest, PoachRequest, SteamRequest, Timed
from ..files.egg_result import (
    EggCurves,
    EggFace,
    EndPeak,
    ShellAnswer,
    SizedEgg,
    SpreadOut,
    WaterDip,
)
from ..heat.grid import FloatArray
from ..kinetics.egg_gels import WHITE
from ..steps import Steps
from .egg_history import Medium, follow
from .heating import Heat, egg_in, heat_of, minutes_up, poach_schools, pot_litres, water_c, water_dip
from .rules import cautions_of, cooked, goes_out, in_shell
from .solve import minutes_for, minutes_for_set
from .state import EggState
from .steps import BETWEEN_DROPS_S, CHECKS, eggs_named

CURVE_POINTS = 160
FACE_POINTS = 40
PRESET_S = 10.0
GRAMS_OFF, SHARE_OFF, START_OFF_K = 3.0, 0.05, 3.0
SAYS_MINUTES = (0.005, 0.995)  # where a set fraction still moves with the minutes
BACK_H = 400.0


def answer_shell(request: Timed) -> ShellAnswer:
    """Minutes, temperatures, words and rules of whole eggs. Raises BadInput and NeverReached."""
    heat = heat_of(request)
    minutes = request.minutes if request.minutes is not None else minutes_up(minutes_for(heat, request.target))  # type: ignore[arg-type]
    if minutes > heat.longest_min:
        heat = heat_of(request, minutes)
    state = heat.after(minutes)
    rules = [cooked(request, False, *state.middle())]
    if isinstance(request, CirculatorRequest) and not rules[0].met:
        rules.append(in_shell(request, state.salmonella_log10))
    spread = _spread(request, state.yolk_set, minutes)
    middle_c, edge_c, white_c = state.at_lift_c()
    peak_c, peak_s = state.middle_peak
    total = state.lifted_s
    return ShellAnswer(
        method=request.method, rules=rules, goes_out=goes_out(request, rules),
        cautions=cautions_of(request, rules, *_cautions(request)), steps=steps_of(request, heat, minutes),
        warnings=_warnings(request, state, heat),
        minutes=round(minutes, 3), minutes_range=_range(minutes, spread), boils_s=round(heat.begins_s, 1),
        total_s=round(total, 1), egg=_sized(heat), yolk_edge_c=round(edge_c, 2),
        yolk_edge_peak_c=round(float(state.hottest_c[state.course.body.edge]), 2),
        yolk_centre_c=EndPeak(end=round(middle_c, 2), peak=round(peak_c, 2), peak_s=round(peak_s, 1)),
        white_c=round(white_c, 2), yolk=state.yolk, white=state.white, white_inside=WHITE.word(state.white_inside_set),
        yolk_set=round(state.yolk_set, 4), white_set=round(state.white_set, 4),
        white_inside_set=round(state.white_inside_set, 4), green=round(state.green, 3),
        salmonella_log10=round(min(state.salmonella_log10, 99.0), 2), water=_dip(request, heat), face=face_of(state),
        curves=_curves(state), spread=spread, back_c=_back_c(request, state),
    )  # fmt: skip


def _sized(heat: Heat) -> SizedEgg:
    egg, grid = heat.egg, heat.course.body.grid
    return SizedEgg(
        kind=egg.kind.id, mass_g=round(egg.mass_g, 1), breadth_mm=round(egg.breadth_mm, 1),
        length_mm=round(egg.length_mm, 1), yolk_g=round(egg.yolk_g, 1), white_g=round(egg.white_g, 1),
        yolk_share=round(float(grid.x_m[heat.course.body.edge] / grid.x_m[-1]), 4),
    )  # fmt: skip


def face_of(state: EggState) -> EggFace:
    """The cut egg by depth, from its middle outwards, with the edge of the yolk twice: as yolk and as white."""
    body = state.course.body
    x = body.grid.x_m / body.grid.x_m[-1]
    edge = float(x[body.edge])
    inner = np.linspace(0.0, edge - 1e-6, FACE_POINTS // 2)
    outer = np.linspace(edge, 1.0, FACE_POINTS // 2)
    depth = np.concatenate([inner, outer])
    return EggFace(
        depth=_round(depth, 4), hottest_c=_round(np.interp(depth, x, state.hottest_c), 1),
        set_fraction=_round(np.interp(depth, x, state.set_by_depth), 3), edge=round(edge, 4),
    )  # fmt: skip


def _round(values: FloatArray, digits: int) -> list[float]:
    return [round(float(value), digits) for value in values]


def _curves(state: EggState) -> EggCurves:
    course = state.course
    t = np.linspace(0.0, course.end_s, CURVE_POINTS)
    T = course.profile(t)
    return EggCurves(
        t_s=_round(t, 1), yolk_centre_c=_round(T[:, 0], 2), yolk_edge_c=_round(T[:, course.body.edge], 2),
        white_c=_round(T @ course.body.white_weights, 2), water_c=_round(course.water_at(t), 1),
    )  # fmt: skip


def _dip(request: Timed, heat: Heat) -> WaterDip | None:
    in_a_pot = isinstance(request, BoilRequest | PoachRequest) and getattr(request, "school", "") not in (
        "cup", "film", "circulator",
    )  # fmt: skip
    if not in_a_pot:
        return None
    lowest, back = water_dip(heat, water_c(request))
    return WaterDip(litres=round(pot_litres(request), 2), lowest_c=round(lowest, 2), back_s=round(back, 1))


def _spread(request: Timed, yolk_set: float, minutes: float) -> list[SpreadOut]:
    """The effect of a few grams and kelvin: the range beside the number."""
    egg = egg_in(request)
    off = GRAMS_OFF if egg.kind.id == "hen" else SHARE_OFF * egg.mass_g
    low, high = egg.kind.mass_g
    start = egg.start_c
    changes = [
        (f"{off:.0f} g lighter", {"mass_g": max(egg.mass_g - off, low)}),
        (f"{off:.0f} g heavier", {"mass_g": min(egg.mass_g + off, high)}),
        (f"{START_OFF_K:.0f} °C colder", {"mass_g": egg.mass_g, "start_c": max(start - START_OFF_K, -0.5)}),
        (f"{START_OFF_K:.0f} °C warmer", {"mass_g": egg.mass_g, "start_c": min(start + START_OFF_K, 45.0)}),
    ]
    outcomes = []
    for what, change in changes:
        other = request.egg.model_copy(update={"size": None, "girth_mm": None, **change})
        heat = heat_of(request.model_copy(update={"egg": other}), max(2.0 * minutes, 1.0))
        state = heat.after(minutes)
        same = minutes_for_set(heat, yolk_set, minutes) if SAYS_MINUTES[0] < yolk_set < SAYS_MINUTES[1] else None
        outcomes.append(
            SpreadOut(
                what=what, yolk=state.yolk, yolk_set=round(state.yolk_set, 4),
                minutes=None if same is None else round(same, 3),
            )
        )  # fmt: skip
    return outcomes


def _range(minutes: float, spread: list[SpreadOut]) -> tuple[float, float] | None:
    """Range of minutes for the same yolk if mass and start are slightly off, as independent errors."""
    if any(outcome.minutes is None for outcome in spread):
        return None
    offs = [abs(float(outcome.minutes) - minutes) for outcome in spread if outcome.minutes is not None]
    by = math.hypot(max(offs[0], offs[1]), max(offs[2], offs[3]))
    return round(max(minutes - by, 0.0), 3), round(minutes + by, 3)


def _back_c(request: Timed, state: EggState) -> float | None:
    """Middle of a poached egg reheated from ice water, °C."""
    if not isinstance(request, PoachRequest) or request.bring_back is None:
        return None
    back = request.bring_back
    cold = np.full(len(state.course.body.grid.x_m), 4.0)
    warm = follow(state.course.body, cold, Medium(BACK_H, back.water_c), 60.0 * back.minutes)
    return round(float(warm.temperature_c[-1, 0]), 1)


def _warnings(request: Timed, state: EggState, heat: Heat) -> list[str]:
    warnings = []
    if state.green >= 1.0:
        warnings.append("A grey-green ring will show around the yolk. Cook for less time, or ice them at once.")
    if state.white_inside_set < 0.1 and state.white_set >= 0.1:
        warnings.append("The white beside the yolk is still milky.")
    if egg_in(request).kind.id == "ostrich":
        warnings.append("Little is known about ostrich eggs: allow a quarter more time, and open one to check.")
    dip = _dip(request, heat)
    if dip is not None and dip.lowest_c < water_c(request) - 8.0:
        warnings.append(
            f"{request.count} eggs pull the water down to {dip.lowest_c:.0f} °C. Use more water or two pots."
        )
    return warnings


def _cautions(request: Timed) -> tuple[str, ...]:
    if isinstance(request, SteamRequest):
        return ("steam",)
    if isinstance(request, BoilRequest):
        return ("boil",)
    return ("film",) if isinstance(request, PoachRequest) and request.school == "film" else ()


def _end(request: Timed) -> tuple[Action, str, Action]:
    """How eggs leave the heat: the action, where to, and what follows."""
    return {
        "ice_bath": (Action.LIFT_INTO_ICE, "into ice", Action.PEEL),
        "tap": (Action.LIFT, "under cold water", Action.PEEL),
        "air": (Action.LIFT, "onto the board", Action.SERVE),
        "open": (Action.LIFT, "and open at once", Action.OPEN),
    }[request.then.kind]  # fmt: skip


def steps_of(request: Timed, heat: Heat, minutes: float) -> list[StepOut]:
    """The steps of a batch, second by second."""
    steps = Steps()
    eggs = eggs_named(request.count, heat.egg.kind.id)
    lifted, into, last = _end(request)
    if isinstance(request, PoachRequest) and request.school != "circulator":
        return _poach_steps(request, heat, minutes)
    if isinstance(request, BoilRequest) and request.start != "hot":
        start = steps.add(Action.START, eggs, f"cold water over them, {pot_litres(request):.1f} l, full heat",
                          span="begin")  # fmt: skip
        off = request.start == "off-heat"
        boils = steps.add(Action.COVER if off else Action.BOIL, eggs, "the clock runs from here", start, heat.begins_s)
        lift = steps.add(lifted, eggs, into, boils, 60.0 * minutes, span="end")
    else:
        action, how = {
            "steam": (Action.LOAD, "into the steam, lid on"),
            "circulator": (Action.LOWER, f"into {water_c(request):g} °C"),
            "poach": (Action.LOWER, f"in the shell, into {water_c(request):g} °C"),
        }.get(request.method, (Action.LOWER, f"with a spoon, into {water_c(request):.0f} °C"))  # fmt: skip
        start = steps.add(action, eggs, how, span="begin")
        lift = steps.add(lifted, eggs, into, start, 60.0 * minutes, span="end")
    seconds = 0.0 if request.then.kind == "open" else heat.then[1]
    steps.add(last, eggs, "wash hands and board after the shells", lift, seconds)
    return steps.in_order()


def _poach_steps(request: PoachRequest, heat: Heat, minutes: float) -> list[StepOut]:
    school = poach_schools()[request.school]
    steps = Steps()
    how = school.steps[-1] if school.steps else ""
    cold = request.then.kind in ("ice_bath", "tap")
    lifted, into = (Action.LIFT_INTO_ICE, "spoon, then ice") if cold else (Action.LIFT, "spoon, then cloth")
    before: int | None = None
    lifts = []
    for egg in range(1, request.count + 1):
        gap = BETWEEN_DROPS_S if egg > 1 else 0.0
        if school.id == "shell-preset":
            before = steps.add(Action.DIP, f"egg {egg}", "10 s in its shell", before, gap, egg)
            gap = PRESET_S
        before = steps.add(Action.DROP, f"egg {egg}", how, before, gap, egg, span="begin")
        lifts.append(steps.add(lifted, f"egg {egg}", into, before, 60.0 * minutes, egg, CHECKS["poach"], "end"))
    if cold:
        named, how = eggs_named(request.count, heat.egg.kind.id), "trimmed, in cold water at 5 °C or less"
        kept = steps.add(Action.KEEP_COLD, named, how, lifts[-1], heat.then[1])
        if request.bring_back is not None:
            back = steps.add(Action.REHEAT_POACHED, "as ordered", f"into {request.bring_back.water_c:g} °C", kept, 0.0)
            steps.add(Action.SERVE, "on a cloth first", "", back, 60.0 * request.bring_back.minutes)
    else:
        steps.add(
            Action.SERVE, eggs_named(request.count, heat.egg.kind.id), "wash hands after the shells", lifts[-1], 20.0
        )
    return steps.in_order()
