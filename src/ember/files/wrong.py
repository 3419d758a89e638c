"""Validation errors in words for a cook, with their place in the file."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ..errors import BadInput
from .base import KINDS

MICROWAVE = (
    "a microwave heats unevenly and is not modelled: choose another way to heat it, or check it by readings in its "
    "coldest places"
)


def describe_validation(error: ValidationError) -> BadInput:
    """The first validation error as our own, with its place in the file."""
    first = error.errors(include_url=False)[0]
    tags = {"slab", "cylinder", "sphere", "general", "from_mass", *KINDS}
    place = ""
    before: object = ""
    for part in first["loc"]:
        if isinstance(part, int):
            place += f"[{part}]"
        elif part in tags and (isinstance(before, int) or before in ("shape", "size")):
            pass  # which of a union's models it was
        elif not part.startswith(("function-", "tuple[", "float", "constrained")):
            place += f".{part}" if place else part
        before = part
    return BadInput(_in_words(first), place)


def _in_words(error: Any) -> str:
    context = error.get("ctx", {})
    given = error.get("input")
    shown = f" (given: {given:g})" if isinstance(given, int | float) and not isinstance(given, bool) else ""
    match error["type"]:
        case "greater_than_equal":
            return f"must be at least {context['ge']:g}{shown}"
        case "less_than_equal":
            return f"must be at most {context['le']:g}{shown}"
        case "greater_than":
            return f"must be more than {context['gt']:g}{shown}"
        case "extra_forbidden":
            return "unknown key"
        case "missing" | "union_tag_not_found":
            return "is missing" if error["type"] == "missing" else "needs a kind"
        case "string_pattern_mismatch":
            return "has characters that cannot be shown"
        case "value_error":
            return str(context["error"])
        case "union_tag_invalid" if "microwave" in str(context.get("tag", "")).lower():
            return MICROWAVE
        case _:
            return str(error["msg"][:1].lower() + error["msg"][1:]) + shown
