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

TemperatureUnit = Literal["C", "F"]
LengthUnit = Literal["mm", "in"]
MassUnit = Literal["g", "lb"]

MM_PER_INCH = 25.4
G_PER_LB = 453.59237
G_PER_OZ = G_PER_LB / 16

_NUMBER = r"[-+\u2212]?\d+(?:[.,]\d+)?|[-+\u2212]?[.,]\d+"
_PART = re.compile(rf"\s*({_NUMBER})\s*([^\d\s,.+\-\u2212]*)\s*")
_FRACTIONS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 0.125}

_LENGTH = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH, "inch": MM_PER_INCH, '"': MM_PER_INCH}
_MASS = {"g": 1.0, "kg": 1000.0, "lb": G_PER_LB, "lbs": G_PER_LB, "oz": G_PER_OZ}
_TIME = {
    "s": 1.0,
    "sec": 1.0,
    "min": 60.0,
    "h": 3600.0,
    "hr": 3600.0,
    "d": 86400.0,
    "day": 86400.0,
    "days": 86400.0,
}


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("\u2212", "-"))


def _parts(text: str, what: str) -> list[tuple[float, str]]:
    """Split "1 h 50 min" into [(1, "h"), (50, "min")]."""
    cleaned = text.strip()
    for sign, value in _FRACTIONS.items():
        cleaned = re.sub(rf"(\d)\s*{sign}", lambda m, v=value: f"{int(m[1]) + v:g}", cleaned)  # type: ignore[misc]
        cleaned = cleaned.replace(sign, f"{value:g}")
    parts: list[tuple[float, str]] = []
    position = 0
    while position < len(cleaned):
        match = _PART.match(cleaned, position)
        if match is None or match.end() == position:
            raise BadInput(f"“{text.strip()[:40]}” is not a {what}. Enter a number, like 38.")
        parts.append((_number(match[1]), match[2].lower().rstrip(".")))
        position = match.end()
    if not parts:
        raise BadInput(f"Enter a {what}, like 38.")
    if not all(math.isfinite(value) for value, _ in parts):
        raise BadInput(f"“{text.strip()[:40]}” is too large for a {what}.")
    return parts


def _sum_of(text: str, what: str, factors: dict[str, float], default: str) -> float:
    total = 0.0
    for value, unit in _parts(text, what):
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
    parts = _parts(text.replace("°", "").replace("º", ""), "temperature")
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


def parse_mass(text: str, unit: MassUnit = "g") -> float:
    """g from text such as "340", "1.2 kg" or "2 lb 4 oz".

    >>> round(parse_mass("2 lb 4 oz"))
    1021
    """
    return _sum_of(text, "mass", _MASS, unit)


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
    def degree(self) -> str:
        """The sign behind a temperature."""
        return f"°{self.temperature}"
