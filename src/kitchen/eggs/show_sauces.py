"""The bench of warm sauces, custards and egg-bound pasta."""

from __future__ import annotations

from typing import Any

from ember.eggs.sauce_data import sauce_data
from ember.files.egg_result import CustardAnswer, EmulsionAnswer, PastaAnswer, StirredAnswer
from ember.quantities import Units
from kitchen.desk.presenters import Row, Summary, Table, minutes_clock, window
from kitchen.drawings.dish import custard_dish
from kitchen.drawings.egg_chart import egg_chart
from kitchen.units.show import figure

from .answers import degrees, each_other
from .presenters import EggBench


def show_sauce(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: EmulsionAnswer = bench.answer
    at = float(document.get("yolk_c", 64.0))
    low, high = 50.0, max(88.0, found.curdles_c + 4)
    yolks = window(
        "Yolks", [("thin", low, found.thickens_c), ("thick", found.thickens_c, found.curdles_c),
                  ("curdled", found.curdles_c, high)],
        at, f"whisked to {degrees(at, units)}", (degrees(low, units, 0), degrees(high, units, 0)),
    )  # fmt: skip
    bars = [yolks]
    butter = float(document.get("butter_g") or 0.0)
    if found.butter_most_g is not None and found.butter_best_g is not None and butter:
        top = max(1.35 * found.butter_most_g, 1.05 * butter)
        bars.append(
            window(
                "Butter",
                [
                    ("holds well", 0.0, found.butter_best_g),
                    ("thin it", found.butter_best_g, found.butter_most_g),
                    ("breaks", found.butter_most_g, top),
                ],
                butter,
                f"{figure(butter, 0)} g in it",
                ("0 g", f"{figure(top, 0)} g"),
            )
        )
    bench.bars = tuple(bars)
    facts = (f"{figure(100 * found.fat_share, 0)} % fat", f"works to {degrees(found.works_to_c, units)}")
    bench.says = Summary(
        {"thick": "thick", "thin": "still thin", "curdled": "curdled"}[found.state], facts, "Whisk for",
        minutes_clock(found.whisk_min), f"To {degrees(at, units)}; it bears {_bears(found.curdles_after_min)} there.",
    )  # fmt: skip
    bench.notes = (found.hold, f"If it goes wrong: {found.rescue}")
    rows = []
    for school, other in each_other(document, "school", sauce_data().schools):
        known = sauce_data().schools[school]
        cells = ("–", "") if other is None else (minutes_clock(other.whisk_min), known.risk)
        rows.append(Row(known.name, known.line, cells, school, school == document.get("school")))
    bench.tables = (Table("Methods", ("whisked", "beware"), tuple(rows), "school"),)


def _bears(minutes: float) -> str:
    return "no time" if minutes < 0.2 else f"{minutes:.0f} min" if minutes < 120 else "hours"


def show_custard(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: CustardAnswer = bench.answer
    pull_s = 60.0 * found.minutes
    strips = [("in the bath", "ember", 0.0, pull_s), ("after", "air", pull_s, found.t_s[-1])]
    bench.chart = egg_chart(
        found.t_s, {"middle": found.middle_c, "water": [found.bath_c for t in found.t_s if t <= pull_s]},
        strips, (pull_s, found.pull_c), (60.0 * found.peak_min, found.peak_c), (found.low_c, found.high_c),
    )  # fmt: skip
    rise = found.peak_c - found.pull_c
    bench.chart_head = (
        f"pulled at {degrees(found.pull_c, units)}, carryover {figure(units.temperature_step(rise), 1)}"
    )
    bench.says = Summary(
        "set", (f"{degrees(found.peak_c, units)} in the middle", f"sets {degrees(found.low_c, units, 0)} to "
                f"{degrees(found.high_c, units, 0)}"),
        "Pull at", minutes_clock(found.minutes), f"{found.wobble.capitalize()}.",
    )  # fmt: skip
    bench.tables = (_after_table(document, units),)
    bench.dish = custard_dish(*document["ramekin_mm"], float(document.get("water_level", 0.66)), found.runs_share)
    bench.notes = (
        f"The bath settles at {degrees(found.bath_c, units, 0)}; the edge comes to {degrees(found.edge_c, units, 0)}.",
    )


AFTER_PULL = {"lifted": "Lifted out", "in-bath": "Left in its bath", "ice": "Into ice", "fridge": "Into the fridge"}


def _after_table(document: dict[str, Any], units: Units) -> Table:
    """The same custard by what happens to it after the pull."""
    rows = []
    for after, other in each_other(document, "after", AFTER_PULL):
        cells = ("–",) * 3
        if other is not None:
            rise = figure(units.temperature_step(other.peak_c - other.pull_c), 1)
            cells = (minutes_clock(other.minutes), degrees(other.pull_c, units), f"+{rise}")
        rows.append(Row(AFTER_PULL[after], "", cells, after, after == document.get("after")))
    return Table("After the pull", ("pull at", "middle then", "goes on by"), tuple(rows), "after_bath")


def show_stirred(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: StirredAnswer = bench.answer
    at = float(document.get("to_c", 82.5))
    bench.bars = (
        window(
            "On the heat", [("thin", 76.0, found.low_c), ("coats the spoon", found.low_c, found.curdles_c),
                            ("curdles", found.curdles_c, 90.0)],
            at, f"to {degrees(at, units)}", (degrees(76.0, units, 0), degrees(90.0, units, 0)),
        ),
    )  # fmt: skip
    rows = tuple(
        Row(f"Pour {i}", "", (f"{figure(pour.grams, 0)} g", degrees(pour.mixed_c, units)), "", False)
        for i, pour in enumerate(found.pours, 1)
    )
    bench.tables = (Table("Tempering", ("cream", "then the mix is at"), rows),)
    first = "" if found.most_first_g is None else f"At most {figure(found.most_first_g, 0)} g at once on cold yolks."
    bench.says = Summary(
        found.state, (f"window {degrees(found.low_c, units, 0)} to {degrees(found.high_c, units, 0)}",), "Stir to",
        f"{figure(units.temperature_value(at), 1)}", first or "The cream is too cool to set yolks.",
    )  # fmt: skip


def show_pasta(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: PastaAnswer = bench.answer
    bench.bars = (
        window(
            "The mix", [("thin", 50.0, found.thickens_c), ("thick", found.thickens_c, found.curdles_c),
                        ("scrambles", found.curdles_c, 85.0)],
            found.mixed_c, f"{degrees(found.mixed_c, units)} mixed", (degrees(50.0, units, 0), degrees(85.0, units, 0)),
        ),
    )  # fmt: skip
    thickens = f"thickens from {degrees(found.thickens_c, units, 0)}"
    bench.says = Summary(
        {"thin": "thin", "thick": "thick", "curdled": "scrambled"}[found.state],
        (thickens, f"scrambles over {degrees(found.curdles_c, units, 0)}"),
        "Pasta at", f"{figure(units.temperature_value(found.pasta_best_c), 0)}",
        f"{units.degree} when it meets the egg: the middle of the window.",
    )  # fmt: skip
