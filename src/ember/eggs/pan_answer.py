"""Eggs in the pan: the answers."""

from __future__ import annotations

import numpy as np

from ..errors import NeverReached
from ..files.actions import Action
from ..files.base import StepOut
from ..files.egg import OmeletteRequest, ScrambleRequest
from ..files.egg_result import OmeletteAnswer, ScrambleAnswer
from ..heat.grid import FloatArray
from ..kinetics.browning import browning_word
from ..kinetics.egg_gels import YOLK
from ..steps import Steps
from .kinds import Egg, egg_of
from .omelette import InThePan, in_the_pan
from .pan_data import OmeletteRow, pan_data, word_at
from .rules import cautions_of, cooked, goes_out
from .scramble import Pan, Stirred, curd_word, lift_k, set_word, stir

CURVE_POINTS = 120
HOT_BUTTER_C = 155.0


def _egg(request: ScrambleRequest | OmeletteRequest) -> Egg:
    egg_asked = request.egg
    return egg_of(egg_asked.kind, egg_asked.mass_g, egg_asked.size, egg_asked.girth_mm, egg_asked.start_c)


def _thin(t: FloatArray, *rows: FloatArray) -> list[list[float]]:
    """At most CURVE_POINTS of each."""
    at = np.linspace(float(t[0]), float(t[-1]), min(CURVE_POINTS, len(t)))
    return [
        [round(float(v), 2) for v in values] for values in (at, *(np.interp(at, t, values_in) for values_in in rows))
    ]


def butter_sign(pan_c: float) -> str:
    """What butter does in a pan at this temperature."""
    return word_at(pan_data().butter, pan_c)


def answer_scramble(request: ScrambleRequest) -> ScrambleAnswer:
    """Seconds, curd, and what stops scrambled eggs. Raises NeverReached if the pan is too weak."""
    method, egg, pan = pan_data().scramble[request.school], _egg(request), Pan(request.pan_mm)
    egg_g = request.eggs * (egg.yolk_g + egg.white_g)
    whole_g = egg_g + request.liquid_g
    lifted = lift_k(request.liquid_g, egg_g)
    stop = pan_data().stop[request.stop]
    stop_g = request.stop_g if request.stop_g is not None else stop.g_each * request.eggs
    stop_g = 0.0 if request.stop == "none" else stop_g
    power = request.power_w if request.power_w is not None else method.w_each * request.eggs
    off_c = request.off_c if request.off_c is not None else method.off_c + lifted
    every = request.stir_every_s or method.stir_every_s
    pan_c = request.pan_c if request.pan_c is not None else method.pan_c
    made = stir(
        whole_g, egg.start_c, pan, pan_c, power, every, off_c, stop, stop_g, request.eggs, request.plate_c,
        method.to_plate_s,
    )  # fmt: skip
    if not made.reached:
        raise NeverReached(
            f"The eggs come to {made.off_c:.0f} °C and no hotter on this little heat. Use more power or fewer eggs.",
            "power_w", made.off_c,
        )  # fmt: skip
    rules = [cooked(request, request.eggs > 3 or request.held, made.t_s, made.egg_c)]
    t, egg_c, pan_row = _thin(made.t_s, made.egg_c, made.pan_c)
    at_off = float(np.interp(made.off_s, made.t_s, made.pan_c))
    return ScrambleAnswer(
        method="scramble", rules=rules, goes_out=goes_out(request, rules),
        cautions=cautions_of(request, rules, *(["pooled"] if request.eggs > 1 else []), "pan"),
        steps=_scramble_steps(request, method.signs, made, stop.name, stop_g),
        warnings=_scramble_warnings(made, pan_c, lifted), minutes=round(made.off_s / 60.0, 3),
        off_c=round(made.off_c, 1), peak_c=round(made.peak_c, 1), plate_c=round(float(made.egg_c[-1]), 1),
        word=set_word(made.peak_c, lifted), curd_mm=round(made.curd_mm, 2), curd=curd_word(made.curd_mm),
        film_mm=round(made.film_mm, 1), egg_g=round(whole_g, 1), stop=stop.name, stop_g=round(stop_g, 1),
        stop_drop_k=round(made.stop_drop_k, 1), pan_at_off_c=round(at_off, 0), butter=butter_sign(pan_c), t_s=t,
        egg_c=egg_c, pan_c=pan_row,
    )  # fmt: skip


def _scramble_warnings(made: Stirred, pan_c: float, lifted_k: float) -> list[str]:
    warnings = []
    if pan_c >= HOT_BUTTER_C:
        warnings.append(f"Butter is {butter_sign(pan_c)} at {pan_c:.0f} °C.")
    if set_word(made.peak_c, lifted_k) in ("dry", "weeps"):
        warnings.append("They will carry over to dry. Take them off sooner, or stop them with more.")
    if made.film_mm > 12.0:
        warnings.append(f"{made.film_mm:.0f} mm deep in this pan. Use a wider pan or two batches.")
    return warnings


def _scramble_steps(
    request: ScrambleRequest, signs: tuple[str, ...], made: Stirred, stop: str, stop_g: float
) -> list[StepOut]:
    steps = Steps()
    eggs = f"{request.eggs} eggs" if request.eggs > 1 else "1 egg"
    pour = steps.add(Action.POUR_IN, eggs, signs[0], span="begin")
    half = steps.add(Action.STIR, eggs, signs[1], pour, 0.35 * made.off_s)
    off = steps.add(Action.OFF_HEAT, eggs, signs[2], half, 0.65 * made.off_s, checks=[signs[2]], span="end")
    if stop_g > 0:
        steps.add(Action.STOP_COOKING, f"with {stop}, {stop_g:.0f} g", "stir it through", off, 2.0)
    steps.add(Action.PLATE, eggs, "wash hands and board after raw egg", off, 12.0)
    return steps.in_order()


def answer_omelette(request: OmeletteRequest) -> OmeletteAnswer:
    """Seconds of an omelette or an egg left whole. Raises NeverReached if the film is too thick for its pan."""
    method, egg, pan = pan_data().omelette[request.school], _egg(request), Pan(request.pan_mm)
    pan_c = request.pan_c if request.pan_c is not None else method.pan_c
    made = in_the_pan(method, egg, request.eggs, pan, pan_c, request.seconds, request.plate_c)
    if not made.reached and request.seconds is None:
        raise NeverReached(
            f"It comes to {made.coldest_peak_c:.0f} °C inside in a quarter of an hour: a wider or hotter pan, or fewer "
            "eggs.", "pan_mm", made.coldest_peak_c,
        )  # fmt: skip
    rules = [cooked(request, request.eggs > 3 and not method.whole, *made.coldest)]
    total = made.stirred_s + made.left_s
    t, coldest = _thin(*made.coldest)
    yolk = None if made.yolk_set is None else YOLK.word(made.yolk_set)
    return OmeletteAnswer(
        method="omelette", rules=rules, goes_out=goes_out(request, rules), cautions=cautions_of(request, rules, "pan"),
        steps=_omelette_steps(request, method, made), warnings=_omelette_warnings(request, method, made, pan_c),
        minutes=round(total / 60.0, 3), stirred_s=round(made.stirred_s, 1), left_s=round(made.left_s, 1),
        turn_s=None if made.turn_s is None else round(made.stirred_s + made.turn_s, 1),
        film_mm=round(made.film_mm, 1), top_c=round(made.top_c, 1), coldest_peak_c=round(made.coldest_peak_c, 1),
        mean_peak_c=round(made.mean_peak_c, 1), face_c=round(made.face_c, 0), browning=browning_word(made.brown),
        butter=butter_sign(pan_c), word=_omelette_word(method, made), yolk=yolk, t_s=t, coldest_c=coldest,
    )  # fmt: skip


def _omelette_word(method: OmeletteRow, made: InThePan) -> str:
    if method.whole:
        return "white set" if made.top_c >= 65.0 else "white soft" if made.top_c >= 62.0 else "white runs"
    return "runs inside" if made.coldest_peak_c < 66.0 else "moist inside" if made.coldest_peak_c < 72.5 else "set"


def _omelette_warnings(request: OmeletteRequest, method: OmeletteRow, made: InThePan, pan_c: float) -> list[str]:
    warnings = []
    if made.brown >= 3.5:
        warnings.append(f"Its face goes {browning_word(made.brown)}. Use a cooler or wider pan.")
    if butter_sign(pan_c) in ("dark", "black: wipe the pan out and start again"):
        warnings.append(f"Butter is {butter_sign(pan_c)} at {pan_c:.0f} °C: clarified, or oil and butter last.")
    if not method.whole and method.density is None and made.film_mm > 8.0 and not method.turned:
        warnings.append(f"{made.film_mm:.0f} mm thick: too thick to fold. Use a wider pan, or make two omelettes.")
    if method.whole and request.eggs * 80.0**2 > request.pan_mm**2:
        warnings.append(f"{request.eggs} eggs run into each other in a pan of {request.pan_mm:.0f} mm.")
    return warnings


def _omelette_steps(request: OmeletteRequest, method: OmeletteRow, made: InThePan) -> list[StepOut]:
    steps = Steps()
    eggs = f"{request.eggs} eggs" if request.eggs > 1 else "1 egg"
    pour = steps.add(Action.BREAK_IN if method.whole else Action.POUR_IN, eggs, method.signs[0], span="begin")
    last, seconds = pour, made.left_s
    if made.stirred_s > 0:
        last = steps.add(Action.STOP_STIRRING, eggs, method.signs[1], pour, made.stirred_s)
    if method.basted:
        last = steps.add(Action.BASTE, eggs, "tilt, spoon the fat over the white", pour, min(30.0, 0.4 * made.left_s))
        seconds = made.left_s - min(30.0, 0.4 * made.left_s)
    if made.turn_s is not None:
        last = steps.add(Action.TURN, "with a plate", method.signs[1], last, made.turn_s)
        seconds = made.left_s - made.turn_s
    action = Action.LIFT if method.whole or method.turned else Action.FOLD
    steps.add(action, eggs, "wash hands and board after raw egg", last, seconds, checks=[method.signs[-1]], span="end")
    return steps.in_order()
