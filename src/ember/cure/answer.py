"""The answer to a brine request."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from functools import cache
from importlib import resources
from typing import Any

from ..files.brine import BrineAnswer, BrineRequest, SaltPoint
from .diffusion import hours_even, hours_until
from .mixing import Mixed, allowed_of, mix, nitrite_of, pickup_of
from .rows import Flesh, limits, salt_data
from .salting import Salting, after_soak, body_of, even_pct_of, flesh_of, salt_course_of, salting_of
from .steps import brine_steps, hours_of

SOLUBLE_PCT = 26.3  # salt in water near 5 °C, of the brine; steam-table handbooks, from memory
BRINE_G_ML = 1.03
HEAD_ROOM = 1.25  # a vessel is filled to four fifths
STRENGTH_NEAR = 0.15  # of a strength that is sold
TOO_SALTY_PCT, COLD_C, WARM_H = 3.5, 5.0, 4.0  # what is eaten, and how long a brine may be warm: common practice


@cache
def words() -> dict[str, Any]:
    """The rows of words.toml."""
    return tomllib.loads(resources.files(__package__).joinpath("data/words.toml").read_text("utf-8"))


def answer_brine(request: BrineRequest) -> BrineAnswer:
    """Everything that follows from a brine. Raises BadInput for an unknown standard, cut or size."""
    mixed, flesh, body = mix(request), flesh_of(request), body_of(request)
    ppm, formula = nitrite_of(request, mixed)
    ruled = allowed_of(request, ppm)
    brine_pct = 100.0 * mixed.salt_g / mixed.brine_g if mixed.brine_g > 0 else 0.0
    even_pct = even_pct_of(request, mixed, flesh)
    salting = salting_of(request, mixed, body, flesh) if body is not None else None
    course, profile = salt_course_of(request, salting)
    wanted, even_h = _hours(request, salting, flesh)
    last = course[-1] if course else None
    plain_pct = _plain_pct(request, mixed, last)
    return BrineAnswer(
        school=request.school, salt_g=round(mixed.added_g, 2), salt_pct_meat=round(plain_pct, 3),
        salt_pct_brine=None if request.school == "dry" else round(brine_pct, 3),
        sugar_pct_brine=round(100.0 * request.sugar_g / mixed.brine_g, 3) if mixed.brine_g else 0.0,
        brine_g=round(mixed.brine_g, 1), nitrite_ppm=None if ppm is None else round(ppm, 2), limit_ppm=ruled.limit_ppm,
        allowed=ruled.allowed, why=ruled.why, formula=formula, product=ruled.product,
        centre_salt_pct=last.centre_pct if last else None, mean_salt_pct=last.mean_pct if last else None,
        hours_to_equilibrium=None if even_h is None else round(even_h, 2),
        hours_to_want=None if wanted is None else round(wanted, 2), salt_pct_even=round(even_pct, 3),
        vessel_l=round(_vessel_l(request, mixed), 2), course=course,
        profile_mm=[round(float(v), 2) for v in profile[0]], profile_pct=[round(float(v), 3) for v in profile[1]],
        after_soak_pct=after_soak(request, salting),
        steps=brine_steps(request, mixed.added_g, hours_of(request, even_h, wanted)),
        warnings=_warnings(request, mixed, ppm, brine_pct, wanted, last),
        cautions=_cautions(request),
    )  # fmt: skip


def _hours(
    request: BrineRequest, salting: Salting | None, flesh: Flesh
) -> tuple[float | None, float | None]:  # fmt: skip
    """(until the middle reaches its target, until all is even), h; None if it does not, or is unknown."""
    if salting is None:
        return None, None
    if request.school == "injected":
        return None, 0.0
    state = salting.body, salting.brine_u, salting.own_u
    even_h = hours_even(*state, salting.d_m2s, salting.ratio)
    if request.want_pct is None:
        return None, even_h
    return hours_until(*state, request.want_pct / flesh.water_share, salting.d_m2s, salting.ratio), even_h


def _plain_pct(request: BrineRequest, mixed: Mixed, last: SaltPoint | None) -> float:
    """Salt in the meat by simple calculation, per cent: shared evenly, rubbed in, or by pick-up."""
    if request.school == "equilibrium":
        return 100.0 * mixed.salt_g / (request.meat_g + request.water_g)
    if request.school == "dry":
        return 100.0 * mixed.salt_g / request.meat_g
    if request.school == "gradient" and last is not None:
        return last.mean_pct
    return pickup_of(request) * 100.0 * mixed.salt_g / mixed.brine_g


def _vessel_l(request: BrineRequest, mixed: Mixed) -> float:
    """Volume of a vessel for meat and brine with room to turn it, l."""
    liquid = 0.0 if request.school in ("dry", "injected") else mixed.brine_g / BRINE_G_ML
    return HEAD_ROOM * (request.meat_g / 1.05 + liquid) / 1000.0


def _warnings(
    request: BrineRequest, mixed: Mixed, ppm: float | None, brine_pct: float, wanted: float | None,
    last: SaltPoint | None,
) -> list[str]:  # fmt: skip
    warnings = [words()["cautions"]["treated"]] if request.treated else []
    if request.school != "dry" and brine_pct > SOLUBLE_PCT:
        warnings.append(f"{brine_pct:.0f} % does not dissolve: water holds {SOLUBLE_PCT:g} % at 5 °C.")
    if request.cure is not None:
        warnings += _cure_warnings(request, request.cure.nitrite_pct, ppm)
    if request.want_pct is not None and wanted is None and request.school != "injected":
        warnings.append(f"The middle never comes to {request.want_pct:g} %: more salt, or more brine.")
    if last is not None and last.mean_pct > TOO_SALTY_PCT:
        warnings.append(f"{last.mean_pct:.1f} % is too salty to eat: desalt it, or cure it for less time.")
    if request.temp_c > COLD_C and (request.hours or 0.0) > WARM_H:
        warnings.append(f"{request.temp_c:g} °C for {request.hours:g} h: colder than 5 °C, or within four hours.")
    return warnings


def _cure_warnings(request: BrineRequest, nitrite_pct: float, ppm: float | None) -> Iterator[str]:
    """Warnings about curing salt: an unusual strength, too little of it, an unweighed pick-up."""
    strengths = salt_data().strength
    if not any(abs(nitrite_pct - s.pct) <= STRENGTH_NEAR * s.pct for s in strengths):
        sold = ", ".join(s.name for s in strengths)
        yield (
            f"{nitrite_pct:g} % is no usual strength ({sold}): check the bag again, and have a second person check it."
        )
    rules = limits()[request.standard]
    if ppm is not None and rules.minimum_ppm is not None and ppm < rules.minimum_ppm:
        yield f"{ppm:.0f} ppm is little: {rules.least_words}."
    if request.school in ("gradient", "injected") and request.pickup_pct is None:
        yield "Pick-up is taken as 10 %: weigh the meat before and after."


def _cautions(request: BrineRequest) -> list[str]:
    texts = words()["cautions"]
    cautions = list(texts["cure"]) if request.cure else []
    if request.school == "injected":
        cautions.append(texts["injected"])
    return [*cautions, *texts["always"]]
