"""What is around the rim of a flat piece, stage by stage (rim.py); the values are in data/media.toml."""

from __future__ import annotations

from dataclasses import replace

from ..files import stages as st
from .faces import Segment, Setting, media
from .fire import air_above_c


def with_rim(segment: Segment, stage: st.Stage, setting: Setting) -> Segment:
    """The segment with what is around the piece's rim; unchanged where no line across is followed."""
    if setting.rim.area <= 0.0 or stage.kind == "torch":
        return segment
    h, around_c, of_around = 0.0, 0.0, 0.0
    if isinstance(stage, st.Pan | st.Plancha):
        h, around_c, of_around = beside_pan(stage, setting.thick_m, setting.wide_m)
    elif isinstance(stage, st.Grill):
        air_c, medium = air_above_c(stage), media()["rim"]
        over_the_fire = stage.zone == "direct" and stage.fire == "below"
        h, around_c = medium["h"], air_c + (medium["of_grill"] * (stage.source_c - air_c) if over_the_fire else 0.0)
    return replace(segment, rim=setting.rim._replace(h=h, medium_c=around_c, of_around=of_around))


def beside_pan(stage: st.Pan | st.Plancha, thick_m: float, wide_m: float) -> tuple[float, float, float]:
    """What an edge meets that stands in a pan or on a plate: film W/m²K, temperature °C, and the share of the way from
    there to the pan's own temperature.
    """
    medium, air_c = media()["rim"], media()["vessel"]["air_c"]
    turns = stage.exposures is None or stage.exposures > 2
    on_its_sides = turns and wide_m < medium["chunk_below"] * thick_m
    h = medium["turned_h"] if on_its_sides else medium["h"]
    if isinstance(stage, st.Plancha):
        return h, air_c + medium["of_pan"] * (stage.plate_c - air_c), 0.0
    return (h, medium["lid_c"], 0.0) if stage.cover == "lid" else (h, air_c, medium["of_pan"])
