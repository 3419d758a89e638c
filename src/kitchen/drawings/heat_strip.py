"""The heat strip: the piece over time, from its underside to its top, coloured by temperature."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.files.result import Result
from ember.files.stages import BY_SIDES, Oven, Stage

from .axis import FloatArray, TimeColumns, between
from .contours import apart, contour, tip
from .raster import data_uri, rgb

ROWS = 60
COLUMN_PX = 3.0
ISOTHERMS_C = (20.0, 40.0)
STIPPLE_FROM_C, STIPPLE_PX = 63.0, 8.0
MOST_MARKS = 120


@dataclass(frozen=True)
class HeatStrip:
    """Geometry for the template; px, top left at 0 0.

    `down`: lines just outside the face on the pan; `bastes`: where the oven is opened to baste.
    """

    height: float
    picture: str
    isotherms: tuple[tuple[float, str], ...]
    isotherm_labels: tuple[tuple[float, float, float], ...]
    target_lines: tuple[str, ...]
    rule_lines: tuple[str, ...]
    rule_c: float | None
    stipple: str
    down: str
    bastes: tuple[float, ...]


def through(result: Result) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Times, positions from the underside (0) to the top (1), and temperatures [time, position]; round bodies mirrored.

    Raises ValueError for a result without its depth map.
    """
    depth_map = result.depth_map
    if depth_map is None:
        raise ValueError("the drawing needs the result's depth map")
    t, x, T = depth_map.arrays
    if result.stages[0].faces_c is None:
        x = np.concatenate([-x[:0:-1], x])
        T = np.concatenate([T[:, :0:-1], T], axis=1)
    return t, (x - x[0]) / (x[-1] - x[0]), T


def _exposures(stages: Sequence[Stage], result: Result, time: TimeColumns, height: float) -> str:
    """Lines just outside the strip along the face that lies down."""
    exposures: list[str] = []
    for stage, run in zip(stages, result.stages, strict=True):
        if not isinstance(stage, BY_SIDES):
            continue
        side_s = stage.side_s or run.end_s - run.start_s
        starts = np.arange(run.start_s, run.end_s - 0.5, side_s)[:MOST_MARKS]
        for k, begins in enumerate(starts):
            under = (k % 2 == 0) == (stage.first == "under")
            ends = min(begins + side_s, run.end_s)
            y = height + 3.0 if under else -3.0
            exposures.append(f"M{float(time(begins)) + 1:.1f} {y:.0f}H{float(time(ends)) - 1:.1f}")
    return "".join(exposures)


def _bastes(stages: Sequence[Stage], result: Result, time: TimeColumns) -> tuple[float, ...]:
    bastes: list[float] = []
    for stage, run in zip(stages, result.stages, strict=True):
        if isinstance(stage, Oven) and stage.baste_every_min is not None:
            every = stage.baste_every_min * 60.0
            bastes += [float(time(s)) for s in np.arange(run.start_s + every, run.end_s - 1.0, every)]
    return tuple(bastes[:MOST_MARKS])


def _stipple(width: float, height: float, px: FloatArray, fine: FloatArray) -> str:
    """Lines where the piece is hotter than well done, to be drawn dotted. `fine[column, row]`, top row first."""
    dots: list[str] = []
    columns = np.arange(STIPPLE_PX / 2, width, STIPPLE_PX)
    hot = fine[np.clip(np.searchsorted(px, columns), 0, len(px) - 1)] >= STIPPLE_FROM_C
    for number, y in enumerate(np.arange(STIPPLE_PX / 2, height, STIPPLE_PX)):
        column = hot[:, min(int(y / height * fine.shape[1]), fine.shape[1] - 1)]
        edges = np.flatnonzero(np.diff(np.concatenate([[False], column, [False]]).astype(int)))
        shift = STIPPLE_PX / 2 * (number % 2)
        dots += [
            f"M{columns[i] - shift:.0f} {y:.0f}H{columns[j - 1] - shift + 0.1:.1f}" for i, j in edges.reshape(-1, 2)
        ]
    return "".join(dots)


def rule_temperature_c(result: Result) -> float | None:
    """The temperature the rule names, °C; None if it names none."""
    needed = result.safety[0].needed if result.safety else {}
    return needed.get("c", needed.get("from_c"))


def heat_strip(
    result: Result, stages: Sequence[Stage], time: TimeColumns, height: float, level_c: float | None
) -> HeatStrip:
    """Draw a result with its depth map on a time axis; `level_c`: the target's isotherm."""
    t, x, T = through(result)
    px = np.arange(1.0, time.width, COLUMN_PX)
    rows = between(time.time(px), t, T.T).T
    places = (np.arange(ROWS) + 0.5) / ROWS
    fine = between(places[::-1], x, rows)
    rule_c = rule_temperature_c(result)
    if rule_c is not None and level_c is not None and abs(rule_c - level_c) < 0.3:
        rule_c = None  # one line is enough
    return HeatStrip(
        height=height,
        picture=data_uri(rgb(fine.T)),
        isotherms=tuple((c, p) for c in ISOTHERMS_C for p in contour(px, x, rows, c, height)),
        isotherm_labels=apart([tip(px, rows, c, height) for c in ISOTHERMS_C]),
        target_lines=tuple(contour(px, x, rows, level_c, height)) if level_c is not None else (),
        rule_lines=tuple(contour(px, x, rows, rule_c, height)) if rule_c is not None else (),
        rule_c=rule_c,
        stipple=_stipple(time.width, height, px, fine),
        down=_exposures(stages, result, time, height),
        bastes=_bastes(stages, result, time),
    )
