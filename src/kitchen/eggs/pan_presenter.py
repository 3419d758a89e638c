"""The bench of eggs in the pan."""

from __future__ import annotations

from typing import Any

from ember.eggs.pan_data import pan_data
from ember.files.egg_result import OmeletteAnswer, ScrambleAnswer
from ember.quantities import Units
from kitchen.desk.presenters import Bar, Row, Span, Summary, Table, minutes_clock
from kitchen.drawings.egg_chart import egg_chart
from kitchen.units.number_text import clock_span, figure

from .answers import degrees, each_other
from .presenters import EggBench


def show_scramble(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: ScrambleAnswer = bench.answer
    data = pan_data()
    strips = [("stirred on the heat", "ember", 0.0, 60.0 * result.minutes),
              ("off", "air", 60.0 * result.minutes, result.t_s[-1])]  # fmt: skip
    bench.chart = egg_chart(
        result.t_s, {"middle": result.egg_c, "pan": result.pan_c}, strips, (60.0 * result.minutes, result.off_c), None,
        (70.0, 74.5), 0.0, max(100.0, 10.0 * (max(result.pan_c) // 10 + 1)), result.t_s[-1] < 180,
    )  # fmt: skip
    bench.chart_head = f"off at {degrees(result.off_c, units, 0)}, at most {degrees(result.peak_c, units)}"
    bench.says = Summary(
        result.word, (f"{result.curd} curd", f"{degrees(result.plate_c, units, 0)} on the plate after a minute"),
        "Off after", minutes_clock(result.minutes),
        f"Stop with {figure(result.stop_g, 0)} g {result.stop}: "
        f"{figure(units.temperature_step(result.stop_drop_k), 1)} "
        f"{units.degree} less." if result.stop_g else "Nothing stops them: they keep cooking in the pan.",
    )  # fmt: skip
    rows = []
    for school, other in each_other(document, "school", data.scramble):
        method = data.scramble[school]
        cells = ("–",) * 3 if other is None else (minutes_clock(other.minutes), other.curd, other.word)
        rows.append(Row(method.name, method.line, cells, school, school == document.get("school")))
    schools = Table("Methods", ("time", "curd", "they are"), tuple(rows), "school")
    rows = []
    for stop, other in each_other({k: v for k, v in document.items() if k != "stop_g"}, "stop", data.stop):
        cells = ("–",) * 3
        if other is not None:
            by = figure(units.temperature_step(-other.stop_drop_k), 1) if other.stop_drop_k else "0"
            hottest = f"{degrees(other.peak_c, units)}, {other.word}"
            cells = (f"{figure(other.stop_g, 0)} g", f"{by} {units.degree}", hottest)
        rows.append(Row(data.stop[stop].name.capitalize(), "", cells, stop, stop == document.get("stop")))
    bench.tables = (schools, Table("What stops how much", ("of it", "at once", "hottest"), tuple(rows), "stop"))
    bench.bars = (_butter_bar(result.pan_c[0], units),)


def _butter_bar(pan_c: float, units: Units) -> Bar:
    """A bar of what the butter in the pan tells about its heat."""
    rows = pan_data().butter
    low, high = 60.0, 200.0
    spans = []
    for butter, after in zip(rows, [*rows[1:], None], strict=True):
        to = after.from_c if after else high
        spans.append(
            Span(butter.word.split(":")[0], (to - max(butter.from_c, low)) / (high - low), "", False, "butter")
        )
    share = min(max((pan_c - low) / (high - low), 0.0), 1.0)
    return Bar(
        "Butter says",
        tuple(spans),
        share,
        f"pan {degrees(pan_c, units, 0)}",
        (degrees(low, units, 0), degrees(high, units, 0)),
    )


def show_omelette(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: OmeletteAnswer = bench.answer
    data = pan_data()
    method = data.omelette[document.get("school", "pale")]
    total = 60.0 * result.minutes
    strips = [("stirred", "ember", 0.0, result.stirred_s)] if result.stirred_s > 2 else []
    strips += [("left", "ember", result.stirred_s, total), ("plate", "air", total, result.t_s[-1])]
    bench.chart = egg_chart(
        result.t_s, {"middle": result.coldest_c}, strips, None, None, (68.0, 72.0), 0.0, 100.0, result.t_s[-1] < 180
    )
    bench.chart_head = f"coldest place, at most {degrees(result.coldest_peak_c, units)}"
    facts = [
        f"face {result.browning}" if result.browning != "none" else "no colour",
        f"{figure(result.film_mm, 1)} mm thick",
    ]
    if result.yolk:
        facts = [f"yolk {result.yolk}", facts[0]]
    steps = f"Stirred {clock_span(round(result.stirred_s))}, then left." if result.stirred_s else "Left alone."
    if result.turn_s is not None:
        steps += f" Turn at {clock_span(round(result.turn_s))}."
    bench.says = Summary(result.word, tuple(facts), "Off after", minutes_clock(result.minutes), steps)
    rows = []
    plain = {k: v for k, v in document.items() if k not in ("pan_c", "seconds")}
    for school, other in each_other(plain, "school", data.omelette):
        known = data.omelette[school]
        cells = ("–",) * 3
        if other is not None:
            face = other.browning if other.browning != "none" else "pale"
            inside = other.top_c if known.whole else other.coldest_peak_c
            cells = (minutes_clock(other.minutes), f"{degrees(inside, units, 0)}, {other.word}", face)
        chosen = school == document.get("school")
        rows.append(Row(known.name, known.line if chosen else "", cells, school, chosen))
    bench.tables = (Table("Methods", ("time", "inside", "face"), tuple(rows), "school"),)
    pan_c = float(document.get("pan_c") or method.pan_c)
    bench.bars = (_butter_bar(pan_c, units),)
