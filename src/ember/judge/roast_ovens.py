"""The ovens in which a table for whole roasts is valid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from .standards import OvenRow, Rule
from .words import marked

AIRS = {"still": "a still oven", "fan": "a fan oven", "humid": "humid heat"}


@dataclass(frozen=True)
class OvenUse:
    """One heating of a roast: its air, °C; `humid`: over 90 % for an hour or more, in a bag, or under water."""

    air: Literal["still", "fan", "humid"]
    celsius: float


def _row_allows(oven_row: OvenRow, rule: Rule, use: OvenUse) -> bool:
    if oven_row.at_least is not None and use.celsius < rule.least_c(oven_row.at_least) - 1e-6:
        return False
    return oven_row.at_most is None or use.celsius <= rule.most_c(oven_row.at_most) + 1e-6


def oven_refusal(rule: Rule, ovens: Sequence[OvenUse] | None, mass_g: float | None) -> str:
    """Why a rule is not valid in the ovens used; empty if it is, or if they are unknown."""
    if not rule.ovens or ovens is None:
        return ""
    kg = 0.0 if mass_g is None else mass_g / 1000.0
    if not ovens:
        return "the table for roasts stands only in an oven it allows, and this was in none"
    for use in ovens:
        rows = [
            oven_row for oven_row in rule.ovens
            if oven_row.air == use.air and (oven_row.below_kg is None or kg < oven_row.below_kg)
            and (oven_row.from_kg is None or kg >= oven_row.from_kg)
        ]  # fmt: skip
        if not any(_row_allows(oven_row, rule, use) for oven_row in rows):
            return f"the table for roasts does not stand in {AIRS[use.air]} at {marked(use.celsius)}{_asks(rule, rows)}"
    return ""


def _asks(rule: Rule, rows: Sequence[OvenRow]) -> str:
    for oven_row in rows:
        weight = " for a roast under 4.5 kg" if oven_row.below_kg else " from 4.5 kg" if oven_row.from_kg else ""
        if oven_row.at_least is not None:
            return f" (needs {marked(rule.least_c(oven_row.at_least))} or hotter{weight})"
        if oven_row.at_most is not None:
            return f" (needs {marked(rule.most_c(oven_row.at_most))} or cooler{weight})"
    return ""
