"""The rows of pan.toml: methods, signs of butter, words of set and curd, and what stops the cooking."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ScrambleRow(_Row):
    """A method of scrambling: initial pan temperature, watts an egg, seconds between strokes, end temperature, °C, and
    time in the pan after it.
    """

    name: str
    pan_c: float
    w_each: float
    stir_every_s: float
    off_c: float
    to_plate_s: float
    line: str
    signs: tuple[str, ...]


class OmeletteRow(_Row):
    """A method of omelette, or of an egg left whole: stirred to `stir_to_c`, then left until its coldest point reaches
    `set_c` once folded; for an egg left whole its top in the pan.
    """

    name: str
    pan_c: float
    stir_every_s: float
    stir_to_c: float
    set_c: float
    line: str
    signs: tuple[str, ...]
    density: float | None = None
    conductivity: float | None = None
    turned: bool = False
    whole: bool = False
    basted: bool = False
    covered: bool = False


class StopRow(_Row):
    """An ingredient stirred in to stop the cooking."""

    name: str
    at_c: float
    j_gk: float
    melt_j_g: float
    g_each: float


class FromC(_Row):
    """A word from a temperature upwards."""

    from_c: float
    word: str


class FromMm(_Row):
    """A word from a thickness upwards."""

    from_mm: float
    word: str


class PanData(_Row):
    """All of pan.toml."""

    scramble: dict[str, ScrambleRow]
    omelette: dict[str, OmeletteRow]
    butter: tuple[FromC, ...]
    set: tuple[FromC, ...]
    curd: tuple[FromMm, ...]
    stop: dict[str, StopRow]


@cache
def pan_data() -> PanData:
    """The rows, read once."""
    return PanData.model_validate(
        tomllib.loads(resources.files(__package__).joinpath("data/pan.toml").read_text("utf-8"))
    )


def word_at(rows: Sequence[FromC], celsius: float) -> str:
    """The word of a temperature."""
    return next((step.word for step in reversed(rows) if celsius >= step.from_c), rows[0].word)
