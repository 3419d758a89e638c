"""The result of a brine stage's recipe in its plan: salt, nitrite against the limit, and the meat it is for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..cure.answer import answer_brine
from ..files.plan import Plan
from ..files.result import BrineOut, WarningOut
from ..files.stages import Brine

MEAT_DIFFERS = 0.05  # of the weighed meat; common practice for a scale and a piece that was trimmed


def brines_of(plan: Plan, mass_g: float) -> list[BrineOut]:
    """One for each brine stage with a recipe: computed for the plan's piece and standard, at the stage's time and
    temperature.

    `mass_g` is of one piece. Raises BadInput for an invalid recipe.
    """
    goes_in_g = mass_g * plan.piece.count
    checks = []
    for index, stage in enumerate(plan.stages):
        if not isinstance(stage, Brine) or stage.recipe is None:
            continue
        carried: dict[str, object] = {
            "standard": plan.standard, "temp_c": min(max(stage.temp_c, -1.0), 25.0), "size": plan.piece.shape,
            "cut": plan.piece.cut,
        }  # fmt: skip
        if stage.minutes is not None:
            carried["hours"] = max(stage.minutes / 60.0, 0.01)
        answer = answer_brine(stage.recipe.model_copy(update=carried))
        meat_g = stage.recipe.meat_g
        checks.append(
            BrineOut(
                stage=index, salt_pct_meat=answer.salt_pct_meat, centre_salt_pct=answer.centre_salt_pct,
                nitrite_ppm=answer.nitrite_ppm, limit_ppm=answer.limit_ppm, allowed=answer.allowed, why=answer.why,
                meat_g=meat_g, goes_in_g=round(goes_in_g, 1), fits=abs(goes_in_g - meat_g) <= MEAT_DIFFERS * meat_g,
            )
        )  # fmt: skip
    return checks


def refused(brine: BrineOut) -> str:
    """Why a plan with this brine cannot start; empty if it can."""
    if not brine.allowed:
        return brine.why
    if brine.nitrite_ppm is not None and not brine.fits:
        return f"its curing salt is weighed for {brine.meat_g:.0f} g of meat, and {brine.goes_in_g:.0f} g go in."
    return ""


def brine_warnings(brines: Sequence[BrineOut]) -> Iterator[WarningOut]:
    """Warnings of a brine over its limit, and of one weighed for other meat."""
    for brine in brines:
        where = f"Stage {brine.stage + 1}"
        if not brine.allowed:
            yield WarningOut(code="nitrite-over", text=f"{where}: refused. {brine.why}")
        if not brine.fits:
            text = f"{where}: weighed for {brine.meat_g:.0f} g of meat, and {brine.goes_in_g:.0f} g go in: weigh anew."
            yield WarningOut(code="brine-meat", text=text)
