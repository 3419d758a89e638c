"""Doneness words for peak core temperatures."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from ..errors import BadInput

TOP_C = 99.0
MIDDLE_OF_LAST_K = 2.0  # the last word has no upper end: aim this far into it


@dataclass(frozen=True)
class Word:
    """A doneness word and its range of peak core temperatures, °C."""

    word: str
    low_c: float
    high_c: float
    last: bool = False

    @property
    def aim_c(self) -> float:
        """Target peak core, °C: the middle of the range."""
        return self.low_c + MIDDLE_OF_LAST_K if self.last else 0.5 * (self.low_c + self.high_c)


def _scale(words: Sequence[tuple[str, float]]) -> tuple[Word, ...]:
    ends = [*(float(low) for _, low in words[1:]), TOP_C]
    return tuple(
        Word(word, float(low), end, i == len(words) - 1)
        for i, ((word, low), end) in enumerate(zip(words, ends, strict=True))
    )


@cache
def _table() -> dict[str, Any]:
    return tomllib.loads(resources.files(__package__).joinpath("data/doneness.toml").read_text("utf-8"))


@cache
def scales() -> dict[str, tuple[Word, ...]]:
    """Doneness scales by name, each from raw upwards."""
    return {name: _scale(table["words"]) for name, table in _table().items()}


@cache
def official_scales() -> dict[str, tuple[Word, ...]]:
    """The same words as guides use them, for scales where they differ: shown beside, never used to judge."""
    return {name: _scale(table["official"]) for name, table in _table().items() if "official" in table}


def own_scale(words: Sequence[tuple[str, float]]) -> tuple[Word, ...]:
    """A kitchen's own words as a scale, with raw below them."""
    return _scale([("raw", 0.0), *((word.strip().lower(), low) for word, low in words)])


def scale_of(name: str, own: Sequence[tuple[str, float]] = ()) -> tuple[Word, ...]:
    """The words of a scale, or a kitchen's own if it has any."""
    return own_scale(own) if own else scales()[name]


def word_for(words: Sequence[Word], peak_core_c: float) -> Word:
    """The word for a peak core temperature."""
    return next((word for word in reversed(words) if peak_core_c >= word.low_c), words[0])


def named(words: Sequence[Word], word: str) -> Word:
    """The range of a word.

    Raises BadInput with the scale's words if it has no such word.
    """
    for candidate in words:
        if candidate.word == word.strip().lower():
            return candidate
    known = ", ".join(w.word for w in words[1:])
    raise BadInput(f"This cut has no doneness “{word}”. Its words: {known}.", "target.doneness")
