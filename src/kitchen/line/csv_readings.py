"""Readings of one probe in a CSV file: a time and a temperature a line."""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
from typing import Literal

from ember.errors import BadInput
from ember.quantities import parse_temperature

from .models import LEAST_READ_C, MOST_READ_C

MOST_LINES = 20_000
MOST_BYTES = 1_000_000
TIMES = ("time", "at", "timestamp", "when", "seconds", "s")
CELSIUS = ("celsius", "c", "temperature", "temp", "core", "reading", "°c")
FAHRENHEIT = ("fahrenheit", "f", "°f")
CLOCK = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2}(?:\.\d+)?))?")


def read_csv(raw: bytes, began: dt.datetime, zone: dt.tzinfo) -> list[tuple[dt.datetime, float]]:
    """(time, °C) of each line, in the file's order.

    The header names the columns: "time" (an ISO time, a time of day, or seconds since the cook began at `began`) and
    "celsius" or "fahrenheit". Separated by commas, semicolons or tabs. Raises BadInput with the line.
    """
    rows, mark = _rows(raw)
    time, value, unit = _columns(rows[0])
    readings = []
    for number, fields in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in fields):
            continue
        try:
            at = _time(fields[time].strip(), began, zone)
            celsius = parse_temperature(fields[value].replace(",", ".") if mark != "," else fields[value], unit)
        except IndexError:
            raise BadInput("A line is too short.", f"line {number}") from None
        except BadInput as error:
            raise BadInput(error.message, f"line {number}") from None
        if not LEAST_READ_C <= celsius <= MOST_READ_C:
            raise BadInput("Temperature must be from −60 to 500 °C.", f"line {number}")
        readings.append((at, celsius))
    if not readings:
        raise BadInput("There are no readings in this file.")
    return readings


def _rows(raw: bytes) -> tuple[list[list[str]], str]:
    """The cells of each line, and the separator. Raises BadInput."""
    if len(raw) > MOST_BYTES:
        raise BadInput("This file is too large.")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("This file is not text.") from None
    mark = max(",;\t", key=text.split("\n", 1)[0].count)
    rows = list(csv.reader(io.StringIO(text), delimiter=mark))
    if not rows or len(rows) > MOST_LINES:
        raise BadInput(f"A file has from 1 to {MOST_LINES} lines.")
    return rows, mark


def _columns(head: list[str]) -> tuple[int, int, Literal["C", "F"]]:
    """Indices of the time and temperature columns, and the unit. Raises BadInput."""
    names = [name.strip().lower() for name in head]
    time = next((i for i, name in enumerate(names) if name in TIMES), None)
    value = next((i for i, name in enumerate(names) if name in (*CELSIUS, *FAHRENHEIT)), None)
    if time is None or value is None:
        raise BadInput("The first line must name the columns: time, and celsius or fahrenheit.", "line 1")
    return time, value, "F" if names[value] in FAHRENHEIT else "C"


def _time(text: str, began: dt.datetime, zone: dt.tzinfo) -> dt.datetime:
    if clock := CLOCK.fullmatch(text):
        local = began.astimezone(zone)
        try:
            at = local.replace(hour=int(clock[1]), minute=int(clock[2]), second=0, microsecond=0) + dt.timedelta(
                seconds=float(clock[3] or 0)
            )
        except ValueError:
            raise BadInput(f"“{text}” is not a time of day.") from None
        return at if at >= local - dt.timedelta(minutes=1) else at + dt.timedelta(days=1)  # past midnight
    try:
        return began + dt.timedelta(seconds=float(text))
    except (ValueError, OverflowError):
        pass
    try:
        at = dt.datetime.fromisoformat(text)
    except ValueError:
        raise BadInput(f"“{text[:40]}” is not a time.") from None
    return at if at.tzinfo else at.replace(tzinfo=zone)
