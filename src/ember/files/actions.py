"""Actions and places by code, and the word shown for each.

Programs compare the codes. The words are shown, and stored with a cook, and decide nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum


class Action(StrEnum):
    """What a step does. The values are published in steps as `action`."""

    BASTE = "baste"
    BOIL = "boil"
    BREAK_IN = "break-in"
    BRINE = "brine"
    CARAMELISE = "caramelise"
    CHECK = "check"
    CHILL = "chill"
    COOK = "cook"
    COVER = "cover"
    DIP = "dip"
    DISSOLVE = "dissolve"
    DRAIN = "drain"
    DROP = "drop"
    DRY = "dry"
    FOLD = "fold"
    HOLD = "hold"
    INJECT = "inject"
    KEEP_COLD = "keep-cold"
    LAY = "lay"
    LAY_IN = "lay-in"
    LET_COOL = "let-cool"
    LIFT = "lift"
    LIFT_INTO_ICE = "lift-into-ice"
    LOAD = "load"
    LOWER = "lower"
    METHOD = "method"
    OFF_HEAT = "off-heat"
    OPEN = "open"
    PEEL = "peel"
    PLATE = "plate"
    POUR = "pour"
    POUR_IN = "pour-in"
    PREPARE = "prepare"
    PULL = "pull"
    READ_AGAIN = "read-again"
    REHEAT = "reheat"
    REHEAT_POACHED = "reheat-poached"
    REST = "rest"
    RUB = "rub"
    SERVE = "serve"
    SET = "set"
    SOAK = "soak"
    START = "start"
    STIR = "stir"
    STIR_IN = "stir-in"
    STOP_COOKING = "stop-cooking"
    STOP_STIRRING = "stop-stirring"
    STRAIN = "strain"
    TAKE_OUT = "take-out"
    TEMPER = "temper"
    TORCH = "torch"
    TURN = "turn"
    WAIT = "wait"
    WASH = "wash"
    WEIGH = "weigh"


class Place(StrEnum):
    """Where a step takes a piece from and to. The values are published in steps as `from_place` and `to_place`."""

    BATH = "bath"
    BOARD = "board"
    BRINE = "brine"
    CHILLER = "chiller"
    FRIDGE = "fridge"
    FREEZER = "freezer"
    FRYER = "fryer"
    GRILL = "grill"
    HEAT = "heat"
    HOT_CUPBOARD = "hot cupboard"
    ICE_BATH = "ice bath"
    MEDIUM = "medium"
    OVEN = "oven"
    PAN = "pan"
    PLANCHA = "plancha"
    PLATE = "plate"
    POT = "pot"
    PRESSURE = "pressure cooker"
    REST_SHELF = "rest shelf"
    STEAMER = "steamer"
    THAW = "thawing place"
    TORCH = "torch"
    WORKTOP = "worktop"


ACTION_WORDS: dict[Action, str] = {
    Action.BASTE: "Baste", Action.BOIL: "It boils", Action.BREAK_IN: "Break in", Action.BRINE: "Brine",
    Action.CARAMELISE: "Caramelise", Action.CHECK: "Check", Action.CHILL: "Chill", Action.COOK: "Cook",
    Action.COVER: "Cover, off the heat", Action.DIP: "Dip", Action.DISSOLVE: "Dissolve", Action.DRAIN: "Drain",
    Action.DROP: "Drop", Action.DRY: "Dry", Action.FOLD: "Fold, onto the plate", Action.HOLD: "Hold",
    Action.INJECT: "Inject", Action.KEEP_COLD: "Keep cold", Action.LAY: "Lay", Action.LAY_IN: "Lay in",
    Action.LET_COOL: "Let it cool", Action.LIFT: "Lift", Action.LIFT_INTO_ICE: "Lift", Action.LOAD: "Load",
    Action.LOWER: "Lower", Action.METHOD: "Go on", Action.OFF_HEAT: "Off the heat", Action.OPEN: "Open",
    Action.PEEL: "Peel", Action.PLATE: "Onto the plate", Action.POUR: "Pour", Action.POUR_IN: "Pour in",
    Action.PREPARE: "Prepare", Action.PULL: "Pull", Action.READ_AGAIN: "Read again", Action.REHEAT: "Reheat",
    Action.REHEAT_POACHED: "Bring back", Action.REST: "Rest", Action.RUB: "Rub", Action.SERVE: "Serve",
    Action.SET: "Set", Action.SOAK: "Soak", Action.START: "Start", Action.STIR: "Stir", Action.STIR_IN: "Stir in",
    Action.STOP_COOKING: "Stop", Action.STOP_STIRRING: "Stop stirring", Action.STRAIN: "Off",
    Action.TAKE_OUT: "Take out", Action.TEMPER: "Temper", Action.TORCH: "Torch", Action.TURN: "Turn",
    Action.WAIT: "Wait", Action.WASH: "Wash", Action.WEIGH: "Weigh",
}  # fmt: skip
PLACE_WORDS: dict[Place, str] = {place: place.value for place in Place}

# Steps of cooks from before the codes were kept have words only: these words, as they were then.
_KEPT_WORDS = {word: action for action, word in ACTION_WORDS.items() if action is not Action.LIFT_INTO_ICE}
_KEPT_WORDS |= {"Caramel": Action.CARAMELISE}


def action_of(step: Mapping[str, object]) -> Action:
    """The code of a stored step; for a step from before codes, by its word."""
    if code := step.get("action"):
        return Action(str(code))
    if step.get("kind") == "prep":
        return Action.PREPARE
    action = _KEPT_WORDS.get(str(step["verb"]), Action.METHOD)
    return Action.LIFT_INTO_ICE if action is Action.LIFT and "ice" in str(step.get("how", "")) else action
