"""Units of choice at the edges; SI and °C inside.

Temperatures are stored in °C, lengths in mm, masses in g, times in s, as files and cooks state them; the solver
converts them to SI itself.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

from .errors import BadInput
from .numbers import NUMBER, number_of

TemperatureUnit = Literal["C", "F"]
LengthUnit = Literal["mm", "in"]
MassUnit = Literal["g", "lb"]

MM_PER_INCH = 25.4
G_PER_LB = 453.59237
G_PER_OZ = G_PER_LB / 16

ML_PER_FL_OZ = 29.5735295625
ML_PER_QT = 32 * ML_PER_FL_OZ
M_PER_FT = 0.3048

_UNIT = re.compile(r"\s*([^\d\s,.+\-\u2212½¼¾⅓⅔⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞]*(?: oz)?)\s*")

_LENGTH = {
    "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH, "inch": MM_PER_INCH, "inches": MM_PER_INCH, '"': MM_PER_INCH,
    "\u2033": MM_PER_INCH, "\u201d": MM_PER_INCH, "ft": 12 * MM_PER_INCH, "foot": 12 * MM_PER_INCH,
    "feet": 12 * MM_PER_INCH, "'": 12 * MM_PER_INCH, "\u2032": 12 * MM_PER_INCH, "\u2019": 12 * MM_PER_INCH,
}  # fmt: skip
_MASS = {
    "g": 1.0, "gram": 1.0, "grams": 1.0, "kg": 1000.0, "kilo": 1000.0, "kilos": 1000.0, "lb": G_PER_LB, "lbs": G_PER_LB,
    "pound": G_PER_LB, "pounds": G_PER_LB, "oz": G_PER_OZ, "ounce": G_PER_OZ, "ounces": G_PER_OZ,
}  # fmt: skip
_VOLUME = {
    "ml": 1.0, "cl": 10.0, "dl": 100.0, "l": 1000.0, "litre": 1000.0, "litres": 1000.0, "liter": 1000.0,
    "liters": 1000.0, "fl oz": ML_PER_FL_OZ, "floz": ML_PER_FL_OZ, "pt": 16 * ML_PER_FL_OZ, "qt": ML_PER_QT,
    "gal": 4 * ML_PER_QT,
}  # fmt: skip
_HEIGHT = {"m": 1.0, "ft": M_PER_FT, "feet": M_PER_FT, "'": M_PER_FT, "\u2032": M_PER_FT, "\u2019": M_PER_FT}
_TIME = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0, "min": 60.0, "mins": 60.0, "minute": 60.0,
    "minutes": 60.0, "h": 3600.0, "hr": 3600.0, "hrs": 3600.0, "hour": 3600.0, "hours": 3600.0, "d": 86400.0,
    "day": 86400.0, "days": 86400.0,
}  # fmt: skip
# In these nobody writes three decimals: a point before three digits may part thousands.
_NO_THREE_DECIMALS = {"g", "gram", "grams", "mm", "ml", "s", "sec", "secs", "min", "mins", "W"}
_NEXT_SMALLER = {"h": "min", "hr": "min", "hour": "min", "hours": "min", "min": "s"}  # "1 h 50" is understood


def _parts(text: str, what: str, default: str) -> list[tuple[float, str]]:
    """Split "1 h 50 min" into [(1, "h"), (50, "min")]; a number without a unit is in the default one."""
    cleaned = text.strip()
    parts: list[tuple[float, str]] = []
    position = 0
    while position < len(cleaned):
        match = NUMBER.match(cleaned, position)
        if match is None:
            raise BadInput(f"“{cleaned[:40]}” is not a {what}. Enter a number, like 38.")
        after = _UNIT.match(cleaned, match.end())
        unit = (after[1] if after else "").lower().rstrip(".")
        value = number_of(match[0], (unit or default) not in _NO_THREE_DECIMALS)
        if not math.isfinite(value):
            raise BadInput(f"“{cleaned[:40]}” is too large for a {what}.")
        if not unit and parts:
            unit = _NEXT_SMALLER.get(parts[-1][1], "")
            if not unit:
                raise BadInput(f"“{cleaned[:40]}” has a number without its unit. Write each with its unit.")
        parts.append((value, unit))
        position = after.end() if after else match.end()
    if not parts:
        raise BadInput(f"Enter a {what}, like 38.")
    if len(parts) > 1 and not parts[0][1]:
        raise BadInput(f"“{cleaned[:40]}” has a number without its unit. Write each with its unit.")
    return parts


def _sum_of(text: str, what: str, factors: dict[str, float], default: str) -> float:
    total = 0.0
    for value, unit in _parts(text, what, default):
        factor = factors.get(unit or default)
        if factor is None:
            raise BadInput(f"“{unit}” is not a unit of {what}. Use {', '.join(k for k in factors if k.isalpha())}.")
        total += value * factor
    return total


def parse_temperature(text: str, unit: TemperatureUnit = "C") -> float:
    """°C from text such as "54.5", "54,5 °C" or "130 F"; a bare number is in `unit`.

    >>> round(parse_temperature("130 F"), 2)
    54.44
    """
    parts = _parts(text.replace("°", "").replace("º", ""), "temperature", unit)
    if len(parts) != 1:
        raise BadInput(f"“{text.strip()[:40]}” is not a temperature. Enter one number, like 54.5.")
    value, said = parts[0]
    said = said.upper() or unit
    if said not in ("C", "F"):
        raise BadInput(f"“{said.lower()}” is not a unit of temperature. Use C or F.")
    return value if said == "C" else (value - 32.0) / 1.8


def parse_length(text: str, unit: LengthUnit = "mm") -> float:
    """mm from text such as "38", "3.8 cm" or "1½ in".

    >>> parse_length("1½ in")
    38.1
    """
    return round(_sum_of(text, "length", _LENGTH, unit), 6)


def parse_mass(text: str, unit: str = "g") -> float:
    """g from text such as "340", "1.2 kg" or "2 lb 4 oz".

    >>> round(parse_mass("2 lb 4 oz"))
    1021
    """
    return _sum_of(text, "mass", _MASS, unit)


def parse_volume(text: str, unit: str = "ml") -> float:
    """ml from text such as "250", "1.5 l" or "8 fl oz".

    >>> parse_volume("1.5 l"), round(parse_volume("8", "fl oz"))
    (1500.0, 237)
    """
    return _sum_of(text, "volume", _VOLUME, unit)


def parse_height(text: str, unit: str = "m") -> float:
    """m above the sea from text such as "1,600 ft" or "500".

    >>> parse_height("500"), round(parse_height("5280 ft"))
    (500.0, 1609)
    """
    return _sum_of(text, "height", _HEIGHT, unit)


def parse_minutes(text: str) -> float:
    """Minutes from "20", "1 h 50 min", "45 s" or "1:50" (hours and minutes).

    >>> parse_minutes("1 h 50 min"), parse_minutes("1:50"), parse_minutes("45 s")
    (110.0, 110.0, 0.75)
    """
    clock = re.fullmatch(r"\s*(\d{1,3}):([0-5]\d)\s*", text)
    if clock:
        return int(clock[1]) * 60.0 + int(clock[2])
    return _sum_of(text, "time", _TIME, "min") / 60.0


def parse_clock(text: str) -> float:
    """Minutes from a stopwatch's "7:10" (minutes and seconds) or "1:05:00", else as parse_minutes.

    >>> round(parse_clock("7:30"), 2), parse_clock("1:05:00"), parse_clock("6"), parse_clock("45 s")
    (7.5, 65.0, 6.0, 0.75)
    """
    clock = re.fullmatch(r"\s*(?:(\d{1,3}):)?(\d{1,3}):([0-5]\d)\s*", text)
    if clock:
        return 60.0 * int(clock[1] or 0) + int(clock[2]) + int(clock[3]) / 60.0
    return parse_minutes(text)


def show_duration(seconds: float) -> str:
    """A duration in words: "45 s", "3 min 20 s", "1 h 50 min", "2 d 3 h".

    >>> show_duration(45), show_duration(200), show_duration(6600)
    ('45 s', '3 min 20 s', '1 h 50 min')
    """
    total = round(seconds)
    if total < 60:
        return f"{total} s"
    if total < 600:
        minutes, rest = divmod(total, 60)
        return f"{minutes} min {rest} s" if rest else f"{minutes} min"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    if hours < 24:
        return f"{hours} h {minutes} min" if minutes else f"{hours} h"
    days, hours = divmod(hours, 24)
    return f"{days} d {hours} h" if hours else f"{days} d"


@dataclass(frozen=True)
class Units:
    """The units one person reads and writes."""

    temperature: TemperatureUnit = "C"
    length: LengthUnit = "mm"
    mass: MassUnit = "g"

    def temperature_value(self, celsius: float) -> float:
        """A point on the scale, in this unit."""
        return celsius if self.temperature == "C" else celsius * 1.8 + 32.0

    def temperature_step(self, kelvin: float) -> float:
        """A difference, in this unit."""
        return kelvin if self.temperature == "C" else kelvin * 1.8

    def length_value(self, mm: float) -> float:
        """A length, in this unit."""
        return mm if self.length == "mm" else mm / MM_PER_INCH

    def mass_value(self, g: float) -> float:
        """A mass, in this unit."""
        return g if self.mass == "g" else g / G_PER_LB

    @property
    def small_mass(self) -> str:
        """The unit of an egg, of salt: grams, or ounces where masses are in pounds."""
        return "g" if self.mass == "g" else "oz"

    @property
    def volume(self) -> str:
        """The unit of small volumes."""
        return "ml" if self.mass == "g" else "fl oz"

    @property
    def pot_volume(self) -> str:
        """The unit of what a pot holds."""
        return "l" if self.mass == "g" else "qt"

    @property
    def height(self) -> str:
        """The unit of height above the sea."""
        return "m" if self.length == "mm" else "ft"

    def small_mass_value(self, g: float) -> float:
        """A small mass, in its unit."""
        return g if self.mass == "g" else g / G_PER_OZ

    def volume_value(self, ml: float) -> float:
        """A small volume, in its unit."""
        return ml if self.mass == "g" else ml / ML_PER_FL_OZ

    def pot_volume_value(self, litres: float) -> float:
        """A pot's volume, in its unit."""
        return litres if self.mass == "g" else 1000.0 * litres / ML_PER_QT

    def height_value(self, m: float) -> float:
        """A height above the sea, in its unit."""
        return m if self.length == "mm" else m / M_PER_FT

    @property
    def degree(self) -> str:
        """The sign behind a temperature."""
        return f"°{self.temperature}"
