"""What the egg bench shows of a request: its answer, its drawings, and what else the same eggs could be."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from ember.eggs.answer import answer
from ember.eggs.heating import poach_schools
from ember.eggs.pan_data import pan_data
from ember.eggs.sauce_data import sauce_data
from ember.eggs.strip import Move, Strip, left_whole_min, moves_of, strip_of
from ember.errors import EmberError
from ember.files.egg import parse_egg
from ember.files.egg_result import (
    CustardAnswer,
    EmulsionAnswer,
    OmeletteAnswer,
    PastaAnswer,
    ScrambleAnswer,
    ShellAnswer,
    StirredAnswer,
)
from ember.quantities import Units
from kitchen.drawings.dish import DishDrawing, custard_dish
from kitchen.drawings.egg_chart import EggChart, egg_chart
from kitchen.drawings.egg_cut import CutEggDrawing, cut_egg
from kitchen.units.show import clock_span, figure

WHOLE = ("boil", "steam", "circulator", "poach")
SHOWN_WORDS = {"milky inside": "milky inside", "tender": "tender inside", "set": "set", "firm": "firm"}
AFTER_WORDS = {"ice_bath": "in ice", "tap": "in cold water", "air": "on the board", "open": "opened"}


AFTER_NOTE = (
    {"ice_bath": "Ice 5 min, then peel.", "tap": "Cold tap 5 min, then peel.", "air": "Left whole: it goes on.",
     "open": "Open it at once, or it goes on."},
    {"ice_bath": "Into ice.", "tap": "Into cold water.", "air": "On a cloth: it goes on.",
     "open": "On a cloth, and out."},
)  # fmt: skip


@dataclass(frozen=True)
class Says:
    """The right column: what comes of it, the number to act on, and how sure it is."""

    word: str
    facts: tuple[str, ...]
    act: str
    value: str
    note: str
    spread: str = ""


@dataclass(frozen=True)
class CutShown:
    """One egg of the row: its minutes, its drawing, and what a reader hears."""

    minutes: float
    clock: str
    drawing: CutEggDrawing
    words: str
    set: str


@dataclass(frozen=True)
class Span:
    """A word's width on an axis."""

    word: str
    share: float
    value: str
    chosen: bool
    kind: str = ""


@dataclass(frozen=True)
class MoveShown:
    """What moves the clock: its bar runs left of the middle where it is sooner."""

    what: str
    clock: str
    by: str
    note: str
    left: float
    right: float

    @property
    def left_x(self) -> float:
        """px of the bar's left end on an axis of 120 with its middle at 60."""
        return 60.0 * (1.0 - self.left)

    @property
    def left_w(self) -> float:
        """px."""
        return 60.0 * self.left

    @property
    def right_w(self) -> float:
        """px."""
        return 60.0 * self.right


@dataclass(frozen=True)
class Row:
    """A school or another way, held beside the others."""

    name: str
    line: str
    cells: tuple[str, ...]
    value: str
    chosen: bool


@dataclass(frozen=True)
class Table:
    """Schools side by side; `field` is the one a tap sets."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[Row, ...]
    field: str = ""


@dataclass(frozen=True)
class Bar:
    """A window on an axis of °C or g: spans, and where this one stands (its share from the left)."""

    title: str
    spans: tuple[Span, ...]
    mark: float
    mark_words: str
    ends: tuple[str, str]


@dataclass
class EggBench:
    """A request being worked on."""

    method: str
    answer: Any = None
    problem: str = ""
    says: Says | None = None
    cuts: tuple[CutShown, ...] = ()
    white: tuple[Span, ...] = ()
    yolk: tuple[Span, ...] = ()
    mark: float | None = None
    green: float | None = None
    green_clock: str = ""
    moves: tuple[MoveShown, ...] = ()
    left_whole: str = ""
    chart: EggChart | None = None
    chart_head: str = ""
    bars: tuple[Bar, ...] = ()
    tables: tuple[Table, ...] = ()
    dish: DishDrawing | None = None
    notes: tuple[str, ...] = field(default=())


def minutes_clock(minutes: float | None) -> str:
    """ "7:10"; from an hour on "1:05:00"."""
    return "–" if minutes is None else clock_span(round(60.0 * minutes))


def work_out(document: dict[str, Any], units: Units) -> EggBench:
    """The bench of a request. Raises EmberError where it leads nowhere, with the place."""
    bench = EggBench(document["method"])
    bench.answer = _answered(_key(document))
    match bench.answer:
        case ShellAnswer():
            _whole(bench, document, units)
        case ScrambleAnswer():
            _scramble(bench, document, units)
        case OmeletteAnswer():
            _omelette(bench, document, units)
        case EmulsionAnswer():
            _sauce(bench, document, units)
        case CustardAnswer():
            _custard(bench, document, units)
        case StirredAnswer():
            _stirred(bench, document, units)
        case PastaAnswer():
            _pasta(bench, document, units)
    return bench


def _key(document: dict[str, Any]) -> str:
    return json.dumps(document, sort_keys=True)


@lru_cache(maxsize=256)
def _answered(key: str) -> Any:
    return answer(parse_egg(json.loads(key)))


@lru_cache(maxsize=64)
def _strip(key: str) -> Strip:
    return strip_of(parse_egg(json.loads(key)))  # type: ignore[arg-type]


@lru_cache(maxsize=64)
def _moves(key: str, minutes: float) -> tuple[list[Move], float | None]:
    request: Any = parse_egg(json.loads(key))
    return moves_of(request, minutes), left_whole_min(request, minutes)


def _c(celsius: float, units: Units, digits: int = 1) -> str:
    return f"{figure(units.temperature_value(celsius), digits)} {units.degree}"


# Whole eggs --------------------------------------------------------------------------------------------------------


def _whole(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: ShellAnswer = bench.answer
    plain = {k: v for k, v in document.items() if k not in ("minutes", "target", "advisory", "pasteurised", "guests")}
    strip = _strip(_key({**plain, "minutes": 1.0}))
    width = strip.high_min - strip.low_min
    bench.cuts = tuple(_cut(egg, bench.method == "poach") for egg in strip.eggs)
    bench.white = tuple(
        Span(SHOWN_WORDS[s.word], (s.to_min - s.from_min) / width, "", False, s.word.split()[0]) for s in strip.white
    )
    bench.yolk = tuple(
        Span(s.word, (s.to_min - s.from_min) / width, s.word, s.word == found.yolk, s.word) for s in strip.yolk
    )
    bench.mark = min(max((found.minutes - strip.low_min) / width, 0.0), 1.0)
    bench.green = None if strip.green_from is None else (strip.green_from - strip.low_min) / width
    bench.green_clock = minutes_clock(strip.green_from)
    moves, whole = _moves(_key({**plain, "minutes": found.minutes}), found.minutes)
    most = max((abs(m.by_s) for m in moves if m.by_s is not None and not m.note), default=1.0)
    bench.moves = tuple(_move(m, max(most, 1.0)) for m in moves)
    after = document.get("then", {}).get("kind", "open")
    if after != "air" and whole is not None and abs(whole - found.minutes) > 0.05:
        bench.left_whole = minutes_clock(whole)
    rise = found.yolk_centre_c.peak - found.yolk_centre_c.end
    bench.chart_head = f"it climbs {figure(units.temperature_step(rise), 0)} more {AFTER_WORDS[after]}"
    curves = found.curves
    end = curves.t_s[-1]
    strips = [(_heat_word(bench.method, document), "ember", 0.0, found.total_s)]
    if end > found.total_s + 1:
        strips.append((AFTER_WORDS[after], "teal" if after in ("ice_bath", "tap") else "air", found.total_s, end))
    bench.chart = egg_chart(
        curves.t_s,
        {"middle": curves.yolk_centre_c, "edge": curves.yolk_edge_c, "white": curves.white_c, "water": curves.water_c},
        strips, (found.total_s, found.yolk_centre_c.end), (found.yolk_centre_c.peak_s, found.yolk_centre_c.peak),
    )  # fmt: skip
    low, high = found.minutes_range or (None, None)
    spread = "" if low is None or high is None else f"± {clock_span(round(30.0 * (high - low)))}"
    note = AFTER_NOTE[bench.method == "poach"][after]
    if found.boils_s:
        note = f"From when it boils, at {clock_span(round(found.boils_s))}. {note}"
    if found.back_c is not None:
        note += f" Brought back, middle {_c(found.back_c, units, 0)}."
    bench.says = Says(
        found.yolk, (f"{_c(found.yolk_centre_c.peak, units)} middle", f"rim {_c(found.yolk_edge_peak_c, units, 0)}, "
                     f"white {found.white}"),
        "Lift at", minutes_clock(found.minutes), note, spread,
    )  # fmt: skip
    if found.water is not None and found.water.lowest_c < curves.water_c[0] - 0.7 and not found.boils_s:
        bench.notes += (
            f"In {figure(found.water.litres, 1)} l the water falls to {_c(found.water.lowest_c, units)} and is back "
            f"after {clock_span(round(found.water.back_s))}.",
        )
    if bench.method == "poach":
        bench.tables = (_poach_table(document),)


def _heat_word(method: str, document: dict[str, Any]) -> str:
    if method == "boil" and document.get("start", "hot") != "hot":
        return "warming, then in the boil"
    return {"boil": "in the boil", "steam": "in steam", "circulator": "in the bath", "poach": "in the water"}[method]


def _cut(egg: Any, bare: bool) -> CutShown:
    face = egg.face
    drawing = cut_egg(face.depth, face.hottest_c, face.set_fraction, face.edge, egg.yolk, egg.green, bare)
    words = f"{minutes_clock(egg.minutes)}: yolk {egg.yolk}, white {egg.inside}" + (", green edge" if egg.green else "")
    short = f"{egg.minutes:g}" if egg.minutes == int(egg.minutes) and egg.minutes < 60 else minutes_clock(egg.minutes)
    return CutShown(egg.minutes, short, drawing, words, figure(egg.minutes, 3))


def _move(move: Move, most: float) -> MoveShown:
    if move.by_s is None:
        return MoveShown(move.what, "–", "", move.note, 0.0, 0.0)
    if move.note:  # its minutes count from the boil: not to be held against the others
        return MoveShown(move.what, minutes_clock(move.minutes), "", move.note, 0.0, 0.0)
    share = abs(move.by_s) / most
    by = f"{'+' if move.by_s >= 0 else chr(0x2212)}{clock_span(abs(round(move.by_s)))}"
    left, right = (share, 0.0) if move.by_s < 0 else (0.0, share)
    return MoveShown(move.what, minutes_clock(move.minutes), by, move.note, left, right)


def _each(document: dict[str, Any], key: str, values: Any) -> Iterator[tuple[str, Any]]:
    """The same request by other schools; those that lead nowhere are None."""
    for value in values:
        try:
            yield value, _answered(_key({**document, key: value}))
        except EmberError:
            yield value, None


def _poach_table(document: dict[str, Any]) -> Table:
    rows = []
    schools = poach_schools()
    plain = {k: v for k, v in document.items() if k != "water_c"}
    for school, found in _each(plain, "school", schools):
        row = schools[school]
        minutes = found.minutes if found else None
        if school == "circulator" and "minutes" in document:
            # Minutes of simmering water say nothing of an hour in the bath.
            timed = {k: v for k, v in plain.items() if k != "minutes"}
            found = next(_each({**timed, "minutes": 50.0}, "school", [school]))[1]
            minutes = found.minutes if found else None
        cells = ("–", "–", "–") if found is None else (
            minutes_clock(minutes), found.white, found.yolk,
        )  # fmt: skip
        chosen = school == document.get("school")
        rows.append(Row(row.name, row.line if chosen else "", cells, school, chosen))
    return Table("Schools", ("time", "white", "yolk"), tuple(rows), "school")


# In the pan --------------------------------------------------------------------------------------------------------


def _scramble(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: ScrambleAnswer = bench.answer
    data = pan_data()
    strips = [("stirred on the heat", "ember", 0.0, 60.0 * found.minutes),
              ("off", "air", 60.0 * found.minutes, found.t_s[-1])]  # fmt: skip
    bench.chart = egg_chart(
        found.t_s, {"middle": found.egg_c, "pan": found.pan_c}, strips, (60.0 * found.minutes, found.off_c), None,
        (70.0, 74.5), 0.0, max(100.0, 10.0 * (max(found.pan_c) // 10 + 1)), found.t_s[-1] < 180,
    )  # fmt: skip
    bench.chart_head = f"off at {_c(found.off_c, units, 0)}, at most {_c(found.peak_c, units)}"
    bench.says = Says(
        found.word, (f"{found.curd} curd", f"{_c(found.plate_c, units, 0)} on the plate after a minute"),
        "Off after", minutes_clock(found.minutes),
        f"Stop with {figure(found.stop_g, 0)} g {found.stop}: {figure(units.temperature_step(found.stop_drop_k), 1)} "
        f"{units.degree} less." if found.stop_g else "Nothing stops them: they go on in the pan.",
    )  # fmt: skip
    rows = []
    for school, other in _each(document, "school", data.scramble):
        row = data.scramble[school]
        cells = ("–",) * 3 if other is None else (minutes_clock(other.minutes), other.curd, other.word)
        rows.append(Row(row.name, row.line, cells, school, school == document.get("school")))
    schools = Table("Schools", ("time", "curd", "they are"), tuple(rows), "school")
    rows = []
    for stop, other in _each({k: v for k, v in document.items() if k != "stop_g"}, "stop", data.stop):
        cells = ("–",) * 3
        if other is not None:
            by = figure(units.temperature_step(-other.stop_drop_k), 1) if other.stop_drop_k else "0"
            cells = (f"{figure(other.stop_g, 0)} g", f"{by} {units.degree}", f"{_c(other.peak_c, units)}, {other.word}")
        rows.append(Row(data.stop[stop].name.capitalize(), "", cells, stop, stop == document.get("stop")))
    bench.tables = (schools, Table("What stops how much", ("of it", "at once", "hottest"), tuple(rows), "stop"))
    bench.bars = (_butter_bar(found.pan_c[0], units),)


def _butter_bar(pan_c: float, units: Units) -> Bar:
    """What the butter in the pan says of its heat."""
    rows = pan_data().butter
    low, high = 60.0, 200.0
    spans = []
    for row, after in zip(rows, [*rows[1:], None], strict=True):
        to = after.from_c if after else high
        spans.append(Span(row.word.split(":")[0], (to - max(row.from_c, low)) / (high - low), "", False, "butter"))
    share = min(max((pan_c - low) / (high - low), 0.0), 1.0)
    return Bar(
        "Butter says", tuple(spans), share, f"pan {_c(pan_c, units, 0)}", (_c(low, units, 0), _c(high, units, 0))
    )


def _omelette(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: OmeletteAnswer = bench.answer
    data = pan_data()
    row = data.omelette[document.get("school", "pale")]
    total = 60.0 * found.minutes
    strips = [("stirred", "ember", 0.0, found.stirred_s)] if found.stirred_s > 2 else []
    strips += [("left", "ember", found.stirred_s, total), ("plate", "air", total, found.t_s[-1])]
    bench.chart = egg_chart(
        found.t_s, {"middle": found.coldest_c}, strips, None, None, (68.0, 72.0), 0.0, 100.0, found.t_s[-1] < 180
    )
    bench.chart_head = f"coldest place, at most {_c(found.coldest_peak_c, units)}"
    facts = [
        f"face {found.browning}" if found.browning != "none" else "no colour",
        f"{figure(found.film_mm, 1)} mm thick",
    ]
    if found.yolk:
        facts = [f"yolk {found.yolk}", facts[0]]
    steps = f"Stirred {clock_span(round(found.stirred_s))}, then left." if found.stirred_s else "Left alone."
    if found.turn_s is not None:
        steps += f" Turn at {clock_span(round(found.turn_s))}."
    bench.says = Says(found.word, tuple(facts), "Off after", minutes_clock(found.minutes), steps)
    rows = []
    plain = {k: v for k, v in document.items() if k not in ("pan_c", "seconds")}
    for school, other in _each(plain, "school", data.omelette):
        known = data.omelette[school]
        cells = ("–",) * 3
        if other is not None:
            face = other.browning if other.browning != "none" else "pale"
            inside = other.top_c if known.whole else other.coldest_peak_c
            cells = (minutes_clock(other.minutes), f"{_c(inside, units, 0)}, {other.word}", face)
        chosen = school == document.get("school")
        rows.append(Row(known.name, known.line if chosen else "", cells, school, chosen))
    bench.tables = (Table("Schools", ("time", "inside", "face"), tuple(rows), "school"),)
    pan_c = float(document.get("pan_c") or row.pan_c)
    bench.bars = (_butter_bar(pan_c, units),)


# Sauces, custards, pasta -------------------------------------------------------------------------------------------


def _window(title: str, stops: list[tuple[str, float, float]], at: float, words: str, ends: tuple[str, str]) -> Bar:
    low, high = stops[0][1], stops[-1][2]
    kinds = ("thin", "thick", "curdled")
    spans = tuple(Span(name, max(b - a, 0.0) / (high - low), "", a <= at < b, kind)
                  for (name, a, b), kind in zip(stops, kinds, strict=False))  # fmt: skip
    return Bar(title, spans, min(max((at - low) / (high - low), 0.0), 1.0), words, ends)


def _sauce(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: EmulsionAnswer = bench.answer
    at = float(document.get("yolk_c", 64.0))
    low, high = 50.0, max(88.0, found.curdles_c + 4)
    window = _window(
        "Yolks", [("thin", low, found.thickens_c), ("thick", found.thickens_c, found.curdles_c),
                  ("curdled", found.curdles_c, high)],
        at, f"whisked to {_c(at, units)}", (_c(low, units, 0), _c(high, units, 0)),
    )  # fmt: skip
    bars = [window]
    butter = float(document.get("butter_g") or 0.0)
    if found.butter_most_g is not None and found.butter_best_g is not None and butter:
        top = max(1.35 * found.butter_most_g, 1.05 * butter)
        bars.append(
            _window(
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
    facts = (f"{figure(100 * found.fat_share, 0)} % fat", f"works to {_c(found.works_to_c, units)}")
    bench.says = Says(
        {"thick": "thick", "thin": "still thin", "curdled": "curdled"}[found.state], facts, "Whisk for",
        minutes_clock(found.whisk_min), f"To {_c(at, units)}; it bears {_bears(found.curdles_after_min)} there.",
    )  # fmt: skip
    bench.notes = (found.hold, f"If it goes wrong: {found.rescue}")
    rows = []
    for school, other in _each(document, "school", sauce_data().schools):
        known = sauce_data().schools[school]
        cells = ("–", "") if other is None else (minutes_clock(other.whisk_min), known.risk)
        rows.append(Row(known.name, known.line, cells, school, school == document.get("school")))
    bench.tables = (Table("Schools", ("whisked", "beware"), tuple(rows), "school"),)


def _bears(minutes: float) -> str:
    return "no time" if minutes < 0.2 else f"{minutes:.0f} min" if minutes < 120 else "hours"


def _custard(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: CustardAnswer = bench.answer
    pull_s = 60.0 * found.minutes
    strips = [("in the bath", "ember", 0.0, pull_s), ("after", "air", pull_s, found.t_s[-1])]
    bench.chart = egg_chart(
        found.t_s, {"middle": found.middle_c, "water": [found.bath_c for t in found.t_s if t <= pull_s]},
        strips, (pull_s, found.pull_c), (60.0 * found.peak_min, found.peak_c), (found.low_c, found.high_c),
    )  # fmt: skip
    rise = found.peak_c - found.pull_c
    bench.chart_head = f"pulled at {_c(found.pull_c, units)}, it goes on by {figure(units.temperature_step(rise), 1)}"
    bench.says = Says(
        "set", (f"{_c(found.peak_c, units)} in the middle", f"sets {_c(found.low_c, units, 0)} to "
                f"{_c(found.high_c, units, 0)}"),
        "Pull at", minutes_clock(found.minutes), f"{found.wobble.capitalize()}.",
    )  # fmt: skip
    bench.tables = (_after_table(document, units),)
    bench.dish = custard_dish(*document["ramekin_mm"], float(document.get("water_level", 0.66)), found.runs_share)
    bench.notes = (
        f"The bath settles at {_c(found.bath_c, units, 0)}; the edge comes to {_c(found.edge_c, units, 0)}.",
    )


AFTER_PULL = {"lifted": "Lifted out", "in-bath": "Left in its bath", "ice": "Into ice", "fridge": "Into the fridge"}


def _after_table(document: dict[str, Any], units: Units) -> Table:
    """The same custard by what happens to it after the pull."""
    rows = []
    for after, other in _each(document, "after", AFTER_PULL):
        cells = ("–",) * 3
        if other is not None:
            rise = figure(units.temperature_step(other.peak_c - other.pull_c), 1)
            cells = (minutes_clock(other.minutes), _c(other.pull_c, units), f"+{rise}")
        rows.append(Row(AFTER_PULL[after], "", cells, after, after == document.get("after")))
    return Table("After the pull", ("pull at", "middle then", "goes on by"), tuple(rows), "after_bath")


def _stirred(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: StirredAnswer = bench.answer
    at = float(document.get("to_c", 82.5))
    bench.bars = (
        _window(
            "On the heat", [("thin", 60.0, found.low_c), ("coats the spoon", found.low_c, found.curdles_c),
                            ("curdles", found.curdles_c, 95.0)],
            at, f"to {_c(at, units)}", (_c(60.0, units, 0), _c(95.0, units, 0)),
        ),
    )  # fmt: skip
    rows = tuple(
        Row(f"Pour {i}", "", (f"{figure(pour.grams, 0)} g", _c(pour.mixed_c, units)), "", False)
        for i, pour in enumerate(found.pours, 1)
    )
    bench.tables = (Table("Tempering", ("cream", "then the mix is at"), rows),)
    first = "" if found.most_first_g is None else f"At most {figure(found.most_first_g, 0)} g at once on cold yolks."
    bench.says = Says(
        found.state, (f"window {_c(found.low_c, units, 0)} to {_c(found.high_c, units, 0)}",), "Stir to",
        f"{figure(units.temperature_value(at), 1)}", first or "The cream is too cool to set yolks.",
    )  # fmt: skip


def _pasta(bench: EggBench, document: dict[str, Any], units: Units) -> None:
    found: PastaAnswer = bench.answer
    bench.bars = (
        _window(
            "The mix", [("thin", 50.0, found.thickens_c), ("thick", found.thickens_c, found.curdles_c),
                        ("scrambles", found.curdles_c, 85.0)],
            found.mixed_c, f"{_c(found.mixed_c, units)} mixed", (_c(50.0, units, 0), _c(85.0, units, 0)),
        ),
    )  # fmt: skip
    bench.says = Says(
        {"thin": "thin", "thick": "thick", "curdled": "scrambled"}[found.state],
        (f"thickens from {_c(found.thickens_c, units, 0)}", f"scrambles over {_c(found.curdles_c, units, 0)}"),
        "Pasta at", f"{figure(units.temperature_value(found.pasta_best_c), 0)}",
        f"{units.degree} when it meets the egg: the middle of the window.",
    )  # fmt: skip
