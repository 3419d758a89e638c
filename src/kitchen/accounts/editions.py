"""Two people editing the same thing: whoever saves second is shown what the first changed, and chooses.

A form carries the edition it was made from. Nothing is overwritten silently: keep mine, take theirs, or keep both.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from kitchen.web import KitchenRequest

FIELD, CHOICE = "edition", "meanwhile"
MINE, BOTH = "mine", "both"


def edition_of(content: Any) -> str:
    """A short fingerprint of an object's current fields."""
    text = json.dumps(content, sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:20]


@dataclass(frozen=True)
class Meanwhile:
    """What somebody else changed since a form was opened. `changes` are sentences; `both`: whether both versions can be
    kept.
    """

    by: str
    at: dt.datetime | None
    changes: tuple[str, ...]
    theirs_url: str
    both: bool = True


def is_stale(request: KitchenRequest, now: Any, wanted: Any) -> bool:
    """Whether a form was made from an older edition than `now`, says something different, and nobody has chosen yet."""
    made_from = request.POST.get(FIELD)
    if made_from is None or request.POST.get(CHOICE) in (MINE, BOTH):
        return False
    return made_from != edition_of(now) and edition_of(now) != edition_of(wanted)


def wants_both(request: KitchenRequest) -> bool:
    """Whether the person chose to keep both versions."""
    return request.POST.get(CHOICE) == BOTH


def changed_fields(before: Mapping[str, Any], after: Mapping[str, Any], names: Mapping[str, str]) -> tuple[str, ...]:
    """The fields that differ between two versions, as sentences: "Places: 4, was 6"."""
    return tuple(
        f"{names.get(key, key)}: {_shown(after.get(key))}, yours {_shown(before.get(key))}"
        for key in names
        if after.get(key) != before.get(key)
    )


def _shown(value: Any) -> str:
    return "nothing" if value in (None, "") else f"{value:%H:%M}" if hasattr(value, "strftime") else str(value)
