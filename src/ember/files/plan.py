"""The plan: a piece, a target and a chain of stages. One format for files, the web and the command line.

Temperatures in °C, lengths in mm, masses in g, times in minutes or seconds as the key says.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError, model_validator

from .base import FileModel, House, Text
from .outline import TIED
from .piece import Cylinder, Piece, Slab, Sphere
from .stages import HEATING, QUICK, Bath, Brine, Stage
from .wrong import describe_validation

FORMAT = "open-ember/plan"


class Target(FileModel):
    """The target: a doneness word of the cut's scale, or a core temperature."""

    doneness: str | None = Field(None, max_length=40)
    core_c: float | None = Field(None, ge=20, le=99)

    @model_validator(mode="after")
    def _one_of_them(self) -> Target:
        if (self.doneness is None) == (self.core_c is None):
            raise ValueError("give doneness or core_c, one of them")
        return self


CHANGES_FORM = ("tie", "trim", "fold", "skewer", "shield", "butterfly", "spatchcock")  # steps of preparation

Spice = Literal["pepper", "ground spice", "paprika", "garlic", "sugar", "butter"]


class Prep(FileModel):
    """A preparation step without heat, before stage number `before` (from 0); the number of stages: after them all.

    `with`: contents of a rub or seasoning that heat can burn. `mm`: how much of the thin end is cut off, folded under
    or shielded with foil. What changes the piece's form counts from the first stage on.
    """

    kind: Literal[
        "score", "snip", "tie", "dry", "season", "rub", "press", "portion", "carve", "tenderise",
        "trim", "fold", "skewer", "shield", "butterfly", "spatchcock", "truss",
    ]  # fmt: skip
    minutes: float = Field(0, ge=0, le=14 * 1440)
    before: int = Field(0, ge=0, le=40)
    holds: list[Spice] = Field(default_factory=list, max_length=6, alias="with")
    mm: float | None = Field(None, ge=1, le=1000)


class Plan(FileModel):
    """Piece, target and stages."""

    format: Literal["open-ember/plan"]
    version: Literal[1]
    name: Text = Field("", max_length=120)
    piece: Piece
    target: Target | None = None
    standard: str = Field("us-food-code-2022", max_length=60)
    house: House | None = None
    guests: Literal["general", "susceptible"] = "general"
    advisory: bool = False
    prep: list[Prep] = Field(default_factory=list, max_length=40)
    stages: list[Stage] = Field(min_length=1, max_length=40)
    depth_map: bool = False

    @model_validator(mode="after")
    def _suits_its_form(self) -> Plan:
        if any(step.kind == "truss" for step in self.prep) and self.piece.shape.kind != "from_mass":
            raise ValueError("prep: only a whole bird is trussed; its legs are tied against it")
        for i, stage in enumerate(self.stages):
            if isinstance(stage, Bath) and stage.lies == "against" and isinstance(self.piece.shape, Cylinder | Sphere):
                raise ValueError(f"stages[{i}].lies: only flat pieces touch all along")
        return self

    @property
    def pull_stage(self) -> int | None:
        """Index of the stage whose end is the pull: the one whose length decides the core. None if nothing heats.

        The last heating stage that waits for a temperature; without one the last bath, oven or medium (a sear after it
        is a finish of fixed seconds); without those the last pan.
        """
        heating = [(i, stage) for i, stage in enumerate(self.stages) if stage.kind in HEATING]
        waiting = [i for i, stage in heating if stage.until is not None]
        slow = [i for i, stage in heating if stage.kind not in QUICK]
        return next((candidates[-1] for candidates in (waiting, slow, [i for i, _ in heating]) if candidates), None)

    @property
    def history(self) -> list[str]:
        """The history of the piece, including what the plan itself does."""
        done = list(self.piece.history)
        for stage in self.stages:
            if isinstance(stage, Brine) and stage.recipe is not None and stage.recipe.school == "injected":
                done.append("injected")
            elif isinstance(stage, Brine) and stage.form == "liquid":
                done.append("brined")
        if any(step.kind == "tenderise" for step in self.prep):
            done.append("tenderised")
        if any(self._brings_outside_in(step) for step in self.prep):
            done.append("pierced")
        if self.piece.stuffed:
            done.append("stuffed")
        return list(dict.fromkeys(done))

    def _brings_outside_in(self, step: Prep) -> bool:
        """Whether a step carries what was on the outside into the middle: a skewer, a fold, a flat piece rolled up."""
        outline = self.piece.outline
        is_rolled = isinstance(self.piece.shape, Slab) and outline is not None and outline.family in TIED
        return step.kind in ("skewer", "fold") or (step.kind == "tie" and is_rolled)


def parse_plan(data: object) -> Plan:
    """Validate a plan. Raises BadInput with the place and the reason."""
    try:
        return Plan.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
