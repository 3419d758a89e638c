"""Numbers as text."""

from __future__ import annotations

import re

from ember.quantities import Units


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


_CELSIUS = re.compile(r"(-?\d+(?:\.\d+)?) °C")


def in_units(text: str, units: Units) -> str:
    """A message of the core, which uses °C, with temperatures in the person's unit.

    >>> in_units("it comes to 54.5 °C", Units("F"))
    'it comes to 130.1 °F'
    """
    if units.temperature == "C":
        return text
    return _CELSIUS.sub(lambda m: f"{figure(units.temperature_value(float(m[1])), 1)} °F", text)


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
