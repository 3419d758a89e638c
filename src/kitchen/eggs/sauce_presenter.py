"""The bench of warm sauces, custards and egg-bound pasta."""

from __future__ import annotations

from typing import Any

from ember.eggs.sauce_data import sauce_data
from ember.files.egg_result import CustardAnswer, EmulsionAnswer, PastaAnswer, StirredAnswer
from ember.quantities import Units
from kitchen.desk.presenters import Row, Summary, Table, minutes_clock, window
from kitchen.drawings.dish import custard_dish
from kitchen.drawings.egg_chart import egg_chart
from kitchen.units.number_text import figure

from .answers import degrees, each_other
from .presenters import EggBench
from .words import AFTER_PULL


def show_sauce(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: EmulsionAnswer = bench.answer
    at = float(document.get("yolk_c", 64.0))
    low, high = 50.0, max(88.0, result.curdles_c + 4)
    yolks = window(
        "Yolks", [("thin", low, result.thickens_c), ("thick", result.thickens_c, result.curdles_c),
                  ("curdled", result.curdles_c, high)],
        at, f"whisked to {degrees(at, units)}", (degrees(low, units, 0), degrees(high, units, 0)),
    )  # fmt: skip
    bars = [yolks]
    butter = float(document.get("butter_g") or 0.0)
    if result.butter_most_g is not None and result.butter_best_g is not None and butter:
        top = max(1.35 * result.butter_most_g, 1.05 * butter)
        bars.append(
            window(
                "Butter",
                [
                    ("holds well", 0.0, result.butter_best_g),
                    ("thin it", result.butter_best_g, result.butter_most_g),
                    ("breaks", result.butter_most_g, top),
                ],
                butter,
                f"{figure(butter, 0)} g in it",
                ("0 g", f"{figure(top, 0)} g"),
            )
        )
    bench.bars = tuple(bars)
    facts = (f"{figure(100 * result.fat_share, 0)} % fat", f"works to {degrees(result.works_to_c, units)}")
    bench.says = Summary(
        {"thick": "thick", "thin": "still thin", "curdled": "curdled"}[result.state], facts, "Whisk for",
        minutes_clock(result.whisk_min), f"To {degrees(at, units)}; it bears {_bears(result.curdles_after_min)} there.",
    )  # fmt: skip
    bench.notes = (result.hold, f"If it goes wrong: {result.rescue}")
    rows = []
    for school, other in each_other(document, "school", sauce_data().schools):
        known = sauce_data().schools[school]
        cells = ("–", "") if other is None else (minutes_clock(other.whisk_min), known.risk)
        rows.append(Row(known.name, known.line, cells, school, school == document.get("school")))
    bench.tables = (Table("Methods", ("whisked", "beware"), tuple(rows), "school"),)


def _bears(minutes: float) -> str:
    return "no time" if minutes < 0.2 else f"{minutes:.0f} min" if minutes < 120 else "hours"


def show_custard(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: CustardAnswer = bench.answer
    pull_s = 60.0 * result.minutes
    strips = [("in the bath", "ember", 0.0, pull_s), ("after", "air", pull_s, result.t_s[-1])]
    bench.chart = egg_chart(
        result.t_s, {"middle": result.middle_c, "water": [result.bath_c for t in result.t_s if t <= pull_s]},
        strips, (pull_s, result.pull_c), (60.0 * result.peak_min, result.peak_c), (result.low_c, result.high_c),
    )  # fmt: skip
    rise = result.peak_c - result.pull_c
    bench.chart_head = f"pulled at {degrees(result.pull_c, units)}, carryover {figure(units.temperature_step(rise), 1)}"
    bench.says = Summary(
        "set", (f"{degrees(result.peak_c, units)} in the middle", f"sets {degrees(result.low_c, units, 0)} to "
                f"{degrees(result.high_c, units, 0)}"),
        "Pull at", minutes_clock(result.minutes), f"{result.wobble.capitalize()}.",
    )  # fmt: skip
    bench.tables = (_after_table(document, units),)
    diameter_mm, depth_mm = document["ramekin_mm"]
    bench.dish = custard_dish(diameter_mm, depth_mm, float(document.get("water_level", 0.66)), result.runs_share)
    bench.notes = (
        f"The bath settles at {degrees(result.bath_c, units, 0)}; the edge reaches {degrees(result.edge_c, units, 0)}.",
    )


def _after_table(document: dict[str, Any], units: Units) -> Table:
    """The same custard by how it is cooled after the pull."""
    rows = []
    for after, other in each_other(document, "after", AFTER_PULL):
        cells = ("–",) * 3
        if other is not None:
            rise = figure(units.temperature_step(other.peak_c - other.pull_c), 1)
            cells = (minutes_clock(other.minutes), degrees(other.pull_c, units), f"+{rise}")
        rows.append(Row(AFTER_PULL[after], "", cells, after, after == document.get("after")))
    return Table("After the pull", ("pull at", "middle then", "goes on by"), tuple(rows), "after_bath")


def show_stirred(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: StirredAnswer = bench.answer
    at = float(document.get("to_c", 82.5))
    bench.bars = (
        window(
            "On the heat", [("thin", 76.0, result.low_c), ("coats the spoon", result.low_c, result.curdles_c),
                            ("curdles", result.curdles_c, 90.0)],
            at, f"to {degrees(at, units)}", (degrees(76.0, units, 0), degrees(90.0, units, 0)),
        ),
    )  # fmt: skip
    rows = tuple(
        Row(f"Pour {i}", "", (f"{figure(pour.grams, 0)} g", degrees(pour.mixed_c, units)), "", False)
        for i, pour in enumerate(result.pours, 1)
    )
    bench.tables = (Table("Tempering", ("cream", "then the mix is at"), rows),)
    first = "" if result.most_first_g is None else f"At most {figure(result.most_first_g, 0)} g at once on cold yolks."
    bench.says = Summary(
        result.state, (f"window {degrees(result.low_c, units, 0)} to {degrees(result.high_c, units, 0)}",), "Stir to",
        f"{figure(units.temperature_value(at), 1)}", first or "The cream is too cool to set yolks.",
    )  # fmt: skip


def show_pasta(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    result: PastaAnswer = bench.answer
    bench.bars = (
        window(
            "The mix", [("thin", 50.0, result.thickens_c), ("thick", result.thickens_c, result.curdles_c),
                        ("scrambles", result.curdles_c, 85.0)],
            result.mixed_c, f"{degrees(result.mixed_c, units)} mixed",
            (degrees(50.0, units, 0), degrees(85.0, units, 0)),
        ),
    )  # fmt: skip
    thickens = f"thickens from {degrees(result.thickens_c, units, 0)}"
    bench.says = Summary(
        {"thin": "thin", "thick": "thick", "curdled": "scrambled"}[result.state],
        (thickens, f"scrambles over {degrees(result.curdles_c, units, 0)}"),
        "Pasta at", f"{figure(units.temperature_value(result.pasta_best_c), 0)}",
        f"{units.degree} when it meets the egg: the middle of the window.",
    )  # fmt: skip
