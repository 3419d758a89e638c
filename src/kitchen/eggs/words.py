"""What the egg bench says, by code."""

from __future__ import annotations

NAMES = {
    "boil": "Boiled eggs", "steam": "Steamed eggs", "circulator": "Bath eggs", "poach": "Poached eggs",
    "scramble": "Scrambled eggs", "omelette": "Omelette", "emulsion": "Warm sauce", "pasta": "Egg-bound pasta",
    "custard": "Custards", "stirred": "Stirred custard",
}  # fmt: skip
# The white next to the yolk, in the row of cut eggs.
SHOWN_WORDS = {"milky inside": "milky inside", "tender": "tender inside", "set": "set", "firm": "firm"}
# Cooling after the heat, and after a custard's pull.
AFTER_WORDS = {"ice_bath": "in ice", "tap": "in cold water", "air": "on the board", "open": "opened"}
AFTER_PULL = {"lifted": "Lifted out", "in-bath": "Left in its bath", "ice": "Into ice", "fridge": "Into the fridge"}
