"""The stages of a plan: every way to warm, cook, rest, hold or cool a piece. °C, minutes or seconds as the key says.

A stage ends by `minutes` or by `until`; a pan, plancha or grill may have seconds a side instead.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..kit.thermometers import boiling_point_c
from .base import FileModel, Minutes
from .brine import BrineRequest

Organism = Literal["salmonella", "listeria"]


class Until(FileModel):
    """What a stage waits for. `peak_c` stops it so that the highest core before the plan's end is this; `log10`, when
    the coldest point has that log reduction of `organism`.
    """

    core_c: float | None = Field(None, ge=-40, le=120)
    surface_c: float | None = Field(None, ge=-40, le=300)
    peak_c: float | None = Field(None, ge=20, le=99)
    log10: float | None = Field(None, gt=0, le=20)
    organism: Organism | None = None
    max_minutes: Minutes | None = None

    @model_validator(mode="after")
    def _one_end(self) -> Until:
        if sum(end is not None for end in (self.core_c, self.surface_c, self.peak_c, self.log10)) != 1:
            raise ValueError("give one of core_c, surface_c, peak_c, log10")
        if (self.organism is None) != (self.log10 is None):
            raise ValueError("log10 and organism go together")
        return self


class _Timed(FileModel):
    minutes: Minutes | None = None
    until: Until | None = None

    @model_validator(mode="after")
    def _has_one_end(self) -> _Timed:
        if (self.minutes is None) == (self.until is None):
            raise ValueError("give minutes or until, one of them")
        return self


class _Wet(_Timed):
    """A wet stage. `bagged` by default: as in the wet stage before, else bare."""

    bagged: bool | None = None


class Temper(_Timed):
    """Out of the fridge, in room air."""

    kind: Literal["temper"] = "temper"
    air_c: float = Field(21, ge=-40, le=60)


class Load(FileModel):
    """What the food cools as it goes in, all `pieces` at once (the plan's count where left out): `litres` of water or
    oil, or of the oven's inside, and the heater's `power_w`; usual ones where left out.
    """

    litres: float | None = Field(None, ge=0.5, le=2000)
    power_w: float | None = Field(None, ge=0, le=100_000)
    pieces: int | None = Field(None, ge=1, le=500)


class Bath(_Timed):
    """In a water bath. `offset_k`: how much hotter the bath is than its setting. `lies` "against" another piece, a pair
    of them touching all along: water reaches its other face only.
    """

    kind: Literal["bath"] = "bath"
    water_c: float = Field(ge=-2, le=100)
    bagged: bool = True
    stirred: bool = True
    lies: Literal["free", "against"] = "free"
    offset_k: float = Field(0, ge=-10, le=10)
    load: Load | None = None


class Vessel(FileModel):
    """A pan as a body that the food cools. `contact`: heat passed by its floor, relative to the usual."""

    mass_kg: float = Field(1.5, ge=0.1, le=40)
    material: Literal["steel", "clad-aluminium", "cast-iron", "carbon-steel", "copper"] = "steel"
    diameter_mm: float = Field(280, ge=80, le=1200)
    preheated_to_c: float | None = Field(None, ge=10, le=500)
    contact: float = Field(1, ge=0.25, le=4)


class Baste(FileModel):
    """Hot fat spooned over the upper face from `from_s` on, every `every_s`."""

    from_s: float = Field(0, ge=0, le=86_400)
    every_s: float = Field(4, ge=1, le=3600)
    flame: Literal["on", "off"] = "on"


class _BySides(FileModel):
    """Exposure by sides: seconds a side and number of sides, or a time or an end with turns at intervals."""

    seconds_a_side: float | None = Field(None, ge=1, le=7200)
    sides: int | None = Field(None, ge=1, le=400)
    turn_every_s: float | None = Field(None, ge=1, le=7200)
    first: Literal["under", "top"] = "under"
    minutes: Minutes | None = None
    until: Until | None = None

    @model_validator(mode="after")
    def _has_one_end(self) -> _BySides:
        if self.seconds_a_side is not None:
            if self.minutes is not None or self.until is not None or self.turn_every_s is not None:
                raise ValueError("seconds_a_side and sides need no minutes, until or turn_every_s")
        elif (self.minutes is None) == (self.until is None):
            raise ValueError("give seconds_a_side, or minutes, or until")
        elif self.sides is not None:
            raise ValueError("sides go with seconds_a_side; with minutes or until give turn_every_s")
        return self

    @property
    def exposures(self) -> int | None:
        """Number of exposures if seconds a side are given; 2 by default."""
        return (self.sides or 2) if self.seconds_a_side is not None else None

    @property
    def side_s(self) -> float | None:
        """How long a face lies down before it is turned, s; None if it is never turned."""
        return self.seconds_a_side if self.seconds_a_side is not None else self.turn_every_s


class Pan(_BySides):
    """In a pan.

    With `pan_c` alone a common pan on a good burner holds that temperature; `pan` and `power_w` (the heat that reaches
    it) describe this pan, with all the pieces in it.
    """

    kind: Literal["pan"] = "pan"
    pan_c: float | None = Field(None, ge=40, le=500)
    power_w: float | None = Field(None, ge=50, le=20_000)
    pan: Vessel | None = None
    start: Literal["hot", "cold"] = "hot"
    rim_s: float | None = Field(None, ge=1, le=1800)
    fat: bool = True
    cover: Literal["none", "lid"] = "none"
    baste: Baste | None = None

    @model_validator(mode="after")
    def _knows_its_heat(self) -> Pan:
        if self.pan_c is None and self.power_w is None:
            raise ValueError("give pan_c, or power_w with pan")
        if self.power_w is not None and self.pan is None:
            raise ValueError("power_w needs pan")
        if self.pan_c is None and self.start == "hot" and (self.pan is None or self.pan.preheated_to_c is None):
            raise ValueError("a hot pan with power_w needs pan.preheated_to_c or pan_c")
        return self

    @property
    def starts_at_c(self) -> float:
        """The pan's temperature as the food is laid in, °C."""
        if self.start == "cold":
            return 22.0
        if self.pan is not None and self.pan.preheated_to_c is not None:
            return self.pan.preheated_to_c
        return float(self.pan_c or 0.0)


class Plancha(_BySides):
    """On a heavy hot plate."""

    kind: Literal["plancha"] = "plancha"
    plate_c: float = Field(ge=40, le=500)
    fat: bool = True


class Grill(_BySides):
    """Over glowing coals or a burner, or under one (`fire` above: a broiler); `source_c`: its temperature. `zone`: over
    the fire or beside it; without `bars` a piece turns on a spit.
    """

    kind: Literal["grill"] = "grill"
    source_c: float = Field(700, ge=200, le=900)
    lid: Literal["open", "closed"] = "open"
    zone: Literal["direct", "indirect"] = "direct"
    bars: bool = True
    fire: Literal["below", "above"] = "below"


class Oven(_Timed):
    """In an oven; a `smoker` is one with slow air, an `air-fryer` a small one with a strong fan.

    `humidity` is relative, 0 to 1 (larger numbers are per cent). In a `pan`: the hot pan of the stage before stays. In
    a `water_bath`: in its dish, with hot water around the dish. Foil is a tent, or `wrapped` close; a `parcel` is of
    paper, a `crust` of salt or dough. The door is opened at intervals, to baste or not.
    `offset_k`: how much hotter the oven is than its setting; `back_k_min`: its recovery after the door, K a minute.
    """

    kind: Literal["oven"] = "oven"
    air_c: float = Field(ge=30, le=320)
    mode: Literal["still", "fan", "combi", "smoker", "air-fryer"] = "still"
    humidity: float | None = Field(None, ge=0, le=100)
    where: Literal["rack", "tray", "pan", "water_bath"] = Field("rack", alias="in")
    cover: Literal["none", "cloth", "foil", "wrapped", "parcel", "crust", "lid"] = "none"
    open_every_min: float | None = Field(None, ge=1, le=1440)
    baste_every_min: float | None = Field(None, ge=1, le=1440)
    water_tray: bool = False
    offset_k: float = Field(0, ge=-60, le=60)
    back_k_min: float | None = Field(None, ge=1, le=200)
    load: Load | None = None

    @property
    def humid_share(self) -> float | None:
        """Relative humidity as a share."""
        if self.humidity is None:
            return None
        return self.humidity if self.humidity <= 1 else self.humidity / 100.0

    @property
    def door_every_min(self) -> float | None:
        """Interval of door openings, min, by the more frequent reason."""
        known = [every for every in (self.open_every_min, self.baste_every_min) if every is not None]
        return min(known) if known else None


class Fry(_Timed):
    """In hot oil, submerged; `coat`: what it wears, crumbs of two millimetres or a batter of three."""

    kind: Literal["fry"] = "fry"
    oil_c: float = Field(ge=60, le=230)
    coat: Literal["none", "flour", "crumb", "batter"] = "none"
    load: Load | None = None


class _Boiling(_Wet):
    altitude_m: float = Field(0, ge=-400, le=5000)
    cover: Literal["none", "lid"] = "none"

    @property
    def boiling_c(self) -> float:
        """Where water boils at this altitude, °C."""
        return boiling_point_c(self.altitude_m)


class _InWater(_Boiling):
    water_c: float | None = Field(None, ge=-2, le=101.4)
    load: Load | None = None

    @model_validator(mode="after")
    def _not_above_boiling(self) -> _InWater:
        if self.water_c is not None and self.water_c > self.boiling_c + 0.05:
            raise ValueError(f"water boils at {self.boiling_c:.1f} °C at {self.altitude_m:g} m")
        return self


class Steam(_Boiling):
    """In steam."""

    kind: Literal["steam"] = "steam"


class Simmer(_InWater):
    """In gently moving water; 93 °C by default."""

    kind: Literal["simmer"] = "simmer"


class Poach(_InWater):
    """In still hot water; 80 °C by default."""

    kind: Literal["poach"] = "poach"


class Boil(_InWater):
    """In boiling water."""

    kind: Literal["boil"] = "boil"


class Pressure(_Timed):
    """In steam or liquid under pressure, `bar_over` above the air around."""

    kind: Literal["pressure"] = "pressure"
    bar_over: float = Field(1.0, ge=0.1, le=2.0)
    altitude_m: float = Field(0, ge=-400, le=5000)

    @property
    def boiling_c(self) -> float:
        """Where water boils under that pressure, °C: Antoine's equation for 99 to 374 °C (Dortmund data bank's
        constants, from memory); steam tables give 120.2 at 2 bar.
        """
        outside_pa = 101_325.0 * (1.0 - 2.25577e-5 * self.altitude_m) ** 5.25588  # ICAO standard atmosphere
        torr = (outside_pa + 1e5 * self.bar_over) / 133.322
        return 1810.94 / (8.14019 - math.log10(torr)) - 244.485


class Freeze(_Timed):
    """In a freezer, wrapped or glazed."""

    kind: Literal["freeze"] = "freeze"
    air_c: float = Field(-18, ge=-60, le=-2)
    blast: bool = False


class Thaw(_Timed):
    """Thawed in a refrigerator, under cold running water, or in room air."""

    kind: Literal["thaw"] = "thaw"
    where: Literal["fridge", "water", "air"] = Field("fridge", alias="in")
    air_c: float | None = Field(None, ge=-2, le=40)
    water_c: float | None = Field(None, ge=0, le=40)

    @model_validator(mode="after")
    def _its_own_medium(self) -> Thaw:
        wrong = "air_c" if self.where == "water" else "water_c"
        if getattr(self, wrong) is not None:
            raise ValueError(f"{wrong} is not for thawing in {'a ' if self.where == 'fridge' else ''}{self.where}")
        return self


class Rest(_Timed):
    """Off the heat."""

    kind: Literal["rest"] = "rest"
    air_c: float = Field(22, ge=-40, le=60)
    cover: Literal["open", "foil", "wrapped"] = "open"
    on: Literal["rack", "board", "hot_plate"] = "rack"
    plate_c: float = Field(65, ge=30, le=150)


class Hold(_Wet):
    """Kept hot, in a cabinet's moist air or in water."""

    kind: Literal["hold"] = "hold"
    air_c: float | None = Field(None, ge=-40, le=120)
    water_c: float | None = Field(None, ge=-2, le=100)

    @model_validator(mode="after")
    def _in_one_of_them(self) -> Hold:
        if (self.air_c is None) == (self.water_c is None):
            raise ValueError("give air_c or water_c, one of them")
        return self


class IceBath(_Wet):
    """In water with ice; `stirred`: moved now and then."""

    kind: Literal["ice_bath"] = "ice_bath"
    stirred: bool = True


class Chill(_Wet):
    """In a refrigerator, a walk-in or a blast chiller."""

    kind: Literal["chill"] = "chill"
    air_c: float = Field(3, ge=-40, le=60)
    blast: bool = False
    walk_in: bool = False


class Reheat(_Wet):
    """Reheated."""

    kind: Literal["reheat"] = "reheat"
    where: Literal["oven", "bath", "steam", "pan", "sauce"] = Field(alias="in")
    air_c: float | None = Field(None, ge=30, le=320)
    water_c: float | None = Field(None, ge=-2, le=100)
    pan_c: float | None = Field(None, ge=40, le=500)

    @model_validator(mode="after")
    def _its_own_heat(self) -> Reheat:
        wanted = {"oven": "air_c", "bath": "water_c", "sauce": "water_c", "pan": "pan_c", "steam": None}[self.where]
        for key in ("air_c", "water_c", "pan_c"):
            if key != wanted and getattr(self, key) is not None:
                raise ValueError(f"{key} is not for a reheat in {self.where}")
        return self


class Torch(_Timed):
    """A flame over the top face (all around a round piece)."""

    kind: Literal["torch"] = "torch"


class Brine(_Timed):
    """In salt: under a liquid brine, or rubbed and in cold air. `recipe`: what is weighed for it."""

    kind: Literal["brine"] = "brine"
    form: Literal["liquid", "dry"] = "liquid"
    salt_pct: float | None = Field(None, ge=0, le=30)
    temp_c: float = Field(4, ge=-2, le=40)
    recipe: BrineRequest | None = None

    @model_validator(mode="after")
    def _by_its_recipe(self) -> Brine:
        if self.recipe is not None and (self.recipe.school == "dry") != (self.form == "dry"):
            raise ValueError(f"the recipe is for {self.recipe.school} salting: form says {self.form}")
        return self


class Medium(_Timed):
    """A plain medium with a heat-transfer coefficient, for verification and for science."""

    kind: Literal["medium"] = "medium"
    medium_c: float = Field(ge=-40, le=500)
    h_w_m2k: (
        Annotated[float, Field(ge=0, le=1e6)]
        | tuple[Annotated[float, Field(ge=0, le=1e6)], Annotated[float, Field(ge=0, le=1e6)]]
    )


Stage = Annotated[
    Temper | Bath | Pan | Plancha | Grill | Oven | Fry | Steam | Simmer | Poach | Boil | Pressure | Rest | Hold
    | IceBath | Chill | Freeze | Thaw | Reheat | Torch | Brine | Medium,
    Field(discriminator="kind"),
]  # fmt: skip

BySides = Pan | Plancha | Grill
CAN_BE_LOADED = (Bath, Oven, Fry, Simmer, Poach, Boil)
BY_SIDES = (Pan, Plancha, Grill)
# What cooks; of these the quick ones colour a piece that something else cooked, when there is something else.
HEATING = (
    "bath", "pan", "plancha", "grill", "oven", "fry", "steam", "simmer", "poach", "boil", "pressure", "reheat", "torch",
    "medium",
)  # fmt: skip
QUICK = ("pan", "plancha", "grill", "torch")
COLOURING = (*QUICK, "oven", "fry")


def lasting(stage: Stage, seconds: float, exposures: int | None = None) -> Stage:
    """The stage with a fixed duration; if it goes by sides, each side gets the same share."""
    if isinstance(stage, BY_SIDES) and stage.seconds_a_side is not None:
        sides = exposures or stage.exposures or 1
        return stage.model_copy(update={"sides": sides, "seconds_a_side": max(seconds / sides, 1.0)})
    return stage.model_copy(update={"until": None, "minutes": max(seconds / 60.0, 1 / 60)})
