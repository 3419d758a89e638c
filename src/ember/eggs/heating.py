"""The heating of each method: shell eggs in hot or cold water, in a bath, in steam; poached eggs by method."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np
from pydantic import BaseModel, ConfigDict

from ..errors import BadInput
from ..files.egg import BoilRequest, CirculatorRequest, PoachRequest, SteamRequest, ThenIn, Timed
from ..heat import terms
from .body import EggBody, in_shell, out_of_shell
from .egg_history import Course, Medium, follow, media
from .kinds import Egg, egg_of
from .state import EggState

WATER_J_LK = 4180.0
BOILS_WITHIN_K = 0.5
WARM_UP_MOST_S = 3 * 3600.0
LID_TAU_S = 70 * 60.0  # how slowly a covered pot off the heat cools; common practice
# Minutes of heat beyond which nothing more is looked for.
LONGEST_MIN = {"quail": 15.0, "hen": 30.0, "duck": 35.0, "goose": 60.0, "ostrich": 240.0}
THEN_MIN = {"ice_bath": 5.0, "tap": 5.0, "air": 10.0, "open": 1.5}


class PoachRow(BaseModel):
    """A poaching method, from schools.toml."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    white_kept: float
    medium: str
    water_c: float
    depth_cm: float = 0.0
    line: str
    steps: tuple[str, ...] = ()
    source: str


@cache
def poach_schools() -> dict[str, PoachRow]:
    """Poaching methods by id."""
    table = tomllib.loads(resources.files(__package__).joinpath("data/poach.toml").read_text("utf-8"))
    return {key: PoachRow.model_validate({"id": key, **values}) for key, values in table.items()}


@dataclass(frozen=True)
class Heat:
    """An egg heated for longer than any target needs, to be ended anywhere; its minutes count from `begins_s`."""

    egg: Egg
    course: Course
    begins_s: float
    then: tuple[Medium, float]

    @property
    def longest_min(self) -> float:
        """Number of minutes simulated."""
        return (self.course.end_s - self.begins_s) / 60.0

    def after(self, minutes: float) -> EggState:
        """The egg lifted after that many minutes, at the end of its cooling."""
        lifted = self.begins_s + 60.0 * minutes
        medium, seconds = self.then
        return EggState(self.course.until(lifted).then(medium, seconds), lifted)

    def edge_c(self, minutes: float) -> float:
        """Edge of the yolk when lifted, °C."""
        T = self.course.profile(self.begins_s + 60.0 * minutes)[0]
        return float(T[self.course.body.edge])


def egg_in(request: Timed) -> Egg:
    """The request's egg."""
    egg_asked = request.egg
    return egg_of(egg_asked.kind, egg_asked.mass_g, egg_asked.size, egg_asked.girth_mm, egg_asked.start_c)


def water_c(request: Timed) -> float:
    """Temperature of water or steam, °C."""
    if isinstance(request, SteamRequest):
        return request.boiling_c
    if request.water_c is not None:
        return request.water_c
    if isinstance(request, PoachRequest):
        return min(poach_schools()[request.school].water_c, request.boiling_c - 1.0)
    return request.boiling_c


def _film(celsius: float, boiling_c: float) -> float:
    """Film coefficient of the water, W/m²K: from barely moving over a simmer to a rolling boil, at any altitude."""
    rows = [media()[name] for name in ("still", "simmer", "rolling")]
    below = [band["below_boil_k"] for band in rows]
    return float(np.interp(celsius - boiling_c, [-k for k in below], [band["h"] for band in rows]))


def after_medium(then: ThenIn) -> tuple[Medium, float]:
    """Medium of an egg after heating, and for how long, s."""
    medium = media()["air" if then.kind == "open" else then.kind]
    minutes = THEN_MIN[then.kind] if then.minutes is None else then.minutes
    return Medium(medium["h"], medium["medium_c"]), 60.0 * minutes


def pot_litres(request: Timed) -> float:
    """Water in the pot, l: as stated, else enough to cover the eggs."""
    pot = media()["pot"]
    given_l = request.pot.water_l if request.pot else None
    share = egg_in(request).mass_g / 58.0
    return float(given_l if given_l is not None else pot["water_l"] * max(share, 1.0) + pot["water_l_each"] * share
                 * (request.count - 1))  # fmt: skip


def pot_around(request: Timed, body: EggBody, set_c: float, off: bool = False) -> terms.Around:
    """The pot of water as a body around the eggs, for one square metre of their surface."""
    pot = media()["pot"]
    capacity = WATER_J_LK * pot_litres(request) + pot["metal_j_k"]
    power = request.pot.power_w if request.pot and request.pot.power_w is not None else pot["power_w"]
    area = request.count * body.surface_m2
    loss = capacity / LID_TAU_S if off else pot["loss_w_k"]
    return terms.Around(capacity / area, loss / area, 20.0, set_c, 0.0 if off else power / area)


def heat_of(request: Timed, longest_min: float | None = None) -> Heat:
    """The heating of a request, long enough for any target. Raises BadInput for water that never boils."""
    egg = egg_in(request)
    then = after_medium(request.then)
    celsius = water_c(request)
    if isinstance(request, PoachRequest) and request.school != "circulator":
        school = poach_schools()[request.school]
        body = out_of_shell(egg, school.white_kept)
        if school.medium == "water":
            medium = _water(request, body, celsius)
        else:
            medium = Medium(media()[school.medium]["h"], celsius)
        return Heat(egg, follow(body, body.start()[0], medium, _longest_s(egg, celsius, longest_min)), 0.0, then)
    body = in_shell(egg)
    longest_s = _longest_s(egg, celsius, longest_min)
    if isinstance(request, SteamRequest):
        medium = Medium(media()["steam"]["h"], celsius)
    elif isinstance(request, CirculatorRequest | PoachRequest):
        medium = Medium(media()["bath"]["h"], celsius)
    elif request.start == "hot":
        medium = _water(request, body, celsius)
    else:
        return _cold_start(request, egg, body, celsius, longest_s, then)
    return Heat(egg, follow(body, body.start()[0], medium, longest_s), 0.0, then)


def _longest_s(egg: Egg, celsius: float, longest_min: float | None) -> float:
    if longest_min is not None:
        return 60.0 * longest_min
    # Below 80 °C it is the kinetics that take the time.
    gentle = 12.0 if celsius < 68.0 else 4.0 if celsius < 80.0 else 1.0
    return min(60.0 * LONGEST_MIN[egg.kind.id] * gentle, 12 * 3600.0)


def _water(request: Timed, body: EggBody, celsius: float) -> Medium:
    return Medium(_film(celsius, request.boiling_c), celsius, pot_around(request, body, celsius), celsius)


def _cold_start(
    request: BoilRequest, egg: Egg, body: EggBody, celsius: float, longest_s: float, then: tuple[Medium, float]
) -> Heat:
    pot = pot_around(request, body, celsius)
    heating = Medium(media()["still"]["h"], celsius, pot, request.water_start_c)
    up = follow(body, body.start()[0], heating, WARM_UP_MOST_S / 4)
    there = np.flatnonzero(up.water_c >= celsius - BOILS_WITHIN_K)
    if not len(there):
        hottest = float(up.water_c.max())
        raise BadInput(
            f"This much water does not reach {celsius:.0f} °C within 45 min on this burner (it comes to "
            f"{hottest:.0f} °C): less water, fewer eggs, or more power.", "pot.power_w",
        )  # fmt: skip
    i = int(there[0])
    rise = up.water_c[i] - up.water_c[i - 1] if i else 1.0
    boils = up.t_s[i] - (up.t_s[i] - up.t_s[i - 1]) * (up.water_c[i] - celsius + BOILS_WITHIN_K) / rise if i else 1.0
    warm = up.until(max(float(boils), 1.0))
    off = request.start == "off-heat"
    h = media()["still"]["h"] if off else _film(celsius, request.boiling_c)
    rest = Medium(h, celsius, pot_around(request, body, celsius, off), celsius)
    return Heat(egg, warm.then(rest, longest_s), warm.end_s, then)


def water_dip(heat: Heat, celsius: float) -> tuple[float, float]:
    """How far the eggs cool the water, K, and after how long it is back within half a kelvin, s."""
    water = heat.course.water_c[heat.course.t_s >= heat.begins_s]
    t = heat.course.t_s[heat.course.t_s >= heat.begins_s] - heat.begins_s
    lowest = float(water.min())
    below = np.flatnonzero(water < celsius - BOILS_WITHIN_K)
    return lowest, float(t[min(int(below[-1]) + 1, len(t) - 1)]) if len(below) else 0.0


def minutes_up(minutes: float) -> float:
    """Minutes rounded to the second, as a clock counts them."""
    return math.floor(60.0 * minutes + 0.5) / 60.0
