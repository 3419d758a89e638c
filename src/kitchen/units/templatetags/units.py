"""Template filters that write measures in the person's units."""

from __future__ import annotations

import datetime as dt

from django import template
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe

from ember.judge.standards import standards
from ember.judge.words import MOST_LOGS, verdict_sentence
from ember.quantities import Units, show_duration
from kitchen.drawings.families import family_of, pattern

from ..dates import day_text
from ..number_text import clock_span, figure, fixed, half_mm
from ..number_text import in_units as text_in_units

register = template.Library()


@register.filter
def temp(celsius: float | None, units: Units) -> str:
    """A temperature with one decimal, without its unit."""
    return "–" if celsius is None else fixed(units.temperature_value(celsius), 1)


@register.filter
def temp_short(celsius: float | None, units: Units) -> str:
    """A setting: with decimals only if it has any."""
    return "–" if celsius is None else figure(units.temperature_value(celsius), 1)


@register.filter
def temp_whole(celsius: float | None, units: Units) -> str:
    """A temperature on an axis: whole degrees."""
    return "–" if celsius is None else figure(units.temperature_value(celsius), 0)


@register.filter
def logs(value: float) -> str:
    """A log reduction; beyond some number it only means "all of them"."""
    return f"more than {MOST_LOGS}" if value > MOST_LOGS else fixed(value, 1)


@register.filter
def kelvin(value: float | None, units: Units) -> str:
    """A difference of temperature with its sign."""
    if value is None:
        return "–"
    text = fixed(units.temperature_step(value), 1)
    return text if text.startswith("\u2212") else f"+{text}"


@register.filter
def kelvin_tick(value: float, units: Units) -> str:
    """A difference on a scale: "0", "+5", "\u22122.5"."""
    step = units.temperature_step(value)
    return "0" if step == 0 else f"{'+' if step > 0 else chr(0x2212)}{figure(abs(step), 1)}"


@register.filter
def kelvin_plain(value: float | None, units: Units) -> str:
    """A difference of temperature without a sign."""
    return "–" if value is None else fixed(abs(units.temperature_step(value)), 1)


@register.filter
def in_units(text: str, units: Units) -> str:
    """A message of the core in the person's unit."""
    return text_in_units(text, units)


@register.filter
def size_in(mm: float | None, units: Units) -> str:
    """A length in the person's unit."""
    return "–" if mm is None else figure(units.length_value(mm), 1 if units.length == "mm" else 2)


@register.filter
def size_half(mm: float | None, units: Units) -> str:
    """A depth: half millimetres below 10 mm, whole ones above; hundredths of an inch."""
    return "–" if mm is None else half_mm(mm) if units.length == "mm" else fixed(units.length_value(mm), 2)


@register.filter
def size_tenth(mm: float | None, units: Units) -> str:
    """A measured length: tenths of a millimetre, hundredths of an inch."""
    return "–" if mm is None else fixed(units.length_value(mm), 1 if units.length == "mm" else 2)


@register.filter
def size_step(mm: float | None, units: Units) -> str:
    """A difference of lengths with its sign."""
    text = size_tenth(mm, units)
    return text if text[0] in "\u2212–" else f"+{text}"


@register.filter
def size_whole(mm: float | None, units: Units) -> str:
    """An estimated length: whole millimetres, tenths of an inch."""
    return "–" if mm is None else figure(units.length_value(mm), 0 if units.length == "mm" else 1)


@register.filter
def mass(g: float | None, units: Units) -> str:
    """A mass in the person's unit."""
    return "–" if g is None else figure(units.mass_value(g), 0 if units.mass == "g" else 2)


@register.filter
def small_mass(g: float | None, units: Units) -> str:
    """A small mass with its unit: grams or ounces."""
    if g is None:
        return "–"
    return f"{figure(units.small_mass_value(g), 1 if units.mass == 'lb' or g < 10 else 0)} {units.small_mass}"


@register.filter
def kilos(kg: float | None, units: Units) -> str:
    """A large mass with its unit: kilograms or pounds."""
    if kg is None:
        return "–"
    return f"{figure(kg, 1)} kg" if units.mass == "g" else f"{figure(units.mass_value(1000.0 * kg), 1)} lb"


@register.filter
def litres(volume_l: float | None, units: Units) -> str:
    """A pot's volume with its unit."""
    return "–" if volume_l is None else f"{figure(units.pot_volume_value(volume_l), 1)} {units.pot_volume}"


@register.filter
def height(m: float | None, units: Units) -> str:
    """A height above the sea with its unit."""
    return "–" if m is None else f"{figure(units.height_value(m), 0)} {units.height}"


@register.filter
def height_number(m: float | None, units: Units) -> str:
    """A height above the sea for a field, without its unit."""
    return "" if m is None else figure(units.height_value(m), 0)


@register.filter
def duration(seconds: float | None) -> str:
    """ "1 h 50 min"."""
    return "–" if seconds is None else show_duration(seconds)


@register.filter
def minutes_words(minutes: float | None) -> str:
    """Minutes as "1 h 50 min"."""
    return "–" if minutes is None else show_duration(minutes * 60)


@register.filter
def countdown(seconds: float | None) -> str:
    """A countdown: "4:30"."""
    return "–" if seconds is None else clock_span(seconds)


@register.filter
def count_or_late(seconds: float | None) -> str:
    """A countdown: "4:30"; past its time "2:04 late"."""
    if seconds is None:
        return "–"
    return f"{clock_span(-seconds)} late" if round(seconds) < 0 else clock_span(max(seconds, 0.0))


@register.filter
def hhmm(when: dt.datetime | str | None) -> str:
    """The time on the kitchen's clock."""
    if not when:
        return "–"
    moment = dt.datetime.fromisoformat(when) if isinstance(when, str) else when
    return timezone.localtime(moment).strftime("%H:%M")


@register.filter
def day(when: dt.datetime | str | None) -> str:
    """ "Friday 5 March"."""
    if not when:
        return "–"
    moment = timezone.localtime(dt.datetime.fromisoformat(when) if isinstance(when, str) else when)
    return day_text(moment, "long")


@register.filter
def weekday(when: dt.datetime) -> str:
    """ "Fri"."""
    return day_text(timezone.localtime(when), "weekday")


@register.filter
def day_short(when: dt.datetime | str | None) -> str:
    """ "Fri 5 Mar"."""
    if not when:
        return "–"
    moment = timezone.localtime(dt.datetime.fromisoformat(when) if isinstance(when, str) else when)
    return day_text(moment, "short")


@register.filter
def day_as(when: dt.datetime | dt.date | None, form: str) -> str:
    """A day in one of the forms of `units/dates.py`."""
    if not when:
        return "–"
    return day_text(timezone.localtime(when) if isinstance(when, dt.datetime) else when, form)


@register.filter
def epoch_clock(seconds: float) -> str:
    """A time in s since 1970 on the kitchen's clock: "19:30"."""
    return hhmm(dt.datetime.fromtimestamp(seconds, dt.UTC))


@register.filter
def epoch_day(seconds: float) -> str:
    """The day of a time in s since 1970: "Fri 5"; with its hour unless it is midnight."""
    moment = timezone.localtime(dt.datetime.fromtimestamp(seconds, dt.UTC))
    return day_text(moment, "weekday-day") if moment.hour == 0 else f"{day_text(moment, 'weekday')} {moment:%H:%M}"


@register.filter
def isotime(when: dt.datetime) -> str:
    """For scripts: milliseconds since 1970."""
    return str(round(when.timestamp() * 1000))


@register.filter
def verdict_words(verdict: dict[str, object], units: Units) -> str:
    """The verdict as a sentence, in the person's unit."""
    return text_in_units(verdict_sentence(verdict, units), units)


@register.filter
def px(value: float) -> SafeString:
    """A coordinate to one decimal: like floatformat, in a fifth of the time."""
    return mark_safe(f"{value:.1f}")  # noqa: S308  (a number)


@register.filter
def half(value: float) -> float:
    """Half of it: a spread is shown as plus and minus."""
    return value / 2


@register.filter
def clock(seconds: float) -> str:
    """Time since the start, as hours and minutes: "1:03"."""
    minutes = round(seconds / 60)
    return f"{minutes // 60}:{minutes % 60:02d}"


@register.filter
def clock_s(seconds: float) -> str:
    """A short time as minutes and seconds: "0:40"."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


@register.filter
def minus(value: float, other: float) -> float:
    """A difference."""
    return value - other


@register.filter
def get(mapping: dict[object, object] | None, key: object) -> object:
    """A value by its key; None if there is none."""
    return mapping.get(key) if mapping else None


@register.filter
def standard_name(standard_id: str) -> str:
    """A standard's name; its id if it is unknown."""
    standard_row = standards().get(standard_id)
    return standard_row.name if standard_row else standard_id


@register.filter
def stage_family(kind: str) -> str:
    """The family of a kind of stage."""
    return family_of(kind)


@register.filter
def stage_pattern(kind: str, width: int) -> str:
    """A stage's pattern as a path of this width."""
    return pattern(kind, float(width))


@register.filter
def plus(value: float, other: float) -> float:
    """A sum; Django's own adds whole numbers."""
    return float(value) + float(other)


@register.filter
def neg(value: float) -> float:
    """The negative."""
    return -float(value)


@register.filter
def minutes_clock(minutes: float | None) -> str:
    """Minutes as "7:10"."""
    return "–" if minutes is None else clock_span(round(60.0 * minutes))


@register.filter
def hhmmss(when: dt.datetime | str | None) -> str:
    """The time on the kitchen's clock, to the second."""
    if not when:
        return "–"
    moment = dt.datetime.fromisoformat(when) if isinstance(when, str) else when
    return f"{timezone.localtime(moment):%H:%M:%S}"
