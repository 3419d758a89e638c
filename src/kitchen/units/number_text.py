"""Numbers as text."""

from __future__ import annotations

import re

from ember.quantities import G_PER_LB, G_PER_OZ, M_PER_FT, ML_PER_FL_OZ, ML_PER_QT, MM_PER_INCH, Units


def figure(value: float, digits: int) -> str:
    """A number with at most `digits` decimals and no needless zeros, with a real minus sign."""
    text = f"{value:.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", "\u2212") if text not in ("-0", "0") else "0"


def fixed(value: float, digits: int) -> str:
    """A number with exactly `digits` decimals, with a real minus sign."""
    text = f"{value:.{digits}f}"
    return (text[1:] if float(text) == 0 and text.startswith("-") else text).replace("-", "\u2212")


def half_mm(mm: float) -> str:
    """Millimetres to the half, as a cook says them; whole ones from 10 on.

    >>> half_mm(4.4), half_mm(0.6), half_mm(17.4)
    ('4½', '½', '17')
    """
    halves = round(mm * 2) if mm < 9.75 else 2 * round(mm)
    whole, half = divmod(int(halves), 2)
    return f"{whole or ''}½" if half else str(whole)


_N = r"\u2212?-?\d+(?:\.\d+)?"
_LIST = rf"{_N}(?:(?:,| to| and| or|,? or| \u2013|\u2013) ?{_N})*"
_BOTH = re.compile(rf"({_LIST}) °F \(({_LIST}) °C\)")
_BOTH_MASS = re.compile(rf"({_N}) lb \(({_N}) kg\)")
_STEP = re.compile(
    rf"(?<=within )({_N}) °C\b|({_N}) °C(?= (?:colder|cooler|hotter|warmer|higher|lower|short|off|more|less)\b)"
)
_MEASURE = re.compile(rf"({_LIST}) ?(°C|mm|cm|kg|g|ml|l|m)(?![\w/°])")
_NUMBER = re.compile(_N)


def in_units(text: str, units: Units) -> str:
    """A text of the core, which states measures in metric units or as its source does, in the person's units.

    >>> in_units("it comes to 54.5 °C", Units("F"))
    'it comes to 130.1 °F'
    >>> in_units("cool from 135 to 70 °F (57 to 21 °C)", Units("F")), in_units("145 °F (63 °C) for 15 s", Units())
    ('cool from 135 to 70 °F', '63 °C for 15 s')
    >>> in_units("3 °C colder, within 2 °C", Units("F"))
    '5.4 °F colder, within 3.6 °F'
    >>> in_units("snip it every 3 cm; 200 g in 2.8 l", Units("F", "in", "lb"))
    'snip it every 1.2 in; 7.1 oz in 3 qt'
    """
    text = _BOTH.sub(lambda m: f"{m[1]} °F" if units.temperature == "F" else f"{m[2]} °C", text)
    text = _BOTH_MASS.sub(lambda m: f"{m[1]} lb" if units.mass == "lb" else f"{m[2]} kg", text)
    if units.temperature == "F":
        text = _STEP.sub(lambda m: f"{figure(units.temperature_step(_value(m[1] or m[2])), 1)} °F", text)
    return _MEASURE.sub(lambda m: _measure_text(m[0], m[1], m[2], units), text)


def _value(text: str) -> float:
    return float(text.replace("\u2212", "-"))


def _measure_text(whole: str, numbers: str, unit: str, units: Units) -> str:
    """One measure, or a list of them with one unit."""
    found = [_value(each) for each in _NUMBER.findall(numbers)]
    largest = max(abs(each) for each in found)
    if unit == "°C":
        factor, to, digits = None, "°F", 1
    elif unit in ("mm", "cm", "m"):
        to = "ft" if unit == "m" else "in"
        factor = {"mm": 1 / MM_PER_INCH, "cm": 10 / MM_PER_INCH, "m": 1 / M_PER_FT}[unit]
        digits = 0 if unit == "m" else 1
        if unit == "mm" and largest < 12.0:
            digits = 2
    elif unit in ("g", "kg"):
        grams = 1000.0 if unit == "kg" else 1.0
        in_pounds = largest * grams >= G_PER_LB - 0.5
        to, factor, digits = ("lb", grams / G_PER_LB, 1) if in_pounds else ("oz", grams / G_PER_OZ, 1)
    else:
        ml = 1000.0 if unit == "l" else 1.0
        in_quarts = largest * ml >= ML_PER_QT
        to, factor, digits = ("qt", ml / ML_PER_QT, 1) if in_quarts else ("fl oz", ml / ML_PER_FL_OZ, 1)
    chosen = {"°C": units.temperature == "F", "mm": units.length == "in", "cm": units.length == "in"}
    if not chosen.get(unit, units.length == "in" if unit == "m" else units.mass == "lb"):
        return whole

    def one(match: re.Match[str]) -> str:
        value = _value(match[0])
        return figure(units.temperature_value(value) if factor is None else value * factor, digits)

    return f"{_NUMBER.sub(one, numbers)} {to}"


def minutes_text(minutes: float) -> str:
    """Minutes as a field shows them: "20", "1 h 50 min", "45 s"; parsing returns the same number.

    >>> minutes_text(20.0), minutes_text(110.0), minutes_text(0.75), minutes_text(12.5)
    ('20', '1 h 50 min', '45 s', '12.5')
    """
    if minutes < 1:
        return f"{figure(minutes * 60, 1)} s"
    if minutes < 60:
        return figure(minutes, 2)
    hours, rest = divmod(round(minutes, 2), 60)
    if hours < 48:
        return f"{hours:.0f} h {figure(rest, 2)} min" if rest else f"{hours:.0f} h"
    days, hours = divmod(hours, 24)
    parts = [f"{days:.0f} d", f"{hours:.0f} h" if hours else "", f"{figure(rest, 2)} min" if rest else ""]
    return " ".join(part for part in parts if part)


def hours_and_minutes(minutes: float) -> str:
    """A long time without its seconds, rounded down: never later than it is.

    >>> hours_and_minutes(45.9), hours_and_minutes(144.5)
    ('0:45', '2:24')
    """
    hours, rest = divmod(int(minutes), 60)
    return f"{hours}:{rest:02d}"


def clock_span(seconds: float) -> str:
    """A countdown: "0:38", "12:05", "1:02:00"; negative once past.

    >>> clock_span(38), clock_span(3720), clock_span(-65)
    ('0:38', '1:02:00', '−1:05')
    """
    total = round(abs(seconds))
    sign = "\u2212" if seconds < 0 and total else ""
    hours, rest = divmod(total, 3600)
    minutes, left = divmod(rest, 60)
    return f"{sign}{hours}:{minutes:02d}:{left:02d}" if hours else f"{sign}{minutes}:{left:02d}"
