"""Cells of CSV files that a spreadsheet must not take for formulas."""

from __future__ import annotations

from collections.abc import Iterable

FORMULAS = ("=", "+", "-", "@", "\t", "\r")


def cells(row: Iterable[object]) -> list[object]:
    """A row whose texts are marked as such where they begin like a formula; numbers stay.

    >>> cells(["=1+1", "Pan 2", -3.5, "-", None])
    ["'=1+1", 'Pan 2', -3.5, "'-", None]
    """
    return [f"'{value}" if isinstance(value, str) and value.startswith(FORMULAS) else value for value in row]
