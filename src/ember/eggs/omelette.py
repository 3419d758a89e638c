"""Omelettes and eggs left whole in the pan: stirred while runny, then a film that sets from below.

A film stays in the pan until its coldest point reaches the method's temperature once it is folded, its wet face on
itself. A turned one is turned half way; for an egg left whole its top counts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..heat import terms
from ..heat.faces import air, contact, film
from ..heat.faces import media as heat_media
from ..heat.grid import FloatArray
from ..heat.numerics import bracketed_root
from ..kinetics.browning import browning_index
from ..kinetics.egg_gels import YOLK as YOLK_GEL
from .body import WHOLE
from .film import Course, Film, follow, make_film, turned
from .kinds import Egg
from .pan_data import OmeletteRow
from .scramble import EGG_J_GK, Pan, contact_h

SHORTEST_S, LONGEST_S = 2.0, 900.0
TURN_AT = 0.55  # of the time left alone
FOLD_S = 30.0
RAMP_POINTS = 12
PLATE_H = 120.0
WHITE_UNDER_YOLK_MM, WHITE_RIM_MM, YOLK_MM = 2.0, 5.0, 13.0  # an egg lying in a pan; common practice
BASTE_C, BASTE_H = 140.0, 45.0  # spoonfuls one after the other; fitted to a basted egg's two minutes
COVER_C, COVER_H = 88.0, 25.0  # steam under a lid; unsure
# Albumen is at pH 9 where meat is at 5.6, and browning doubles for each; and butter's solids are brown before the egg.
# Fitted so that three eggs in a pan of 20 cm at 215 °C are gold within the minute (common practice).
EGG_BROWNS = 8.0


@dataclass(frozen=True)
class InThePan:
    """The result: how long it was stirred and left (and when it was turned), and the temperatures of its points."""

    film_mm: float
    stirred_s: float
    left_s: float
    turn_s: float | None
    top_c: float
    coldest_peak_c: float
    mean_peak_c: float
    face_c: float
    brown: float
    yolk_set: float | None
    coldest: tuple[FloatArray, FloatArray]
    reached: bool


@dataclass(frozen=True)
class _Made:
    """A film with its method: boundary conditions and initial state."""

    row: OmeletteRow
    film: Film
    begins_c: float
    down: FloatArray
    up: FloatArray
    plate: tuple[FloatArray, FloatArray]

    def cooked(self, seconds: float) -> tuple[Course, Course]:
        """In the pan for a time, and then on the plate."""
        if not self.row.turned:
            course = follow(self.film, self.film.at(self.begins_c), self.down, self.up, seconds)
        else:
            first = follow(self.film, self.film.at(self.begins_c), self.down, self.up, TURN_AT * seconds)
            other = follow(self.film, turned(first.state), self.down, self.up, (1.0 - TURN_AT) * seconds)
            course = first.joined(other.turned())
        return course, follow(self.film, course.state, *self.plate, FOLD_S)

    def spots(self, seconds: float) -> Course:
        """The spots of its face with the best contact, which brown first, as on meat."""
        h = heat_media()["pan"]["h_spot"]
        spot = self.down.copy()
        spot[terms.H_CONTACT] = spot[terms.H_DRY] = h
        return follow(self.film, self.film.at(self.begins_c), spot, self.up, seconds)

    def measure(self, seconds: float) -> float:
        """The method's criterion, °C: the coldest point once folded, or the top of an egg left whole."""
        course, plate = self.cooked(seconds)
        if self.row.whole:
            return float(course.temperature_c[-1, -1])
        return float(np.maximum(course.temperature_c.max(axis=0), plate.temperature_c.max(axis=0)).min())


def _stirred_s(omelette: OmeletteRow, egg_g: float, start_c: float, pan: Pan, pan_c: float) -> float:
    """How long the eggs are stirred in a pan that holds its heat, s."""
    if omelette.whole or omelette.stir_to_c <= start_c:
        return 0.0
    rate = contact_h(omelette.stir_every_s) * pan.floor_m2 / (egg_g * EGG_J_GK)
    return float(np.log((pan_c - start_c) / (pan_c - omelette.stir_to_c))) / rate


def _up(omelette: OmeletteRow, share: float = 1.0) -> FloatArray:
    if omelette.basted:
        return film(BASTE_C, share * BASTE_H)
    if omelette.covered:
        return film(COVER_C, COVER_H)
    return air(heat_media()["pan"]["upper_air_c"], heat_media()["pan"])


def _made(omelette: OmeletteRow, egg_c: float, film_mm: float, begins_c: float, pan_c: float, plate_c: float) -> _Made:
    h = heat_media()["pan"]["h"]
    layers = [(WHITE_RIM_MM, "white")] if omelette.whole else [(film_mm, "whole")]
    foam = (omelette.density, omelette.conductivity) if omelette.density and omelette.conductivity else None
    open_top = omelette.turned or omelette.whole
    on_top = air(22.0, heat_media()["rest-open"]) if open_top else film(0.0, 0.0)
    plate = (contact(plate_c, PLATE_H, PLATE_H), on_top)
    return _Made(omelette, make_film(layers, egg_c, foam), begins_c, contact(pan_c, h, h), _up(omelette), plate)


def in_the_pan(
    omelette: OmeletteRow, egg: Egg, eggs: int, pan: Pan, pan_c: float, seconds: float | None, plate_c: float
) -> InThePan:
    """Simulate it until the method takes it off, or for `seconds` after the eggs went in.

    `reached` is False if it never gets there: too thick for this pan, or the pan too cold.
    """
    egg_g = eggs * (egg.yolk_g + egg.white_g)
    film_mm = WHITE_RIM_MM
    if not omelette.whole:
        film_mm = egg_g / (omelette.density or float(WHOLE.density(20.0))) / pan.floor_m2
    stirred = _stirred_s(omelette, egg_g, egg.start_c, pan, pan_c)
    begins_c = omelette.stir_to_c if stirred else egg.start_c
    if seconds is not None and seconds < stirred:
        cooled = ((pan_c - omelette.stir_to_c) / (pan_c - egg.start_c)) ** (seconds / stirred)
        begins_c, stirred = pan_c - (pan_c - egg.start_c) * cooled, seconds
    made = _made(omelette, egg.start_c, film_mm, begins_c, pan_c, plate_c)
    left, reached = _left(made, None if seconds is None else max(seconds - stirred, 0.0))
    course, plate = made.cooked(left)
    whole = course.joined(plate)
    coldest = whole.temperature_c[:, int(np.argmin(whole.temperature_c.max(axis=0)))]
    t, yolk_set = whole.t_s, None
    if omelette.whole:
        yolk_set, t, coldest = _yolk(omelette, made, egg.start_c, left)
    turn_s = TURN_AT * left if omelette.turned else None
    times = np.linspace(0.0, turn_s or course.end_s, 400)
    face = made.spots(turn_s or course.end_s).node_c(0, times)
    ramp = np.linspace(0.0, stirred, RAMP_POINTS, endpoint=False) if stirred else np.zeros(0)
    warming = pan_c - (pan_c - egg.start_c) * ((pan_c - begins_c) / (pan_c - egg.start_c)) ** (ramp / max(stirred, 1.0))
    return InThePan(
        film_mm, stirred, left, turn_s, float(course.temperature_c[-1, 0 if omelette.turned else -1]),
        float(coldest.max()), float(whole.temperature_c.mean(axis=1).max()), float(face.max()),
        EGG_BROWNS * float(browning_index(times, face)), yolk_set,
        (np.concatenate([ramp, t + stirred]), np.concatenate([warming, coldest])), reached,
    )  # fmt: skip


def _left(made: _Made, seconds: float | None) -> tuple[float, bool]:
    """How long it is left alone, s, and whether it reaches its target."""
    wanted = made.row.set_c
    if seconds is not None:
        return max(seconds, 0.1), made.measure(max(seconds, 0.1)) >= wanted - 0.5
    if made.measure(SHORTEST_S) >= wanted:
        return SHORTEST_S, True
    if made.measure(LONGEST_S) < wanted:
        return LONGEST_S, False
    return bracketed_root(lambda s: made.measure(s) - wanted, SHORTEST_S, LONGEST_S, 0.1, 0.25), True


def _yolk(omelette: OmeletteRow, made: _Made, start_c: float, seconds: float) -> tuple[float, FloatArray, FloatArray]:
    """The yolk on its white in the same pan for as long: how far it is set, and its coldest point over time."""
    stacked = make_film([(WHITE_UNDER_YOLK_MM, "white"), (YOLK_MM, "yolk")], start_c)
    # Fat is spooned over the white, and runs off the yolk.
    course = follow(stacked, stacked.at(start_c), made.down, _up(omelette, 0.5), seconds)
    course = course.joined(follow(stacked, course.state, *made.plate, FOLD_S))
    yolk = stacked.grid.x_m > 1e-3 * WHITE_UNDER_YOLK_MM
    weights = stacked.grid.volume[yolk]
    fractions = YOLK_GEL.set_fraction(course.t_s, course.temperature_c[:, yolk])
    coldest = course.temperature_c[:, int(np.argmin(course.temperature_c.max(axis=0)))]
    return float(fractions @ weights / weights.sum()), course.t_s, coldest
