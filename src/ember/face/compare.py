"""A face as it was cut against the face that was promised: each band, and what differs by more than can be misread."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from .palette import bands_of

TELL_MM = 1.0  # what edges of bands are read within; see docs/science.md
UNEVEN_MM, OFF_MIDDLE_SHARE = 2.0, 0.1
LEAST_MM = 0.25
CRUST = "crust"


class Difference(StrEnum):
    """What differs between a face and its promise."""

    CRUST = "crust"
    RIM = "rim"  # the band below the crust: the grey edge of red meat
    MIDDLE = "middle"
    OFF_MIDDLE = "off-middle"
    UNEVEN = "uneven"


@dataclass(frozen=True)
class BandRow:
    """A band of both faces, mm. `is_across`: over the whole thickness, because it is the middle of one of them; else
    the mean of both sides. `promised_mm` is None without a promise.
    """

    word: str
    measured_mm: float
    promised_mm: float | None
    is_across: bool

    @property
    def off_mm(self) -> float | None:
        """Measured less promised."""
        return None if self.promised_mm is None else self.measured_mm - self.promised_mm


@dataclass(frozen=True)
class Finding:
    """A difference worth a sentence. `measured`, `promised`: mm, or °C of the middle; words: bands."""

    what: Difference
    measured: float
    promised: float
    word: str = ""
    promised_word: str = ""


@dataclass(frozen=True)
class Comparison:
    """Rows from the outside in, and findings; no findings mean that the face came as promised."""

    rows: tuple[BandRow, ...]
    findings: tuple[Finding, ...]


def compared(cut_id: str, measured: Mapping[str, Any], promised: Mapping[str, Any] | None, mm: float) -> Comparison:
    """Compare two readings as told by `answer.told`; `mm`: the thickness of the measured piece. `promised` may have the
    plan's own highest core as `peak_c`: degrees are then told as the plan's, not as the colour's.
    """
    middles = {measured["middle"]} | ({promised["middle"]} if promised else set())
    rows = []
    for _, word in bands_of(cut_id):
        is_across = word in middles
        got, wanted = across(measured, word), None if promised is None else across(promised, word)
        if max(got, wanted or 0.0) < LEAST_MM:
            continue
        share = 1.0 if is_across else 0.5
        rows.append(BandRow(word, share * got, None if wanted is None else share * wanted, is_across))
    return Comparison(tuple(rows), tuple(_findings(cut_id, measured, promised, rows, mm)))


def across(face: Mapping[str, Any], word: str) -> float:
    """How much of the whole thickness is of this band, mm."""
    mm = face["bands_mm"].get(word, 0.0)
    return float(sum(mm)) if isinstance(mm, list | tuple) else float(mm)


def _findings(
    cut_id: str, measured: Mapping[str, Any], promised: Mapping[str, Any] | None, rows: list[BandRow], mm: float
) -> list[Finding]:
    findings = []
    rim = bands_of(cut_id)[1][1]
    for row in rows:
        what = {CRUST: Difference.CRUST, rim: Difference.RIM}.get(row.word)
        if what is None or row.is_across or row.promised_mm is None:
            continue
        if abs(row.measured_mm - row.promised_mm) > TELL_MM:
            findings.append(Finding(what, row.measured_mm, row.promised_mm, row.word))
    if promised is not None and measured["middle"] != promised["middle"]:
        core, wanted = measured["core_c"], promised["core_c"]["p50"]
        if not core["p10"] <= wanted <= core["p90"]:
            shift = promised.get("peak_c", wanted) - wanted  # red meat looks hotter the longer it was held
            findings.append(
                Finding(Difference.MIDDLE, core["p50"] + shift, wanted + shift, measured["middle"], promised["middle"])
            )
    expected = promised["off_middle_mm"] if promised else 0.0
    sure_mm = measured["give_or_take_mm"] + (promised["give_or_take_mm"] if promised else 0.0)
    if abs(measured["off_middle_mm"] - expected) > max(TELL_MM, OFF_MIDDLE_SHARE * mm) + sure_mm:
        findings.append(Finding(Difference.OFF_MIDDLE, measured["off_middle_mm"], expected))
    if measured["uneven_mm"] > UNEVEN_MM:
        findings.append(Finding(Difference.UNEVEN, measured["uneven_mm"], 0.0))
    return findings
