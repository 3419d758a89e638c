"""Days in the kitchen's own language and order, for everything a request renders."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache

from babel import Locale
from babel.dates import format_date, match_skeleton

DEFAULT = "en_GB"
# Locale and how it is offered: a day as it writes it.
LANGUAGES = [
    ("en_GB", "English: Friday 5 March"), ("en_US", "English: Friday, March 5"), ("da_DK", "Dansk: fredag 5. marts"),
    ("de_DE", "Deutsch: Freitag, 5. März"), ("es_ES", "Español: viernes, 5 de marzo"),
    ("fi_FI", "Suomi: perjantai 5. maaliskuuta"), ("fr_FR", "Français : vendredi 5 mars"),
    ("it_IT", "Italiano: venerdì 5 marzo"), ("nl_NL", "Nederlands: vrijdag 5 maart"),
    ("nb_NO", "Norsk: fredag 5. mars"), ("pl_PL", "Polski: piątek, 5 marca"),
    ("pt_PT", "Português: sexta-feira, 5 de março"), ("sv_SE", "Svenska: fredag 5 mars"),
]  # fmt: skip
# By name: skeleton of the Unicode locale data, and the pattern of strftime for British English ("-d": no leading zero).
FORMATS = {
    "long": ("MMMMEEEEd", "{d:%A} {d.day} {d:%B}"),
    "short": ("MMMEd", "{d:%a} {d.day} {d:%b}"),
    "weekday": ("E", "{d:%a}"),
    "weekday-day": ("Ed", "{d:%a} {d.day}"),
    "month": ("MMMMd", "{d.day} {d:%B}"),
    "month-short": ("MMMd", "{d.day} {d:%b}"),
    "year": ("yMMMMd", "{d.day} {d:%B} {d:%Y}"),
    "long-year": ("yMMMMEEEEd", "{d:%A} {d.day} {d:%B} {d:%Y}"),
    "short-year": ("yMMMEd", "{d:%a} {d.day} {d:%b} {d:%Y}"),
}
_language: ContextVar[str] = ContextVar("date_language", default=DEFAULT)


@contextmanager
def dates_in(language: str) -> Iterator[None]:
    """Context manager: days inside are written in a language."""
    token = _language.set(language)
    try:
        yield
    finally:
        _language.reset(token)


def day_text(day: dt.date, form: str) -> str:
    """A day, or the day of a local time, in one of `FORMATS`.

    >>> day_text(dt.date(2027, 3, 5), "long")
    'Friday 5 March'
    >>> with dates_in("de_DE"):
    ...     day_text(dt.date(2027, 3, 5), "long")
    'Freitag, 5. März'
    """
    skeleton, british = FORMATS[form]
    language = _language.get()
    if language == DEFAULT:
        return british.format(d=day)
    return format_date(day, _pattern(language, skeleton), locale=language)


@cache
def _pattern(language: str, skeleton: str) -> str:
    """The locale's pattern for a skeleton, with the whole name of the weekday where the skeleton asks for it."""
    known = Locale.parse(language).datetime_skeletons
    pattern = str(known[match_skeleton(skeleton, known)].pattern)
    return re.sub("E+|c+", "EEEE", pattern) if "EEEE" in skeleton else pattern
