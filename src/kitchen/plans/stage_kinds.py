"""The kinds of stages on the bench: names, large and small fields, initial values."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

Choices = tuple[tuple[str, str], ...]
YES_NO = {"yes": True, "no": False}


@dataclass(frozen=True)
class Number:
    """A temperature (`unit` "c"), a volume of litres or quarts ("pot"), or a plain number with its unit."""

    label: str
    low: float
    high: float
    unit: str = "c"
    whole: bool = False
    required: bool = True


@dataclass(frozen=True)
class Choice:
    """A choice of a few words; `flag` if the stage's own value is true or false ("yes" and "no" here)."""

    label: str
    choices: Choices
    flag: bool = False
    required: bool = True


@dataclass(frozen=True)
class Kind:
    """`head`: the key of the large field; `small`: keys below it, each with its label."""

    title: str
    fresh: dict[str, Any]
    fields: dict[str, Number | Choice] = field(default_factory=dict)
    head: str | None = None
    small: tuple[tuple[str, str], ...] = ()
    common: bool = False


_AIR = Number("Air", -40, 60)
_BAGGED = Choice("In a bag", (("yes", "bagged"), ("no", "bare")), flag=True)
_BAGGED_AS_BEFORE = Choice("In a bag", (("", "bag left on"), *_BAGGED.choices), flag=True, required=False)
_SIDES: dict[str, Number | Choice] = {
    "seconds_a_side": Number("Seconds a side", 1, 7200, "s a side"),
    "sides": Number("Sides", 1, 400, "sides", whole=True),
    "first": Choice("First down", (("under", "underside first"), ("top", "top first"))),
}
# An oven's door: what it is opened for, by the key of the stage that says how often.
DOOR_KEYS = {"open_every_min": "door opened", "baste_every_min": "basted"}
USUAL_DOOR_MIN = 30
_OVEN_AIR = (
    ("still", "still air"), ("fan", "fan"), ("combi", "combi"), ("smoker", "smoker"), ("air-fryer", "air fryer"),
)  # fmt: skip
_OVEN_IN = (("rack", "on a rack"), ("tray", "on a tray"), ("pan", "in its pan"), ("water_bath", "in a water bath"))
_OVEN_COVERS = (
    ("none", "open"), ("cloth", "buttered cloth"), ("foil", "foil tent"), ("wrapped", "wrapped in foil"),
    ("parcel", "paper parcel"), ("crust", "salt or dough crust"), ("lid", "lid"),
)  # fmt: skip
_COATS = (("none", "bare"), ("flour", "floured"), ("crumb", "crumbed"), ("batter", "in batter"))
_WATER: dict[str, Number | Choice] = {"water_c": Number("Water", -2, 100)}
_ALTITUDE = Number("Altitude", -400, 5000, "m", required=False)
# How much there is to cool, and the heater that brings it back; without it the temperature is held.
LOAD_KEYS = {"load_volume": "litres", "load_power": "power_w"}
_LOAD: dict[str, Number | Choice] = {
    "load_volume": Number("Volume", 0.5, 2000, "pot", required=False),
    "load_power": Number("Heater", 0, 100_000, "W", required=False),
}
_LOAD_ROW = (("filled with", "load_volume"), ("heater", "load_power"))

STAGE_KINDS: dict[str, Kind] = {
    "temper": Kind("Temper", {"air_c": 21, "minutes": 20}, {"air_c": _AIR}, None, (("in air", "air_c"),), common=True),
    "bath": Kind(
        "Bath", {"water_c": 56, "minutes": 90},
        {
            **_WATER, "bagged": _BAGGED,
            "stirred": Choice("Water", (("yes", "water moving"), ("no", "still water")), flag=True),
            "lies": Choice("Bags", (("free", "apart"), ("against", "in touching pairs"))), **_LOAD,
        },
        "water_c", (("", "bagged"), ("", "stirred"), ("", "lies"), *_LOAD_ROW), common=True,
    ),
    "pan": Kind(
        "Sear", {"pan_c": 220, "seconds_a_side": 60, "sides": 2},
        {
            **_SIDES, "pan_c": Number("Pan", 40, 500),
            "start": Choice("Pan starts", (("hot", "hot pan"), ("cold", "cold pan"))),
        },
        "seconds_a_side", (("", "pan_c"), ("", "sides"), ("", "first"), ("", "start")), common=True,
    ),
    "oven": Kind(
        "Oven", {"air_c": 160, "minutes": 20},
        {
            "air_c": Number("Oven", 30, 320),
            "mode": Choice("Oven air", _OVEN_AIR),
            "in": Choice("In", _OVEN_IN),
            "cover": Choice("Cover", _OVEN_COVERS),
            "humidity": Number("Humidity", 0, 100, "%", required=False),
            "door": Choice("Door", (("", "door shut"), *DOOR_KEYS.items()), required=False),
            "door_every": Number("The door", 1, 1440, "min"),
        },
        "air_c",
        (("", "mode"), ("", "in"), ("", "cover"), ("humid", "humidity"), ("", "door"), ("every", "door_every")),
        common=True,
    ),
    "rest": Kind(
        "Rest", {"air_c": 22, "minutes": 6},
        {
            "air_c": _AIR,
            "cover": Choice("Cover", (("open", "open"), ("foil", "foil"), ("wrapped", "wrapped"))),
            "on": Choice("On", (("rack", "on a rack"), ("board", "on a board"), ("hot_plate", "on a hot plate"))),
        },
        None, (("", "cover"), ("", "on"), ("in", "air_c")), common=True,
    ),
    "plancha": Kind(
        "Plancha", {"plate_c": 220, "seconds_a_side": 60, "sides": 2},
        {**_SIDES, "plate_c": Number("Plate", 40, 500)}, "seconds_a_side",
        (("", "plate_c"), ("", "sides"), ("", "first")),
    ),
    "grill": Kind(
        "Grill", {"source_c": 700, "seconds_a_side": 120, "sides": 2},
        {
            **_SIDES, "source_c": Number("Coals or burner", 200, 900),
            "zone": Choice("Where", (("direct", "over the fire"), ("indirect", "beside the fire"))),
            "lid": Choice("Lid", (("open", "lid open"), ("closed", "lid closed"))),
            "bars": Choice("On", (("yes", "on the bars"), ("no", "on a spit")), flag=True),
            "fire": Choice("Fire", (("below", "fire below"), ("above", "under a broiler"))),
        },
        "seconds_a_side",
        (("coals", "source_c"), ("", "fire"), ("", "zone"), ("", "lid"), ("", "bars"), ("", "sides"), ("", "first")),
    ),
    "fry": Kind(
        "Fry", {"oil_c": 175, "minutes": 5}, {"oil_c": Number("Oil", 60, 230), "coat": Choice("Coat", _COATS), **_LOAD},
        "oil_c", (("", "coat"), *_LOAD_ROW),
    ),
    "steam": Kind("Steam", {"minutes": 10}, {"altitude_m": _ALTITUDE}, None, (("at", "altitude_m"),)),
    "simmer": Kind("Simmer", {"water_c": 93, "minutes": 30}, _WATER, "water_c"),
    "poach": Kind("Poach", {"water_c": 80, "minutes": 8}, _WATER, "water_c"),
    "boil": Kind("Boil", {"minutes": 10}, {"altitude_m": _ALTITUDE}, None, (("at", "altitude_m"),)),
    "pressure": Kind(
        "Pressure cooker", {"minutes": 30},
        {"bar_over": Number("Pressure", 0.1, 2.0, "bar over"), "altitude_m": _ALTITUDE},
        None, (("", "bar_over"), ("at", "altitude_m")),
    ),
    "freeze": Kind(
        "Freeze", {"air_c": -18, "minutes": 1440},
        {
            "air_c": Number("Freezer", -60, -2),
            "blast": Choice("Freezer", (("no", "still air"), ("yes", "blast")), flag=True),
        },
        "air_c", (("", "blast"),),
    ),
    "thaw": Kind(
        "Thaw", {"in": "fridge", "air_c": 4, "minutes": 1440},
        {
            "in": Choice("In", (("fridge", "in the fridge"), ("water", "cold running water"), ("air", "room air"))),
            "at_c": Number("At", -2, 40, required=False),
        },
        "at_c", (("", "in"),),
    ),
    "hold": Kind(
        "Hold", {"air_c": 60, "minutes": 20},
        {"in": Choice("In", (("cupboard", "hot cupboard"), ("bath", "bath"))), "at_c": Number("At", -40, 120)},
        "at_c", (("in a", "in"),),
    ),
    "ice_bath": Kind(
        "Ice bath", {"minutes": 40}, {"bagged": _BAGGED_AS_BEFORE}, None, (("", "bagged"),)
    ),
    "chill": Kind(
        "Chill", {"air_c": 3, "minutes": 120},
        {
            "air_c": Number("Chiller", -40, 60),
            "blast": Choice("Chiller", (("no", "still air"), ("yes", "blast")), flag=True),
        },
        "air_c", (("", "blast"),),
    ),
    "reheat": Kind(
        "Reheat", {"in": "bath", "water_c": 60, "minutes": 40},
        {
            "in": Choice("In", tuple((word, word) for word in ("bath", "oven", "sauce", "pan", "steam"))),
            "at_c": Number("At", -2, 500, required=False),
            "bagged": _BAGGED_AS_BEFORE,
        },
        "at_c", (("in a", "in"), ("", "bagged")),
    ),
    "torch": Kind("Torch", {"minutes": 0.5}),
    "brine": Kind(
        "Brine", {"form": "liquid", "temp_c": 4, "minutes": 60},
        {"form": Choice("Brine", (("liquid", "under brine"), ("dry", "rubbed"))), "temp_c": Number("At", -2, 40)},
        "temp_c", (("", "form"),),
    ),
    "medium": Kind(
        "Medium", {"medium_c": 60, "h_w_m2k": 100, "minutes": 30},
        {"medium_c": Number("Medium", -40, 500), "h_w_m2k": Number("Heat transfer", 0, 1_000_000, "W/m²K")},
        "medium_c", (("h", "h_w_m2k"),),
    ),
}  # fmt: skip

STAGE_NAMES = {kind: row.title for kind, row in STAGE_KINDS.items()}
# The temperature of a stage that may be in several media goes by the name of the medium.
HEAT_KEYS: dict[str, dict[str, Any]] = {
    "reheat": {"bath": "water_c", "sauce": "water_c", "oven": "air_c", "pan": "pan_c", "steam": None},
    "hold": {"cupboard": "air_c", "bath": "water_c"},
    "thaw": {"fridge": "air_c", "air": "air_c", "water": "water_c"},
}
# What a stage without the key does.
DEFAULTS: dict[str, dict[str, Any]] = {
    "temper": {"air_c": 21.0},
    "bath": {"bagged": True, "stirred": True, "lies": "free"},
    "fry": {"coat": "none"},
    "pan": {"sides": 2, "first": "under", "start": "hot"},
    "plancha": {"sides": 2, "first": "under"},
    "grill": {
        "sides": 2,
        "first": "under",
        "source_c": 700.0,
        "zone": "direct",
        "lid": "open",
        "bars": True,
        "fire": "below",
    },
    "pressure": {"bar_over": 1.0},
    "freeze": {"air_c": -18.0, "blast": False},
    "thaw": {"in": "fridge"},
    "oven": {"mode": "still", "in": "rack", "cover": "none"},
    "rest": {"air_c": 22.0, "cover": "open", "on": "rack"},
    "simmer": {"water_c": 93.0},
    "poach": {"water_c": 80.0},
    "chill": {"air_c": 3.0, "blast": False},
    "brine": {"form": "liquid", "temp_c": 4.0},
}
