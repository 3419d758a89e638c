"""What services say, by code."""

from __future__ import annotations

from kitchen.kit.models import Equipment

# Kinds of equipment on the lanes.
KIND_NAMES = {**dict(Equipment.Kind.choices), "hob": "Hob", "hands": "Hands"}
# Fields of a service and of a dish, in what somebody else changed.
HEAD_WORDS = {"name": "name", "covers": "covers", "hands": "cooks", "opens": "opens at", "closes": "closes at"}
DISH_WORDS = {"name": "called", "plan": "by", "eggs": "eggs", "plate_up": "plate at", "portions": "portions"}
