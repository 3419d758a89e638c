"""The steps of a brine: weighing by two, dissolving, turning daily, taking out, soaking."""

from __future__ import annotations

from ..files.actions import Action
from ..files.base import StepOut
from ..files.brine import BrineRequest
from ..steps import Steps

TURN_EVERY_H = 24.0
MOST_TURNS = 60
DISSOLVE_S, CHILL_S = 900.0, 3600.0
USUAL_H = 24.0  # where nothing else says how long


def hours_of(request: BrineRequest, even_h: float | None, want_h: float | None) -> float:
    """How long it stays: as stated, else until the middle reaches its target, else until it is even."""
    if request.hours is not None:
        return request.hours
    hours = want_h if want_h is not None else even_h
    return hours if hours else USUAL_H


def brine_steps(request: BrineRequest, salt_g: float, hours: float) -> list[StepOut]:
    """All steps in order."""
    steps = Steps()
    weigh = steps.add(Action.WEIGH, weighed(request, salt_g), _how(request))
    if request.cure is not None:
        weigh = steps.add(
            Action.READ_AGAIN, f"{request.cure.grams:g} g of {request.cure.nitrite_pct:g} %",
            "a second person: bag and scale", weigh, 30.0, checks=["strength on the bag", "grams on the scale"],
        )  # fmt: skip
    ready = weigh
    if request.school != "dry":
        ready = steps.add(
            Action.DISSOLVE, f"in {request.water_g:g} g of water", "then cold, 4 °C or less", weigh, 120.0
        )
        ready = steps.add(Action.CHILL, "the brine", "", ready, CHILL_S if request.water_g > 0 else DISSOLVE_S)
    action, what, how = {
        "dry": (Action.RUB, "all sides", "then a bag or a tray, cold"),
        "injected": (Action.INJECT, "evenly, all of it", _pumped(request)),
    }.get(request.school, (Action.LAY_IN, "under the brine", "a weight on it, lid, label"))  # fmt: skip
    put_in = steps.add(action, what, how, ready, 300.0, span="begin")
    turns = min(int((hours - 1.0) // TURN_EVERY_H), MOST_TURNS)
    for day in range(1, turns + 1):
        steps.add(Action.TURN, f"day {day}", "and stir", put_in, 3600.0 * TURN_EVERY_H * day)
    out = steps.add(
        Action.TAKE_OUT, "of the salt", "rinse, dry; the brine is thrown away", put_in, 3600.0 * hours, span="end"
    )
    if request.soak is not None:
        water = steps.add(Action.SOAK, "in fresh cold water", f"{request.soak.temp_c:g} °C", out, 60.0)
        steps.add(Action.DRY, "and cook", "", water, 3600.0 * request.soak.hours)
    return steps.in_order()


def weighed(request: BrineRequest, salt_g: float) -> str:
    """Salt, sugar and curing salt in grams, in a line."""
    parts = [f"{salt_g:.0f} g salt"]
    if request.sugar_g:
        parts.append(f"{request.sugar_g:.0f} g sugar")
    if request.cure is not None:
        parts.append(f"{request.cure.grams:g} g curing salt")
    return ", ".join(parts)


def _how(request: BrineRequest) -> str:
    return "on the scale, never by the spoon" if request.cure is not None else "on the scale"


def _pumped(request: BrineRequest) -> str:
    if request.pickup_pct is None:
        return "weigh before and after"
    return f"until it weighs {request.meat_g * (1 + request.pickup_pct / 100):.0f} g"
