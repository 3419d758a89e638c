"""Text that came in outside a form."""

from __future__ import annotations

import unicodedata


def tidy(text: str | None, longest: int) -> str:
    """The text without control characters (PostgreSQL takes no NUL) and outer space, at most `longest` long."""
    kept = "".join(c for c in text or "" if c in "\n\t" or unicodedata.category(c) not in ("Cc", "Cs"))
    return kept.strip()[:longest]


MOST_DIGITS = 9  # what PostgreSQL's integer holds


def whole(text: str | None) -> int | None:
    """A whole number from a form, 0 or more; None for anything else ("²" is a digit to Python, but no number)."""
    return int(text) if text and text.isdecimal() and len(text) <= MOST_DIGITS else None
