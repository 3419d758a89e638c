"""What a group chef or an inspector reads of each kitchen: missed rules, corrective actions, late plates, drift."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass

from django.template.loader import render_to_string

from ember.judge.states import State
from ember.quantities import Units
from kitchen.accounts.models import Kitchen, Person
from kitchen.book.models import Link
from kitchen.book.report import report_of
from kitchen.book.rows import Row
from kitchen.book.trends import Drift, trends_of
from kitchen.plans.paper import pdf
from kitchen.services.plates import Plates, plates_of

from .models import Group

DRIFTED_K = 2.0  # a setting off by more is named


@dataclass(frozen=True)
class KitchenRead:
    """One kitchen in a period. `missed` rows failed their rule: open ones first, then the newest.

    `drifted`: equipment that is off by more than DRIFTED_K by its newest check, or moved so much within the period.
    `link`: the head of its chain.
    """

    kitchen: Kitchen
    records: int
    missed: tuple[Row, ...]
    unsigned: int
    pulled: int
    pulled_late: int
    plates: Plates
    drifted: tuple[Drift, ...]
    link: Link | None

    @property
    def still_open(self) -> tuple[Row, ...]:
        """Missed rows without a corrective action."""
        return tuple(row for row in self.missed if row.is_open)

    @property
    def is_quiet(self) -> bool:
        """Whether there is nothing to ask about."""
        return not (self.missed or self.unsigned or self.plates.late or self.pulled_late or self.drifted)


def read_kitchen(kitchen: Kitchen, first: dt.date, last: dt.date, units: Units) -> KitchenRead:
    """Read one kitchen's records of these days."""
    begin = dt.datetime.combine(first, dt.time(), kitchen.zone)
    end = dt.datetime.combine(last + dt.timedelta(days=1), dt.time(), kitchen.zone)
    report = report_of(kitchen, first, last, units)
    trends = trends_of(kitchen, first)
    drifted = [drift for drift in trends.drifts if _has_drifted(drift)]
    missed = [row for row in reversed(report.rows) if row.state is State.NOT_MET]
    return KitchenRead(
        kitchen, len(report.rows), tuple(sorted(missed, key=lambda row: not row.is_open)),
        report.counts.unsigned, trends.total.timed, trends.total.late, plates_of(kitchen, begin, end), tuple(drifted),
        Link.objects.of(kitchen).order_by("-number").first(),
    )  # fmt: skip


def _has_drifted(drift: Drift) -> bool:
    moved = drift.moved_k
    return abs(drift.checks[-1][2]) > DRIFTED_K or (moved is not None and abs(moved) > DRIFTED_K)


def group_paper(
    group: Group, person: Person, first: dt.date, last: dt.date,
    on_progress: Callable[[int, int], None] = lambda done, parts: None,
) -> bytes:  # fmt: skip
    """The report of all kitchens of a group as PDF. `on_progress(done, parts)` is called after each kitchen."""
    kitchens = list(group.kitchens)
    read = []
    for number, kitchen in enumerate(kitchens):
        on_progress(number, len(kitchens))
        read.append(read_kitchen(kitchen, first, last, person.units))
    on_progress(len(kitchens), len(kitchens))
    context = {"group": group, "by": person, "units": person.units, "first": first, "last": last, "read": read}
    return pdf([render_to_string("groups/report_pdf.html", context)], "report_paper.css")
