"""The bench of whole eggs: the row of cut eggs, what changes the time, the course."""

from __future__ import annotations

from typing import Any

from ember.eggs.heating import poach_schools
from ember.eggs.strip import Move
from ember.files.egg_result import ShellAnswer
from ember.quantities import Units
from kitchen.desk.presenters import Row, Span, Summary, Table, minutes_clock
from kitchen.drawings.egg_chart import egg_chart
from kitchen.drawings.egg_cut import cut_egg
from kitchen.units.number_text import clock_span, figure

from .answers import degrees, each_other, key_of, moves_by, strip_by
from .presenters import CutView, EggBench, MoveView
from .words import AFTER_WORDS, SHOWN_WORDS

AFTER_NOTE = (
    {"ice_bath": "Ice 5 min, then peel.", "tap": "Cold tap 5 min, then peel.",
     "air": "Left unpeeled: it keeps cooking.",
     "open": "Peel at once, or it keeps cooking."},
    {"ice_bath": "Into ice.", "tap": "Into cold water.", "air": "On a cloth: it keeps cooking.",
     "open": "On a cloth, and out."},
)  # fmt: skip


def show_whole(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    """Fill the bench of whole eggs."""
    after = document.get("then", {}).get("kind", "open")
    _show_row(bench, _plain(document))
    _show_course(bench, document, after, units)
    _show_summary(bench, after, units)


def _show_row(bench: EggBench, plain: dict[str, Any]) -> None:
    """The row of cut eggs with the words along it."""
    result: ShellAnswer = bench.answer
    strip = strip_by(key_of({**plain, "minutes": 1.0}))
    width = strip.high_min - strip.low_min
    bench.cuts = tuple(_cut(egg, bench.method == "poach") for egg in strip.eggs)
    bench.white = tuple(
        Span(
            SHOWN_WORDS[s.word],
            (s.to_min - s.from_min) / width,
            f"{0.5 * (s.from_min + s.to_min):.3f}",
            s.from_min <= result.minutes < s.to_min,
            s.word.split()[0],
        )
        for s in strip.white
    )
    bench.yolk = tuple(
        Span(s.word, (s.to_min - s.from_min) / width, s.word, s.word == result.yolk, s.word) for s in strip.yolk
    )
    bench.mark = min(max((result.minutes - strip.low_min) / width, 0.0), 1.0)
    bench.green = None if strip.green_from is None else (strip.green_from - strip.low_min) / width
    bench.green_clock = minutes_clock(strip.green_from)


def _show_course(bench: EggBench, document: dict[str, Any], after: str, units: Units) -> None:
    """Temperatures over time."""
    result: ShellAnswer = bench.answer
    rise = result.yolk_centre_c.peak - result.yolk_centre_c.end
    bench.chart_head = f"it climbs {figure(units.temperature_step(rise), 0)} more {AFTER_WORDS[after]}"
    curves = result.curves
    end = curves.t_s[-1]
    strips = [(_heat_word(bench.method, document), "ember", 0.0, result.total_s)]
    if end > result.total_s + 1:
        strips.append((AFTER_WORDS[after], "teal" if after in ("ice_bath", "tap") else "air", result.total_s, end))
    water = [c for t, c in zip(curves.t_s, curves.water_c, strict=True) if t <= result.total_s]
    bench.chart = egg_chart(
        curves.t_s,
        {"middle": curves.yolk_centre_c, "edge": curves.yolk_edge_c, "white": curves.white_c, "water": water},
        strips, (result.total_s, result.yolk_centre_c.end), (result.yolk_centre_c.peak_s, result.yolk_centre_c.peak),
    )  # fmt: skip


def _show_summary(bench: EggBench, after: str, units: Units) -> None:
    """The result in words, and how far the eggs cool their water."""
    result: ShellAnswer = bench.answer
    low, high = result.minutes_range or (None, None)
    spread = "" if low is None or high is None else f"± {clock_span(round(30.0 * (high - low)))}"
    note = AFTER_NOTE[bench.method == "poach"][after]
    if result.boils_s:
        note = f"From when it boils, at {clock_span(round(result.boils_s))}. {note}"
    if result.back_c is not None:
        note += f" Brought back, middle {degrees(result.back_c, units, 0)}."
    middle = f"{degrees(result.yolk_centre_c.peak, units)} middle"
    rim = f"rim {degrees(result.yolk_edge_peak_c, units, 0)}, white {result.white}"
    bench.says = Summary(
        result.yolk, (middle, rim),
        "Lift at", minutes_clock(result.minutes), note, spread,
    )  # fmt: skip
    if result.water is not None and result.water.lowest_c < result.curves.water_c[0] - 0.7 and not result.boils_s:
        bench.notes += (
            f"In {figure(result.water.litres, 1)} l the water falls to {degrees(result.water.lowest_c, units)} and is "
            f"back after {clock_span(round(result.water.back_s))}.",
        )


def show_beside(bench: EggBench, document: dict[str, Any]) -> None:
    """What changes the time, and the poaching methods side by side."""
    result: ShellAnswer = bench.answer
    moves, whole = moves_by(key_of({**_plain(document), "minutes": result.minutes}), result.minutes)
    most = max((abs(m.by_s) for m in moves if m.by_s is not None and not m.note), default=1.0)
    bench.moves = tuple(_move(m, max(most, 1.0)) for m in moves)
    after = document.get("then", {}).get("kind", "open")
    if after != "air" and whole is not None and abs(whole - result.minutes) > 0.05:
        bench.left_whole = minutes_clock(whole)
    if bench.method == "poach":
        bench.tables = (_poach_table(document),)


def _plain(document: dict[str, Any]) -> dict[str, Any]:
    """The request without its target."""
    common_keys = ("minutes", "target", "advisory", "pasteurised", "guests")
    return {key: value for key, value in document.items() if key not in common_keys}


def _heat_word(method: str, document: dict[str, Any]) -> str:
    if method == "boil" and document.get("start", "hot") != "hot":
        return "warming, then in the boil"
    return {"boil": "in the boil", "steam": "in steam", "circulator": "in the bath", "poach": "in the water"}[method]


def _short(minutes: float) -> str:
    """ "4:30"; from an hour on "1 h 15"."""
    if minutes < 60:
        return minutes_clock(minutes)
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d}" if rest else f"{hours} h"


def _cut(egg: Any, bare: bool) -> CutView:
    face = egg.face
    drawing = cut_egg(face.depth, face.hottest_c, face.set_fraction, face.edge, egg.yolk, egg.green, bare)
    short = f"{egg.minutes:g}" if egg.minutes == int(egg.minutes) and egg.minutes < 60 else _short(egg.minutes)
    words = f"{short}: yolk {egg.yolk}, white {egg.inside}" + (", green edge" if egg.green else "")
    return CutView(egg.minutes, short, drawing, words, figure(egg.minutes, 3))


def _move(move: Move, most: float) -> MoveView:
    if move.by_s is None:
        return MoveView(move.what, "–", "", move.note, 0.0, 0.0)
    if move.note:  # its minutes count from the boil: not to be held against the others
        return MoveView(move.what, minutes_clock(move.minutes), "", move.note, 0.0, 0.0)
    share = abs(move.by_s) / most
    by = f"{'+' if move.by_s >= 0 else chr(0x2212)}{clock_span(abs(round(move.by_s)))}"
    left, right = (share, 0.0) if move.by_s < 0 else (0.0, share)
    return MoveView(move.what, minutes_clock(move.minutes), by, move.note, left, right)


def _poach_table(document: dict[str, Any]) -> Table:
    rows = []
    schools = poach_schools()
    plain = {k: v for k, v in document.items() if k != "water_c"}
    for school, result in each_other(plain, "school", schools):
        school_row = schools[school]
        minutes = result.minutes if result else None
        if school == "circulator" and "minutes" in document:
            # Minutes of simmering water say nothing of an hour in the bath.
            timed = {k: v for k, v in plain.items() if k != "minutes"}
            result = next(each_other({**timed, "minutes": 50.0}, "school", [school]))[1]
            minutes = result.minutes if result else None
        cells = ("–", "–", "–") if result is None else (
            minutes_clock(minutes), result.white, result.yolk,
        )  # fmt: skip
        chosen = school == document.get("school")
        rows.append(Row(school_row.name, school_row.line if chosen else "", cells, school, chosen))
    return Table("Methods", ("time", "white", "yolk"), tuple(rows), "school")
