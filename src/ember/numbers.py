"""Numbers as people write them: decimal points and commas, groups of thousands, fractions.

A separator that could mean two numbers is never guessed: "5,500" is five thousand five hundred to one cook and five
and a half to another. Common practice; groups of three by a space are the SI's own (BIPM, The International System of
Units, 9th edition, 5.4.4).
"""

from __future__ import annotations

import re

from .errors import BadInput

SIGNS = {
    "½": 1 / 2, "¼": 1 / 4, "¾": 3 / 4, "⅓": 1 / 3, "⅔": 2 / 3, "⅕": 1 / 5, "⅖": 2 / 5, "⅗": 3 / 5, "⅘": 4 / 5,
    "⅙": 1 / 6, "⅚": 5 / 6, "⅛": 1 / 8, "⅜": 3 / 8, "⅝": 5 / 8, "⅞": 7 / 8,
}  # fmt: skip
_SPACES = "\u0020\u00a0\u2009\u202f"
_GROUPS = rf"\d{{1,3}}(?:[{_SPACES}'’]\d{{3}})+(?:[.,]\d+)?(?!\d)"
_SEPARATED = r"\d+(?:[.,]\d+)+|[.,]\d+|\d+"
_FRACTION = rf"(?:\d+[{_SPACES}-])?\d+[/⁄]\d+"
_SIGNED = rf"\d*[{_SPACES}]?[{''.join(SIGNS)}]"
NUMBER = re.compile(rf"[-+\u2212]?(?:{_SIGNED}|{_FRACTION}|{_GROUPS}|{_SEPARATED})")


def number_of(text: str, point_is_decimal: bool = False) -> float:
    """The number in a text that `NUMBER` matched. `point_is_decimal`: "5.500" is 5.5, as for inches and kilograms.

    Raises BadInput for one that could be two numbers.

    >>> number_of("1 1/2"), number_of("1½"), number_of("5 500"), number_of("1,234.5"), number_of("54,5")
    (1.5, 1.5, 5500.0, 1234.5, 54.5)
    """
    written = text.strip()
    sign = -1.0 if written[:1] in ("-", "\u2212") else 1.0
    bare = written.lstrip("-+\u2212").strip()
    if bare[-1:] in SIGNS:
        whole = bare[:-1].strip()
        return sign * (float(whole or 0) + SIGNS[bare[-1]])
    if "/" in bare or "⁄" in bare:
        return sign * _fraction(bare, text)
    return sign * _decimal(re.sub(rf"(?<=\d)[{_SPACES}'’](?=\d{{3}})", "", bare), text, point_is_decimal)


def _fraction(bare: str, text: str) -> float:
    whole, _, rest = bare.replace("⁄", "/").replace("-", " ").rpartition(" ")
    over, under = rest.split("/")
    if int(under) == 0:
        raise BadInput(f"“{text.strip()[:40]}” divides by nothing.")
    return float(whole.strip() or 0) + int(over) / int(under)


def _whole(grouped: str, text: str) -> str:
    """The digits of a whole number in groups of three. Raises BadInput for other groups."""
    if not re.fullmatch(r"\d{1,3}(?:([.,])\d{3})(?:\1\d{3})*", grouped):
        raise BadInput(f"“{text.strip()[:40]}” is not a number. Write it without separators.")
    return re.sub("[.,]", "", grouped)


def _decimal(bare: str, text: str, point_is_decimal: bool) -> float:
    """A number with points and commas: the last of two kinds is the decimal one, one kind repeated parts thousands."""
    marks = [mark for mark in bare if mark in ".,"]
    if not marks:
        return float(bare)
    last = marks[-1]
    if len(set(marks)) == 2:
        whole, _, part = bare.rpartition(last)
        return float(f"{_whole(whole, text)}.{part}")
    if len(marks) > 1:
        return float(_whole(bare, text))
    whole, _, part = bare.partition(last)
    could_be_thousands = len(part) == 3 and 1 <= len(whole) <= 3 and whole.strip("0") != ""
    if could_be_thousands and not (last == "." and point_is_decimal):
        small = float(f"{whole}.{part}")
        raise BadInput(f"“{text.strip()[:40]}” could be {whole}{part} or {small:g}. Enter one of the two.")
    return float(f"{whole or 0}.{part}")
