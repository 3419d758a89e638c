"""What the line says: buttons, records and headings, by code."""

from __future__ import annotations

from ember.files.actions import Action

# The button that ends a round early, and what was done in one.
STOP_ROUND = {"turn": "Stop turning", "baste": "Stop basting"}
ROUND_DONE = {"turn": "Turned", "baste": "Basted"}
# What was done to a piece in a pan.
PIECE_DONE = {"lay": "Laid", "turn": "Turned", "lift": "Lifted"}
PIECE_EVENTS = {"lay": "laid", "turn": "turned", "lift": "lifted", "undo": "last tap undone"}
# Buttons of observations besides the plan's steps.
OBSERVATIONS = {
    "interrupted": "Off the heat", "resumed": "Back on the heat", "opened": "Door open", "closed": "Door closed",
    "probe-moved": "Probe reinserted", "setting": "Set to", "wait": "Served late",
}  # fmt: skip
# Headings of a probe's faults.
PROBE_FAULTS = {
    "unplugged": "Probe silent",
    "stuck": "Probe stuck",
    "slipped": "Probe slipped",
    "off-food": "Probe off the food",
}
# What a record says of a step, for one piece and for several.
STEP_DONE = {
    Action.DROP: ("is in", "are in"), Action.LIFT: ("is out", "are out"), Action.PULL: ("is out", "are out"),
    Action.LIFT_INTO_ICE: ("is in the ice", "are in the ice"),
} | {
    action: (words, words) for action, words in {
        Action.LOWER: "in the water", Action.LOAD: "in the steam", Action.DIP: "dipped", Action.START: "on the heat",
        Action.PEEL: "peeled", Action.OPEN: "opened", Action.LAY_IN: "in the brine", Action.TAKE_OUT: "out of it",
        Action.SERVE: "served", Action.KEEP_COLD: "in the cold", Action.REHEAT_POACHED: "warm again",
    }.items()
}  # fmt: skip
