"""A photograph of a cut face, answered: bands in millimetres, the heat of the middle, or why it cannot be read."""

from __future__ import annotations

from typing import Any

from ..errors import BadInput
from ..food.catalogue import cut
from .frame import Frame, Point
from .label import plane_of
from .outline import propose
from .palette import RAW, bands_of
from .picture import Picture, decoded
from .reading import FaceReading, read_face

USUAL_CUT = "beef/strip-loin"
WHOLE = ("red", RAW)  # bands of the middle, told as one


def answer_photo(
    data: bytes, mm: float, cut_id: str = USUAL_CUT, top: Point | None = None, under: Point | None = None,
    white: Point | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Read the photograph in a file. `mm`: the thickness between `top` and `under`, px; where these are not given they
    are proposed, as is something white.

    Raises BadInput for an unknown cut or an impossible thickness; what is wrong with the picture is in the answer.
    """
    known = cut(cut_id).id
    try:
        picture = decoded(data).rgb
        frame = framed(picture, mm, known, top, under, white)
        reading = read_face(picture, frame, known)
    except BadInput as error:
        if error.at == "mm":
            raise
        return {"bands_mm": {}, "core_c": None, "refused": error.message}
    return told(reading, known)


def framed(
    picture: Picture, mm: float, cut_id: str, top: Point | None, under: Point | None, white: Point | None
) -> Frame:  # fmt: skip
    """The frame as given, completed by a proposal. Raises BadInput."""
    if top is None or under is None or white is None:
        proposal = propose(picture, cut_id)
        top, under, white = top or proposal.top, under or proposal.under, white or proposal.white
    return Frame.of(top, under, mm, picture.shape, white, plane=plane_of(picture))


def told(reading: FaceReading, cut_id: str) -> dict[str, Any]:
    """A reading as JSON: for each band how much of it lies above and below the coldest place, for what is red or raw
    how much in all; the heat of the middle; what is in doubt.
    """
    top, under = ({band.word: band.mm for band in bands} for bands in (reading.top, reading.under))
    above = max(reading.coldest_mm - sum(top.values()), 0.0)
    top[reading.middle.word] = min(round(above, 2), reading.middle.mm)
    under[reading.middle.word] = round(reading.middle.mm - top[reading.middle.word], 2)
    bands: dict[str, Any] = {}
    for _, word in bands_of(cut_id):
        both = [top.get(word, 0.0), under.get(word, 0.0)]
        bands[word] = round(sum(both), 2) if word in WHOLE else both
    return {
        "bands_mm": bands,
        "core_c": {"p10": reading.core_low_c, "p50": reading.core_c, "p90": reading.core_high_c},
        "middle": reading.middle.word, "coldest_mm": reading.coldest_mm, "off_middle_mm": reading.off_middle_mm,
        "give_or_take_mm": reading.give_or_take_mm,
        "uneven_mm": reading.uneven_mm, "doubts": list(reading.doubts), "refused": None,
    }  # fmt: skip
