"""What is around the rim of a flat piece, stage by stage (rim.py); the values are in data/media.toml."""

from __future__ import annotations

from dataclasses import replace

from ..files import stages as st
from .faces import Segment, Setting, media
from .grid import FloatArray


def with_rim(segment: Segment, stage: st.Stage, setting: Setting) -> Segment:
    """The segment with the conditions of the piece's rim; unchanged where none is followed."""
    if setting.rim.area <= 0.0 or stage.kind == "torch":
        return segment
    h, around_c, of_around = _around_it(segment.faces, stage, setting)
    return replace(segment, rim=setting.rim._replace(h=h, medium_c=around_c, of_around=of_around))


def _around_it(faces: FloatArray, stage: st.Stage, setting: Setting) -> tuple[float, float, float]:
    """Film h W/m²K, temperature °C, and share of the way from there to the body around."""
    medium = media()["rim"]
    match stage:
        case st.Pan():
            h = medium["turned_h"] if _on_its_sides(stage, setting) else medium["h"]
            if stage.cover == "lid":
                return h, medium["lid_c"], 0.0
            return h, media()["vessel"]["air_c"], medium["of_pan"]
        case st.Plancha():
            h = medium["turned_h"] if _on_its_sides(stage, setting) else medium["h"]
            air_c = media()["vessel"]["air_c"]
            return h, air_c + medium["of_pan"] * (stage.plate_c - air_c), 0.0
        case st.Grill():
            return medium["h"], faces[1, 0] + medium["of_grill"] * (stage.source_c - faces[1, 0]), 0.0
        case _:
            return 0.0, 0.0, 0.0


def _on_its_sides(stage: st.Pan | st.Plancha, setting: Setting) -> bool:
    """Whether a cook turns it onto its sides too: a chunk that is turned more than once."""
    turns = stage.exposures is None or stage.exposures > 2
    return turns and setting.wide_m < media()["rim"]["chunk_below"] * setting.thick_m
