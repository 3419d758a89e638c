"""The egg request: kind of egg, method, and minutes or a target.

Temperatures in °C, masses in g, lengths in mm, times in minutes or seconds as the key says.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, ValidationError, model_validator

from ..errors import BadInput
from ..kit.thermometers import ALTITUDE_M, boiling_point_c
from .base import FileModel, House
from .wrong import describe_validation

FORMAT = "open-ember/egg"

YolkWord = Literal["runny", "syrupy", "jammy", "fudgy", "set", "chalky"]
WhiteWord = Literal["loose", "soft", "set", "firm"]
Kind = Literal["quail", "hen", "duck", "goose", "ostrich"]
Grams = Annotated[float, Field(gt=0, le=50_000)]
HeatMinutes = Annotated[float, Field(ge=0.1, le=720)]


class EggIn(FileModel):
    """One egg: by mass, size class or girth; without any the middle one of its kind."""

    kind: Kind = "hen"
    mass_g: float | None = Field(None, gt=0, le=3000)
    size: str | None = Field(None, max_length=8)
    girth_mm: float | None = Field(None, gt=30, le=600)
    start_c: float = Field(4.0, ge=-0.5, le=45)

    @model_validator(mode="after")
    def _one_measure(self) -> Self:
        if sum(value is not None for value in (self.mass_g, self.size, self.girth_mm)) > 1:
            raise ValueError("give mass_g, size or girth_mm, one of them")
        return self


class PotIn(FileModel):
    """The pot: litres of water and the power that reaches it, W."""

    water_l: float | None = Field(None, ge=0.2, le=200)
    power_w: float | None = Field(None, ge=0, le=60_000)


class ThenIn(FileModel):
    """After heating: ice, running cold water, left whole in air, or opened at once."""

    kind: Literal["ice_bath", "tap", "air", "open"] = "open"
    minutes: float | None = Field(None, ge=0, le=720)


class EggTarget(FileModel):
    """The target: °C at the edge of the yolk at the end of heating, or words of yolk and white."""

    yolk_c: float | None = Field(None, ge=30, le=99)
    yolk: YolkWord | None = None
    white: WhiteWord | None = None

    @model_validator(mode="after")
    def _something(self) -> Self:
        words = self.yolk is not None or self.white is not None
        if (self.yolk_c is not None) == words:
            raise ValueError("give yolk_c, or words of yolk and white")
        return self


class _Request(FileModel):
    """Keys of every method. `heated_s`: the actual heating, if it was less; its rules use it."""

    format: Literal["open-ember/egg"]
    version: Literal[1]
    standard: str = "us-food-code-2022"
    guests: Literal["general", "susceptible"] = "general"
    advisory: bool = False
    pasteurised: bool = False
    house: House | None = None
    heated_s: float | None = Field(None, ge=0, le=1e6)


class _Timed(_Request):
    """An egg in water or steam, for minutes or to a target."""

    egg: EggIn = EggIn()
    count: int = Field(1, ge=1, le=500)
    altitude_m: float = Field(0.0, ge=ALTITUDE_M[0], le=ALTITUDE_M[1])
    water_c: float | None = Field(None, ge=40, le=102)
    minutes: HeatMinutes | None = None
    target: EggTarget | None = None
    then: ThenIn = ThenIn()
    pot: PotIn | None = None

    @property
    def boiling_c(self) -> float:
        """Boiling point of water at this altitude, °C."""
        return boiling_point_c(self.altitude_m)

    @model_validator(mode="after")
    def _minutes_or_target(self) -> Self:
        if (self.minutes is None) == (self.target is None):
            raise ValueError("give minutes or target, one of them")
        if self.water_c is not None and self.water_c > self.boiling_c + 0.05:
            raise ValueError(f"water boils at {self.boiling_c:.1f} °C at {self.altitude_m:g} m")
        return self


class BoilRequest(_Timed):
    """Shell eggs in water. `minutes` count from when the eggs go in; for a cold start from the boil.

    `start`: `off-heat` is a cold start whose pot is covered and taken off the heat at the boil.
    """

    method: Literal["boil"]
    start: Literal["hot", "cold", "off-heat"] = "hot"
    water_start_c: float = Field(15.0, ge=0, le=60)


class SteamRequest(_Timed):
    """Shell eggs over boiling water under a lid."""

    method: Literal["steam"]


class CirculatorRequest(_Timed):
    """Shell eggs in a water bath."""

    method: Literal["circulator"]
    water_c: float = Field(ge=50, le=90)


PoachSchool = Literal["whirl", "dragged", "shell-preset", "strained", "cup", "film", "circulator"]


class BringBackIn(FileModel):
    """Reheating of a poached egg from ice water in hot water."""

    water_c: float = Field(62.0, ge=40, le=100)
    minutes: float = Field(1.5, ge=0.1, le=60)


class PoachRequest(_Timed):
    """Eggs without their shell in barely moving water. The method `circulator` poaches in the shell."""

    method: Literal["poach"]
    school: PoachSchool = "whirl"
    bring_back: BringBackIn | None = None


class ScrambleRequest(_Request):
    """Scrambled eggs."""

    method: Literal["scramble"]
    school: Literal["slow", "fast", "whisked"] = "slow"
    eggs: int = Field(3, ge=1, le=60)
    egg: EggIn = EggIn()
    liquid_g: float = Field(0.0, ge=0, le=3000)
    pan_mm: float = Field(240.0, ge=120, le=500)
    power_w: float | None = Field(None, ge=20, le=6000)
    pan_c: float | None = Field(None, ge=40, le=260)
    stir_every_s: float | None = Field(None, ge=0.3, le=60)
    off_c: float | None = Field(None, ge=55, le=90)
    stop: Literal["none", "cream", "butter", "egg"] = "butter"
    stop_g: float | None = Field(None, ge=0, le=1000)
    plate_c: float = Field(45.0, ge=5, le=90)
    held: bool = False


class OmeletteRequest(_Request):
    """An omelette, by method; `fried` and `basted` are eggs left whole in the pan."""

    method: Literal["omelette"]
    school: Literal["brown", "pale", "three-fold", "flat", "souffle", "fried", "basted"] = "pale"
    eggs: int = Field(3, ge=1, le=20)
    egg: EggIn = EggIn()
    pan_mm: float = Field(200.0, ge=120, le=500)
    pan_c: float | None = Field(None, ge=90, le=260)
    seconds: float | None = Field(None, ge=5, le=1800)
    plate_c: float = Field(45.0, ge=5, le=90)


class EmulsionRequest(_Request):
    """A warm sauce of yolks, acid and butter, or the sabayon it starts as."""

    method: Literal["emulsion"]
    sauce: Literal["hollandaise", "bearnaise", "sabayon"] = "hollandaise"
    school: Literal["direct", "water-bath", "cold-cubes"] = "water-bath"
    yolks_g: Grams = 36.0
    liquid_g: float = Field(30.0, ge=0, le=20_000)
    acid: bool = True
    sugar_g: float = Field(0.0, ge=0, le=20_000)
    butter_g: float = Field(0.0, ge=0, le=50_000)
    clarified: bool = True
    yolk_c: float = Field(64.0, ge=5, le=99)
    minutes: float = Field(3.0, ge=0, le=120)
    hold_c: float | None = Field(None, ge=5, le=90)
    hold_minutes: float = Field(0.0, ge=0, le=1440)


CustardKind = Literal["milk", "cream", "quiche", "cheesecake", "curd"]


class CustardRequest(_Request):
    """A custard in a dish in a water bath in the oven, or stirred on the heat (`stirred`)."""

    method: Literal["custard"]
    custard: CustardKind = "cream"
    ramekin_mm: tuple[Annotated[float, Field(ge=30, le=400)], Annotated[float, Field(ge=8, le=120)]] = (80.0, 40.0)
    bath_c: float | None = Field(None, ge=50, le=100)
    oven_c: float = Field(160.0, ge=80, le=220)
    water_level: float = Field(0.66, ge=0, le=1)
    cover: bool = False
    start_c: float = Field(10.0, ge=0, le=75)
    yolk_pct: float | None = Field(None, ge=0, le=60)
    sugar_pct: float = Field(12.0, ge=0, le=40)
    target_c: float | None = Field(None, ge=60, le=95)
    after: Literal["lifted", "in-bath", "ice", "fridge"] = "lifted"


class StirredRequest(_Request):
    """Hot cream poured into yolks (tempering), then stirred on the heat until it coats a spoon."""

    method: Literal["stirred"]
    yolks_g: Grams = 108.0
    sugar_g: float = Field(100.0, ge=0, le=20_000)
    yolk_start_c: float = Field(15.0, ge=0, le=50)
    cream_g: Grams = 500.0
    cream_c: float = Field(85.0, ge=20, le=100)
    pours: int = Field(4, ge=1, le=20)
    to_c: float = Field(82.5, ge=60, le=99)
    minutes_there: float = Field(0.2, ge=0, le=60)
    starch_g: float = Field(0.0, ge=0, le=2000)


class PastaRequest(_Request):
    """Pasta, fat, eggs and cheese stirred together off the heat; or a hot stuffing bound with egg (`bound`)."""

    method: Literal["pasta"]
    bound: Literal["pasta", "stuffing"] = "pasta"
    pasta_g: Grams = 220.0
    pasta_c: float = Field(85.0, ge=20, le=100)
    fat_g: float = Field(0.0, ge=0, le=5000)
    fat_c: float = Field(60.0, ge=0, le=180)
    egg_g: Grams = 60.0
    yolk_share: float = Field(0.5, ge=0, le=1)
    egg_c: float = Field(20.0, ge=0, le=50)
    cheese_g: float = Field(0.0, ge=0, le=5000)
    water_g: float = Field(0.0, ge=0, le=5000)
    water_c: float = Field(90.0, ge=0, le=100)
    bowl_j_k: float = Field(0.0, ge=0, le=5000)
    bowl_c: float = Field(20.0, ge=0, le=120)
    starch_water: bool = True


Timed = BoilRequest | SteamRequest | CirculatorRequest | PoachRequest
EggRequest = Annotated[
    BoilRequest | SteamRequest | CirculatorRequest | PoachRequest | ScrambleRequest | OmeletteRequest
    | EmulsionRequest | CustardRequest | StirredRequest | PastaRequest,
    Field(discriminator="method"),
]  # fmt: skip
BY_METHOD: dict[str, type[_Request]] = {
    "boil": BoilRequest, "steam": SteamRequest, "circulator": CirculatorRequest, "poach": PoachRequest,
    "scramble": ScrambleRequest, "omelette": OmeletteRequest, "emulsion": EmulsionRequest, "custard": CustardRequest,
    "stirred": StirredRequest, "pasta": PastaRequest,
}  # fmt: skip


def parse_egg(data: object) -> EggRequest:
    """Validate a request. Raises BadInput with the place of the first error."""
    if not isinstance(data, dict):
        raise BadInput("an egg request is a JSON object")
    method = data.get("method")
    if not isinstance(method, str) or method not in BY_METHOD:
        raise BadInput(f"one of: {', '.join(BY_METHOD)}", "method")
    try:
        return BY_METHOD[method].model_validate(data)  # type: ignore[return-value]
    except ValidationError as error:
        raise describe_validation(error) from None
