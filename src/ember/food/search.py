"""Search for a cut: by part of a name, another name, or a misspelling."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from functools import cache
from importlib import resources

from rapidfuzz import fuzz, utils

from .catalogue import Cut, cuts

LEAST = 72.0  # of 100: how alike a word must be
SURE = 100.0


@cache
def also_called() -> dict[str, tuple[str, ...]]:
    """Other names of a cut, by its id."""
    text = resources.files(__package__).joinpath("data/also_called.toml").read_text("utf-8")
    return {key: tuple(names) for key, names in tomllib.loads(text).items()}


@cache
def _names() -> dict[str, tuple[str, ...]]:
    return {
        key: tuple(utils.default_process(name) for name in (entry.name, key, *also_called().get(key, ())))
        for key, entry in cuts().items()
    }


def _likeness(words: Iterable[str], name: str) -> float:
    """How well the words are found in a name, 0 to 100, by the worst match."""
    own = name.split()

    def best(word: str) -> float:
        if any(part.startswith(word) for part in own):
            return SURE
        return max((fuzz.ratio(word, part[: len(word) + 1] if len(word) > 4 else part) for part in own), default=0.0)

    return min((best(word) for word in words), default=0.0)


def search(typed: str, limit: int = 12) -> list[Cut]:
    """Matching cuts, best first; all of them in the catalogue's order if nothing was typed.

    >>> [row.id for row in search("chiken brest", 1)]
    ['chicken/breast']
    """
    words = utils.default_process(typed).split()
    if not words:
        return list(cuts().values())[:limit]
    matches = []
    for place, (key, names) in enumerate(_names().items()):
        score = max(_likeness(words, name) for name in names)
        if score >= LEAST:
            matches.append((-score, place, key))
    return [cuts()[key] for *_, key in sorted(matches)[:limit]]
