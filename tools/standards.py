"""Writes the tables of docs/standards.md from the standards' data: `python tools/standards.py`."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from ember.cure.rows import limits  # noqa: E402
from ember.judge.categories import CATEGORIES  # noqa: E402
from ember.judge.standards import FreezeOption, PhaseRule, Rule, Standard, standards  # noqa: E402
from ember.quantities import show_duration  # noqa: E402

PAGE = ROOT / "docs" / "standards.md"
BEGIN, END = "<!-- tables: made by tools/standards.py -->", "<!-- end of the tables -->"


def _points(rule: Rule) -> str:
    shown = [f"{c:.1f} °C {show_duration(s) if s else 'at once'}" for c, s in rule.points_c]
    return "; ".join(shown) if len(shown) <= 6 else f"{len(shown)} rows, {shown[0]} to {shown[-1]}"


def _solid(option: FreezeOption) -> str:
    return " once solid" if option.after is not None else ""


def _phase(rule: PhaseRule) -> str:
    parts = [f"{rule.least_c(a):g} → {rule.most_c(b):g} °C" + (f" in {h:g} h" if h else "") for a, b, h in rule.steps]
    parts += [f"≤ {rule.most_c(o.at):g} °C for {o.hours:g} h{_solid(o)}" for o in rule.options]
    parts += [f"{how}: ≤ {rule.most_c(at):g} °C {days:g} d" for how, rows in rule.kept.items() for at, days in rows]
    return "; ".join(parts)


def _of(standard: Standard) -> Iterator[str]:
    yield f"## {standard.name}, {standard.edition}\n"
    yield f"`{standard.id}` · {standard.source} · confidence: {standard.confidence}\n"
    yield "| Rule | Section | Asks | For |"
    yield "|---|---|---|---|"
    for rule in standard.rules.values():
        named = [CATEGORIES[c] for c, names in standard.categories.items() if rule.id in names]
        bounds = [", ".join(rule.for_species)] if rule.for_species else []
        bounds += [f"fat up to {rule.max_fat_pct:g} %"] if rule.max_fat_pct is not None else []
        who = "; ".join([*named, *bounds])
        yield f"| `{rule.id}` {rule.text} | {rule.section} | {_points(rule)} | {who} |"
    for phase in standard.phases.values():
        yield f"| `{phase.id}` {phase.text} | {phase.section} | {_phase(phase)} | |"
    if standard.come_up:
        come_up = standard.come_up
        span = f"{come_up.least_c(come_up.start):g} to {come_up.least_c(come_up.to):g} °C in {come_up.hours:g} h"
        yield f"| `come-up` {come_up.text} | {come_up.section} | {span} | every cook |"
    if standard.advisory:
        who = "; ".join(CATEGORIES[c] for c in standard.advisory.categories)
        yield f"| advisory: {standard.advisory.text} | {standard.advisory.section} | | {who} |"
    cure = limits()[standard.id]
    fish = "; ".join(f"{name} {low:g} to {high:g}" for name, (low, high) in cure.fish.items()) or "no fish"
    shown = "; ".join(f"{product} {ppm:g}" for product, ppm in cure.limits.items())
    yield f"| nitrite, ppm | {cure.authority}, {cure.section}; {cure.fish_section} | {shown} | {fish} |\n"


def tables() -> str:
    """The tables of every standard."""
    return "\n".join(line for standard in standards().values() for line in _of(standard))


def page(text: str) -> str:
    """A page with its tables made anew."""
    before, rest = text.split(BEGIN)
    return f"{before}{BEGIN}\n\n{tables()}\n{END}{rest.split(END)[1]}"


if __name__ == "__main__":
    PAGE.write_text(page(PAGE.read_text("utf-8")), "utf-8")
