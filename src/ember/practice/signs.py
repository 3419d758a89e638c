"""What a cook sees, hears and feels of food on the heat: the model's temperatures through a table of words."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from functools import lru_cache
from importlib import resources

import numpy as np
from pydantic import BaseModel, ConfigDict

PALE = ("poultry", "pork", "fish", "shellfish")


class SignRow(BaseModel):
    """A sense: words by the least °C of each, scatter of single looks, and source."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    source: str
    confidence: str
    noise_k: float
    words: tuple[tuple[float, str], ...]


@lru_cache(maxsize=1)
def signs() -> dict[str, SignRow]:
    """All senses, by name."""
    text = resources.files(__package__).joinpath("data/signs.toml").read_text("utf-8")
    return {key: SignRow.model_validate(values) for key, values in tomllib.loads(text).items()}


def word_at(rows: Sequence[tuple[float, str]], celsius: float) -> str:
    """The word at a temperature; the first one below all of them.

    >>> word_at([(0.0, "cold"), (40.0, "warm")], 41.0)
    'warm'
    """
    return next((word for low, word in reversed(rows) if celsius >= low), rows[0][1])


def sign(sense: str, celsius: float, seed: int, at_s: float) -> str:
    """The sense's word for a temperature, with its scatter; at the same moment it is the same."""
    sign_row = signs()[sense]
    number = [seed, round(at_s), sum(sense.encode())]
    off = sign_row.noise_k * float(np.random.default_rng(number).standard_normal())
    return word_at(sign_row.words, celsius + off)
