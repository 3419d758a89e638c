"""What a comparison says, in a cook's words. Measures are metric here; `in_units` turns them into the reader's."""

from __future__ import annotations

from ember.face.compare import Comparison, Difference, Finding
from kitchen.units.number_text import fixed

AS_PROMISED = "It came as planned, within 1 mm."
PLACES = {
    "pan": "the pan", "plancha": "the plate", "grill": "the grill", "oven": "the oven", "fry": "the oil",
    "bath": "the bath",
}  # fmt: skip


def _mm(mm: float) -> str:
    return f"{fixed(mm, 1)} mm"


def sentence(finding: Finding, heat: str) -> str:
    """A difference with what usually makes it. `heat`: the kind of the stage that colours the outside."""
    place = PLACES.get(heat, "the heat")
    more = finding.measured > finding.promised
    match finding.what:
        case Difference.CRUST:
            why = f"{place} was hotter or longer" if more else f"{place} was cooler, shorter or wetter"
            return f"Crust {_mm(finding.measured)}, planned {_mm(finding.promised)}: {why}."
        case Difference.RIM:
            why = f"{place} was hotter or longer" if more else f"{place} was cooler or shorter"
            name = "Grey edge" if finding.word == "grey" else f"{finding.word.capitalize()} from each side"
            return f"{name} {_mm(finding.measured)}, planned {_mm(finding.promised)}: {why}."
        case Difference.MIDDLE:
            why = "pulled late, or thinner than planned" if more else "pulled early, thicker, or colder at the start"
            return (
                f"The middle is {finding.word}, planned {finding.promised_word}: it looks like "
                f"{fixed(finding.measured, 0)} °C, planned {fixed(finding.promised, 0)} °C. Usually {why}."
            )
        case Difference.OFF_MIDDLE:
            side, other = ("underside", "top") if more else ("top", "underside")
            off = _mm(abs(finding.measured))
            return f"The coldest place is {off} nearer the {side}: the {other} had more heat."
        case Difference.UNEVEN:
            return f"The bands differ by {_mm(finding.measured)} from left to right: uneven contact, or piece."


def sentences(comparison: Comparison, heat: str, has_promise: bool) -> list[str]:
    """Everything a comparison says."""
    lines = [sentence(finding, heat) for finding in comparison.findings]
    return lines or ([AS_PROMISED] if has_promise else [])
