"""The made-up kitchen: the galley of the coastal ferry MV Tern Island. Every name, cut, weight and time is invented."""

from __future__ import annotations

from typing import Any

KITCHEN = {"name": "MV Tern Island", "place": "Galley", "standard": "us-food-code-2022", "time_zone": "UTC"}

# (sign-in name, name, role). The password is for the demonstration only.
PASSWORD = "galley-demo-7"  # noqa: S105  (a demonstration's, printed at the start)
PEOPLE = [("runa", "Runa Askvik", "chef"), ("tobin", "Tobin Marr", "cook"), ("pell", "Pell Osei", "cook")]

DEVICE = "Needle box"
# Name, channels, and the equipment its probe stays in.
MORE_DEVICES = {"wires": ("Four wires", 4, ""), "bath": ("Bath A controller", 1, "Bath A")}

EQUIPMENT: list[dict[str, Any]] = [
    {"kind": "oven", "name": "Oven 1", "station": "Aft wall", "places": 5},
    {"kind": "oven", "name": "Oven 2", "station": "Aft wall", "places": 3},
    {"kind": "bath", "name": "Bath A", "station": "Sink side", "places": 12, "litres": 28.0, "power_w": 1600.0},
    {"kind": "bath", "name": "Bath B", "station": "Sink side", "places": 9, "litres": 18.0, "power_w": 1400.0},
    {"kind": "hob", "name": "Ring 1", "station": "Port hob"},
    {"kind": "hob", "name": "Ring 2", "station": "Port hob"},
    {
        "kind": "pan",
        "name": "Pan 1",
        "station": "Port hob",
        "diameter_mm": 310.0,
        "mass_kg": 2.4,
        "material": "carbon-steel",
    },
    {
        "kind": "pan",
        "name": "Pan 2",
        "station": "Port hob",
        "diameter_mm": 260.0,
        "mass_kg": 1.7,
        "material": "cast-iron",
    },
    {"kind": "shelf", "name": "Rest shelf", "station": "Pass", "places": 14},
    {"kind": "fridge", "name": "Walk-in", "station": "Stores"},
    {"kind": "chiller", "name": "Blast chiller", "station": "Stores", "places": 6},
]  # fmt: skip

# Equipment, days ago, set to and measured, °C.
CHECKS = [
    ("Oven 1", 9, 180.0, 171.5), ("Oven 1", 9, 120.0, 116.0), ("Oven 2", 30, 150.0, 151.0), ("Bath A", 3, 57.0, 57.1),
    ("Bath B", 20, 64.0, 63.5), ("Pan 1", 6, 220.0, 214.0), ("Pan 2", 6, 200.0, 203.0), ("Walk-in", 2, 3.0, 3.8),
    ("Blast chiller", 11, 3.0, 2.4),
]  # fmt: skip
# Device, probe, days ago, where, measured, °C.
PROBE_CHECKS = [
    ("Needle box", "1", 4, "ice", 0.2),
    ("Needle box", "1", 4, "boil", 99.6),
    ("Four wires", "1", 5, "ice", 0.1),
    ("Four wires", "2", 5, "ice", -0.3),
    ("Four wires", "3", 5, "ice", 0.0),
    ("Four wires", "4", 33, "ice", 0.4),
    ("Bath A controller", "1", 12, "ice", 0.1),
]


def _plan(name: str, piece: dict[str, Any], target: str, stages: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    return {
        "format": "open-ember/plan",
        "version": 1,
        "name": name,
        "piece": piece,
        "target": {"doneness": target},
        "standard": "us-food-code-2022",
        "stages": stages,
        **more,
    }


RIB_BRINE: dict[str, Any] = {
    "format": "open-ember/brine", "version": 1, "school": "equilibrium", "meat_g": 6400.0, "water_g": 4600.0,
    "salt_pct": 2.0, "sugar_g": 105.0, "cure": {"grams": 24.0, "nitrite_pct": 6.25},
    "size": {"kind": "slab", "thickness_mm": 52.0}, "flesh": "meat", "hours": 36.0, "temp_c": 3.0, "treated": False,
}  # fmt: skip

PLANS: list[dict[str, Any]] = [
    _plan(
        "Bosun's strip, smoked butter",
        {
            "cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": 34}, "mass_g": 295, "count": 8,
            "start_c": 4, "spread_mm": 5,
        },
        "medium-rare",
        [
            {"kind": "bath", "water_c": 56.2, "until": {"peak_c": 54.6}},
            {"kind": "pan", "pan_c": 225, "seconds_a_side": 40, "sides": 2},
            {"kind": "rest", "air_c": 23, "minutes": 7},
        ],
        prep=[
            {"kind": "season", "minutes": 2}, {"kind": "dry", "minutes": 2, "before": 1},
            {"kind": "rub", "minutes": 2, "before": 1, "with": ["pepper", "garlic"]},
        ],
    ),
    _plan(
        "Chicken breast for the crossing",
        {
            "cut": "chicken/breast", "shape": {"kind": "slab", "thickness_mm": 31}, "mass_g": 205, "count": 12,
            "start_c": 4, "spread_mm": 4,
        },
        "firm",
        [
            {"kind": "pan", "pan_c": 185, "seconds_a_side": 110, "sides": 2},
            {"kind": "oven", "air_c": 175, "mode": "fan", "until": {"peak_c": 75.5}},
            {"kind": "rest", "air_c": 24, "cover": "foil", "minutes": 7},
        ],
    ),
    _plan(
        "Lamb rump, kelp salt",
        {
            "cut": "lamb/rump", "shape": {"kind": "slab", "thickness_mm": 47}, "mass_g": 385, "count": 4,
            "start_c": 6, "spread_mm": 6,
        },
        "medium",
        [
            {"kind": "temper", "air_c": 22, "minutes": 25},
            {"kind": "pan", "pan_c": 205, "seconds_a_side": 75, "sides": 2},
            {"kind": "oven", "air_c": 135, "until": {"peak_c": 58.5}},
            {"kind": "rest", "air_c": 24, "minutes": 11},
        ],
        advisory=True,
    ),
    _plan(
        "Eye of round for the cold table",
        {"cut": "beef/eye-round", "shape": {"kind": "cylinder", "diameter_mm": 82, "length_mm": 210}, "start_c": 4},
        "medium",
        [
            {"kind": "oven", "air_c": 215, "mode": "fan", "minutes": 14},
            {"kind": "oven", "air_c": 92, "until": {"peak_c": 59.5}},
            {"kind": "rest", "air_c": 23, "cover": "foil", "minutes": 35},
        ],
        advisory=True,
    ),
    _plan(
        "Harbour cod, brown shrimp",
        {
            "cut": "cod/fillet", "shape": {"kind": "slab", "thickness_mm": 29}, "mass_g": 165, "count": 10,
            "start_c": 3,
        },
        "firm",
        [
            {"kind": "pan", "pan_c": 190, "seconds_a_side": 80, "sides": 2},
            {"kind": "oven", "air_c": 165, "mode": "fan", "until": {"peak_c": 63.8}},
            {"kind": "rest", "air_c": 24, "minutes": 4},
        ],
    ),
    _plan(
        "Turkey for the long crossing",
        {"cut": "turkey/whole", "shape": {"kind": "from_mass"}, "mass_g": 5200, "start_c": 5},
        "tender",
        [
            {"kind": "oven", "air_c": 172, "cover": "cloth", "baste_every_min": 45, "until": {"peak_c": 78.0}},
            {"kind": "oven", "air_c": 205, "mode": "fan", "minutes": 15},
            {"kind": "rest", "air_c": 45, "cover": "foil", "minutes": 30},
        ],
    ),
    _plan(
        "Ham, simmered then glazed",
        {"cut": "ham/whole", "shape": {"kind": "from_mass"}, "mass_g": 4300, "start_c": 4},
        "well done",
        [
            {"kind": "simmer", "water_c": 84, "until": {"core_c": 66.0}},
            {"kind": "oven", "air_c": 195, "in": "tray", "minutes": 25},
            {"kind": "rest", "air_c": 24, "cover": "open", "minutes": 25},
        ],
    ),
    _plan(
        "Roe loin, juniper",
        {"cut": "venison/loin", "shape": {"kind": "cylinder", "diameter_mm": 46, "length_mm": 190}, "start_c": 7,
         "count": 3},
        "rare",
        [
            {"kind": "pan", "pan_c": 215, "seconds_a_side": 90, "sides": 4},
            {"kind": "rest", "air_c": 26, "cover": "foil", "minutes": 12},
        ],
        advisory=True,
        prep=[{"kind": "tie", "minutes": 6}, {"kind": "dry", "minutes": 2}, {"kind": "season", "minutes": 1}],
    ),
    _plan(
        "Haunch steaks, bramble",
        {
            "cut": "venison/loin", "shape": {"kind": "slab", "thickness_mm": 36}, "mass_g": 190, "count": 4,
            "start_c": 4,
        },
        "medium-rare",
        [
            {"kind": "bath", "water_c": 55.6, "until": {"peak_c": 53.8}},
            {"kind": "pan", "pan_c": 228, "seconds_a_side": 35, "sides": 2},
            {"kind": "rest", "air_c": 23, "minutes": 5},
        ],
        prep=[{"kind": "season", "minutes": 1}, {"kind": "dry", "minutes": 2, "before": 1}],
        advisory=True,
    ),
    _plan(
        "Short rib, brined and pressed",
        {
            "cut": "beef/short-rib", "shape": {"kind": "slab", "thickness_mm": 52}, "mass_g": 640, "count": 10,
            "start_c": 4, "spread_mm": 8,
        },
        "fork-tender",
        [
            {"kind": "brine", "temp_c": 3, "minutes": 2160, "recipe": RIB_BRINE},
            {"kind": "pan", "pan_c": 228, "seconds_a_side": 70, "sides": 2},
            {"kind": "rest", "air_c": 22, "minutes": 12},
            {"kind": "bath", "water_c": 82.5, "minutes": 830},
            {"kind": "ice_bath", "minutes": 70},
            {"kind": "chill", "air_c": 2, "minutes": 960},
            {"kind": "reheat", "in": "oven", "air_c": 140, "until": {"core_c": 74.5}},
            {"kind": "pan", "pan_c": 205, "seconds_a_side": 45, "sides": 2},
            {"kind": "rest", "air_c": 24, "minutes": 5},
        ],
        prep=[
            {"kind": "dry", "minutes": 3, "before": 1}, {"kind": "press", "minutes": 100, "before": 6},
            {"kind": "portion", "minutes": 12, "before": 6},
            {"kind": "rub", "minutes": 3, "before": 7, "with": ["pepper", "ground spice"]},
        ],
    ),
]  # fmt: skip

TAGS = {
    "Bosun's strip, smoked butter": ["captain's table", "supper"],
    "Chicken breast for the crossing": ["mess"],
    "Eye of round for the cold table": ["cold table"],
    "Harbour cod, brown shrimp": ["mess", "supper"],
    "Ham, simmered then glazed": ["cold table", "feast"],
    "Short rib, brined and pressed": ["captain's table"],
    "Turkey for the long crossing": ["feast"],
}

# Past cooks: plan, hours ago, who, how the truth differed (size ×, medium +K), how long the pull was late (s), checks,
# what was done about it, who signed. The readings come from the heat model with a little noise.
PAST: list[dict[str, Any]] = [
    {
        "plan": "Chicken breast for the crossing", "hours_ago": 27.5, "by": "tobin", "size": 1.02, "medium_k": 1.5,
        "pull_late_s": 70, "check": {"sense": "probe", "sense_name": "Probe in the core", "note": "thickest, left row"},
        "corrections": [], "signed_by": "runa",
    },
    {
        "plan": "Harbour cod, brown shrimp", "hours_ago": 25.2, "by": "pell", "size": 1.11, "medium_k": -9.0,
        "pull_late_s": -25,
        "check": {"sense": "probe", "sense_name": "Probe in the core", "note": "middle still glassy"},
        "corrections": ["Back in the oven in its tray for 4 min. 64.9 by the second needle, then sent."],
        "signed_by": "runa",
    },
    {
        "plan": "Lamb rump, kelp salt", "hours_ago": 3.4, "by": "tobin", "size": 0.98, "medium_k": -2.0,
        "pull_late_s": 0, "check": {"sense": "press", "sense_name": "Press", "word": "medium", "note": ""},
        "corrections": [], "signed_by": None,
    },
]  # fmt: skip

# The egg bench's own requests, kept under their names.
EGGS: list[dict[str, Any]] = [
    {
        "name": "Rye and smoked herring", "method": "boil", "egg": {"kind": "hen", "mass_g": 61.0, "start_c": 5.0},
        "count": 14, "target": {"yolk": "jammy"}, "then": {"kind": "ice_bath"},
        "pot": {"water_l": 6.0, "power_w": 2800.0},
    },
    {
        "name": "Morning crossing, poached", "method": "poach", "school": "dragged", "count": 6, "water_c": 91.0,
        "egg": {"kind": "hen", "mass_g": 61.0, "start_c": 5.0}, "minutes": 3.75, "then": {"kind": "ice_bath"},
        "bring_back": {"water_c": 60.0, "minutes": 10.0}, "advisory": True,
    },
    {
        "name": "Kelp custards", "method": "custard", "custard": "cream", "ramekin_mm": [75.0, 38.0], "oven_c": 155.0,
        "start_c": 45.0, "water_level": 0.6, "sugar_pct": 9.0, "yolk_pct": 18.0, "after": "lifted",
    },
    {
        "name": "Tarragon butter sauce", "method": "emulsion", "sauce": "bearnaise", "school": "cold-cubes",
        "yolks_g": 68.0, "liquid_g": 55.0, "butter_g": 260.0, "clarified": False, "yolk_c": 66.0, "minutes": 1.5,
        "hold_c": 58.0, "hold_minutes": 40.0,
    },
]  # fmt: skip

# The brine desk's own, kept under their names.
BRINES: list[dict[str, Any]] = [
    {"name": "Short ribs, cured", **RIB_BRINE},
    {
        "name": "Prawns before the pot", "format": "open-ember/brine", "version": 1, "school": "gradient",
        "meat_g": 2100.0, "water_g": 2500.0, "salt_pct": 4.8,
        "sugar_g": 50.0, "size": {"kind": "cylinder", "diameter_mm": 16.0}, "flesh": "shellfish", "hours": 0.25,
        "temp_c": 4.0, "treated": False,
    },
]  # fmt: skip
