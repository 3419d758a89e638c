"""A verdict as a sentence: the measurement, the limit, in the reader's unit."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ..quantities import Units, show_duration
from .states import State

MOST_LOGS = 20  # beyond this a log reduction only means "all of them"
CELSIUS = Units()
ORGANISMS = {"salmonella": "Salmonella", "listeria": "Listeria"}
STARTS = {
    State.MET: "Rule met", State.NOT_MET: "Not met", State.ADVISORY: "Served on advisory",
    State.NO_VERDICT: "No verdict",
}  # fmt: skip

Figures = Mapping[str, float]


def verdict_sentence(verdict: Mapping[str, Any], units: Units = CELSIUS) -> str:
    """The sentence of a verdict, from its fields in a result or an answer.

    >>> verdict_sentence({"state": "met", "kind": "hold", "needed": {"c": 63, "seconds": 15},
    ...     "reached": {"c": 64.2, "highest_c": 64.2, "held_s": 200}})
    'Rule met: core at 63 °C or above for 3 min 20 s (needs 15 s), peak 64.2 °C'
    """
    state = State(verdict.get("state") or State.of(verdict.get("met")))
    start = STARTS[state]
    if verdict.get("reason"):
        return f"{start}: {in_unit(str(verdict['reason']), units)}"
    say = _SENTENCES.get(verdict.get("kind", "hold"))
    if say is None or not verdict.get("needed"):
        return start
    rest = say(state, verdict["needed"], verdict["reached"], str(verdict.get("organism") or ""), units)
    return f"{start}: {rest}" if rest else start


def in_unit(text: str, units: Units) -> str:
    """A sentence with its marked temperatures, {c:62.8}, in the reader's unit."""
    parts = text.split("{c:")
    text = parts[0]
    for part in parts[1:]:
        value, _, rest = part.partition("}")
        text += degrees(float(value), units) + rest
    return text


def marked(celsius: float) -> str:
    """A temperature marked for conversion to the reader's unit."""
    return f"{{c:{celsius:.1f}}}"


def degrees(celsius: float, units: Units) -> str:
    """A temperature with at most one decimal and its unit."""
    return f"{units.temperature_value(celsius):.1f}".removesuffix(".0") + f" {units.degree}"


def _step(kelvin: float, units: Units) -> str:
    return f"{max(units.temperature_step(abs(kelvin)), 0.1):.1f}".removesuffix(".0") + f" {units.degree}"


def _hold(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    limit, seconds = needed["c"], needed.get("seconds", 0.0)
    highest = reached.get("highest_c", reached.get("c", limit))
    peak = degrees(highest, units)
    wants = degrees(limit, units) + (f" for {show_duration(seconds)}" if seconds else "")
    if state is State.ADVISORY:
        return f"core {peak} (the rule: {wants})"
    if state is State.MET and seconds:
        spent = show_duration(reached.get("held_s", seconds))
        return f"core at {degrees(limit, units)} or above for {spent} (needs {show_duration(seconds)}), peak {peak}"
    if state is State.MET:
        return f"core reached {peak} (needs {wants})"
    if highest < limit - 1e-6:
        return f"core peaked at {peak}, {_step(limit - highest, units)} short (needs {wants})"
    spent = show_duration(max(reached.get("held_s", 0.0), 0.0))
    return f"core at {degrees(limit, units)} or above for only {spent} (needs {wants})"


def _surface(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    wants = degrees(needed["c"], units)
    if "c" not in reached:
        return f"no reading of the surface (needs {wants})"
    how = "both faces reached" if state is State.MET else "the cooler face only reached"
    return f"{how} {degrees(reached['c'], units)} (needs {wants}; intact piece)"


def _table(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    log10, needed_log10 = reached.get("log10", 0.0), needed["log10"]
    killed = f"more than {MOST_LOGS}" if log10 > MOST_LOGS else f"{_down(log10, needed_log10)}"
    kill_text = f"{killed} log of {ORGANISMS.get(organism, organism)} (needs {needed_log10:g})"
    if "highest_c" not in reached:
        return kill_text
    return f"core peaked at {degrees(reached['highest_c'], units)}, {kill_text}"


def _down(log10: float, needed_log10: float) -> str:
    """A log reduction to a tenth, rounded down so that one that falls short never looks met."""
    shown = round(log10, 1)
    return f"{shown - 0.1:.1f}" if shown >= needed_log10 > log10 + 1e-9 else f"{shown:.1f}"


def _come_up(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    span = f"between {degrees(needed['from_c'], units)} and {degrees(needed['to_c'], units)}"
    return f"come-up took {_minutes(reached['minutes'])} {span} (at most {_minutes(needed['minutes'])})"


def _minutes(minutes: float) -> str:
    return show_duration(60.0 * max(minutes, 0.0))


def _cooling(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    to = degrees(needed["to_c"], units)
    spent, most = _minutes(reached["minutes"]), needed.get("minutes", 0.0)
    limit = f" (at most {_minutes(most)})" if most else ""
    if not reached.get("over", 1.0):
        return f"at {degrees(reached['end_c'], units)} after {spent}, not yet down to {to}{limit}"
    start = f"{degrees(needed['from_c'], units)} to " if "from_c" in needed else "down to "
    return f"{start}{to} took {spent}{limit}"


def _reheating(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    if "minutes" not in reached:
        return _hold(state, needed, reached, organism, units)
    wants = degrees(needed["c"], units) + (f" for {show_duration(needed['seconds'])}" if needed["seconds"] else "")
    return f"{wants} reached in {_minutes(reached['minutes'])} (at most {_minutes(needed['minutes'])})"


def _holding(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    hot, limit, worst = reached["hot"] > 0, degrees(needed["c"], units), degrees(reached["c"], units)
    worst_text = f"coldest {worst} (needs {limit} or above)" if hot else f"warmest {worst} (needs {limit} or below)"
    if "minutes" in reached:
        side = "below" if hot else "above"
        worst_text = f"{_minutes(reached['minutes'])} {side} {limit}, {worst} at worst"
        worst_text += f" (one period of at most {_minutes(needed['minutes'])})"
    return worst_text


def _time_control(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    if "minutes" not in needed:
        return f"began at {degrees(reached['start_c'], units)} (needs {degrees(needed['start_c'], units)} or below)"
    return f"{_minutes(reached['minutes'])} used of {_minutes(needed['minutes'])}"


def _freezing(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    wants = f"{degrees(needed['c'], units)} for {show_duration(3600 * needed['hours'])}"
    return f"held at {degrees(reached['c'], units)} (needs {wants})"


def _storing(state: State, needed: Figures, reached: Figures, organism: str, units: Units) -> str:
    if "days" not in needed:
        return f"warmest {degrees(reached['c'], units)} (needs {degrees(needed['c'], units)} or below)"
    return f"{reached['days']:.1f} days at {degrees(reached['c'], units)} or below (at most {needed['days']:g} days)"


_SENTENCES: dict[str, Callable[[State, Figures, Figures, str, Units], str]] = {
    "hold": _hold, "surface": _surface, "table": _table, "come-up": _come_up, "cool": _cooling, "reheat": _reheating,
    "hold-hot": _holding, "hold-cold": _holding, "thaw": _holding, "time-control": _time_control, "freeze": _freezing,
    "store": _storing,
}  # fmt: skip
