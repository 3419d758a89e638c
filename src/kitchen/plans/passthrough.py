"""Keys of a stage that the bench has no field for: they travel in a hidden field, as JSON."""

from __future__ import annotations

import json
from typing import Any


def passthrough_of(text: str | None) -> dict[str, Any]:
    """What travels along; nothing for what came back damaged, which its form says."""
    try:
        values = json.loads(text or "{}")
    except ValueError:
        return {}
    return values if isinstance(values, dict) else {}
