"""The methods as data, and which of them suit a cut."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..food.catalogue import Cut

Body = Literal["flat", "round", "bird"]


class Method(BaseModel):
    """One row: `stages` and `prep` with "aim" and "tender" to be filled in; sizes in mm, temperatures in °C.

    `start_c`: the piece's temperature before it, where that belongs to the method.
    `labels` are the catalogue's words for it; the other lists restrict the cuts it suits, unless empty.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    name: str
    school: str
    says: str
    labels: tuple[str, ...] = Field(min_length=1)
    bodies: tuple[Body, ...] = ()
    not_bodies: tuple[Body, ...] = ()
    tissue: tuple[str, ...] = ()
    not_tissue: tuple[str, ...] = ()
    not_species: tuple[str, ...] = ()
    size_mm: tuple[float, float] = (1.0, 600.0)
    aim_range_c: tuple[float, float] = (0.0, 99.0)
    aim_c: float | None = None
    tender_c: float | None = None
    start_c: float | None = None
    prep: tuple[dict[str, Any], ...] = ()
    stages: tuple[dict[str, Any], ...] = Field(min_length=1)


@cache
def methods() -> dict[str, Method]:
    """Every method by its id."""
    table = tomllib.loads(resources.files(__package__).joinpath("data/methods.toml").read_text("utf-8"))
    return {key: Method(id=key, **values) for key, values in table.items()}


def body_of(cut_entry: Cut) -> Body:
    """The shape: flat, round, or a whole bird."""
    if cut_entry.thigh_share is not None:
        return "bird"
    return "flat" if cut_entry.form.kind == "slab" else "round"


def _suits(method: Method, cut_entry: Cut, size_mm: float, aim_c: float) -> bool:
    body, tissue = body_of(cut_entry), set(cut_entry.tissue)
    low, high = method.size_mm
    return (
        bool(set(method.labels) & set(cut_entry.methods))
        and (not method.bodies or body in method.bodies)
        and body not in method.not_bodies
        and (not method.tissue or bool(tissue & set(method.tissue)))
        and not tissue & set(method.not_tissue)
        and not ({cut_entry.species, cut_entry.category} & set(method.not_species))
        and low <= size_mm <= high
        and method.aim_range_c[0] <= (method.aim_c or aim_c) <= method.aim_range_c[1]
    )


def suitable(cut_entry: Cut, size_mm: float, aim_c: float) -> list[Method]:
    """Methods that suit a cut of this size for this core, the cut's usual one first."""
    fitting = [method for method in methods().values() if _suits(method, cut_entry, size_mm, aim_c)]
    order = {label: i for i, label in enumerate(cut_entry.methods)}
    return sorted(fitting, key=lambda method: min(order.get(label, len(order)) for label in method.labels))
