"""The kitchen's own brines on the bench: a brine stage takes over a recipe, and its result is shown."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from ember.cure.mixing import scaled
from ember.errors import EmberError
from ember.files.result import BrineOut
from ember.quantities import Units
from ember.report.brines import refused
from kitchen.accounts.models import Kitchen
from kitchen.brines.forms import BrineForm
from kitchen.brines.models import BrinePlan, Confirmation
from kitchen.brines.queries import confirmation_of, kept_as, kept_brines
from kitchen.desk.pages import address
from kitchen.units.number_text import figure, minutes_text

from .bench import Bench
from .stage_form import ALONG, passthrough_of


@dataclass(frozen=True)
class BrineChoice:
    """The recipe of a brine stage. `known` is False for one the kitchen has not saved."""

    rows: tuple[BrinePlan, ...]
    chosen: str
    has_recipe: bool

    @property
    def known(self) -> bool:
        """Whether its recipe is a saved one."""
        return bool(self.chosen) or not self.has_recipe


@dataclass(frozen=True)
class BrineSaid:
    """The result of a brine stage, who confirmed its curing salt, and why the plan cannot start."""

    out: BrineOut
    kept: BrinePlan | None
    confirmation: Confirmation | None
    refused: str
    weigh_anew: str  # where the desk has it for the plan's own meat; empty where it fits

    @property
    def waits(self) -> bool:
        """Whether a second person has yet to confirm it."""
        return self.out.nitrite_ppm is not None and self.confirmation is None and not self.refused

    @property
    def stops(self) -> bool:
        """Whether it keeps the plan from starting."""
        return bool(self.refused) or self.waits


def brine_choices(kitchen: Kitchen, bench: Bench) -> dict[int, BrineChoice]:
    """For each brine stage the saved recipes, and the one it uses."""
    wanted = [form for form in bench.stages if form.kind == "brine"]
    rows = tuple(kept_brines(kitchen)) if wanted else ()
    choices = {}
    for form in wanted:
        recipe = passthrough_of(form[ALONG].value()).get("recipe")
        chosen = _kept_as(rows, recipe)
        if rows or recipe:
            choices[form.index] = BrineChoice(rows, str(chosen.pk) if chosen else "", bool(recipe))
    return choices


def _kept_as(rows: Sequence[BrinePlan], recipe: Any) -> BrinePlan | None:
    """The saved recipe of a stage; None for an invalid one, which the core reports."""
    try:
        return kept_as(rows, recipe) if isinstance(recipe, dict) else None
    except EmberError:
        return None


def with_brine(data: Mapping[str, str], kitchen: Kitchen) -> Mapping[str, str]:
    """The posted data; with "do" of brine:STAGE the stage takes over the chosen recipe or drops it."""
    verb, _, stage = data.get("do", "").partition(":")
    if verb != "brine" or data.get(f"s{stage}-kind") != "brine":
        return data
    values = dict(data.items())
    along = passthrough_of(values.get(f"s{stage}-{ALONG}"))
    along.pop("recipe", None)
    key = values.get(f"s{stage}-brine")
    brine = next((brine for brine in kept_brines(kitchen) if str(brine.pk) == key), None)
    if brine is not None:
        along["recipe"] = brine.document
        values[f"s{stage}-form"] = "dry" if brine.document["school"] == "dry" else "liquid"
        if brine.document.get("hours"):
            values[f"s{stage}-ends"], values[f"s{stage}-end_value"] = (
                "minutes",
                minutes_text(60.0 * brine.document["hours"]),
            )
    values[f"s{stage}-{ALONG}"] = json.dumps(along) if along else ""
    return values


def brines_said(kitchen: Kitchen, document: Mapping[str, Any], outs: list[BrineOut], units: Units) -> list[BrineSaid]:
    """One for each brine stage with a recipe of a computed plan."""
    if not outs:
        return []
    rows = kept_brines(kitchen)
    notes = []
    for out in outs:
        recipe = document["stages"][out.stage]["recipe"]
        brine = kept_as(rows, recipe)
        sworn = confirmation_of(kitchen, recipe) if out.nitrite_ppm is not None else None
        anew = "" if out.fits else _weighed_anew(recipe, out.goes_in_g, brine, units)
        notes.append(BrineSaid(out, brine, sworn, refused(out), anew))
    return notes


def _weighed_anew(recipe: Mapping[str, Any], meat_g: float, brine: BrinePlan | None, units: Units) -> str:
    """The address of the brine desk with the recipe scaled to that much meat, under a new name."""
    data = BrineForm.data_of(scaled(recipe, meat_g), units)
    name = f"{brine.name[:60]}, {figure(units.mass_value(meat_g), 0)} {units.mass}" if brine else ""
    return address(reverse("brines:desk"), data | {"name": name})
