"""The lanes of a kitchen's board, before they are drawn."""

from __future__ import annotations

from typing import Any


def lanes_of(kitchen: Any) -> list[Any]:
    """One a cook that has begun, as many as the board shows."""
    from kitchen.line.board_view import MOST_LANES, lanes
    from kitchen.line.queries import running

    found = [following for following in running(kitchen) if not following.cook.waits]
    return lanes(kitchen, found[:MOST_LANES], kitchen.now())
