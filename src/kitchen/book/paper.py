"""A report as PDF, rendered part by part so that its progress can be shown."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable, Iterator

from django.db import transaction
from django.template.loader import render_to_string
from django.utils import timezone

from kitchen.accounts.models import Kitchen, Person
from kitchen.faces.store import thumbnail
from kitchen.plans.card import qr_svg
from kitchen.plans.paper import pdf
from kitchen.worker.limits import checked

from .anchor import anchor, as_row
from .models import Paper
from .report import Report, report_of
from .rows import Row

ROWS_A_PART = 60
KEPT = dt.timedelta(hours=12)
LONGEST_S = 600.0


def parts_of(report: Report) -> list[list[tuple[dt.date, object, list[Row]]]]:
    """The days of a report split into parts of similar length; one empty part if there are no records."""
    parts: list[list[tuple[dt.date, object, list[Row]]]] = [[]]
    for day in report.days:
        if sum(len(rows) for _, _, rows in parts[-1]) >= ROWS_A_PART:
            parts.append([])
        parts[-1].append(day)
    return parts


def paper_of(
    report: Report, person: Person, on_progress: Callable[[int, int], None] = lambda done, parts: None
) -> bytes:
    """The PDF as bytes. `on_progress(done, parts)` is called after each part."""
    parts, signed = parts_of(report), anchor(report.kitchen)

    def pages() -> Iterator[str]:
        on_progress(0, len(parts))
        for number, days in enumerate(parts):
            yield render_to_string("book/report_pdf.html", {
                "report": report, "by": person, "units": person.units, "days": days, "is_first": number == 0,
                "is_last": number == len(parts) - 1, "anchor": signed,
                "anchor_qr": "" if signed is None else qr_svg(json.dumps(as_row(signed), separators=(",", ":"))),
            })  # fmt: skip
            on_progress(number + 1, len(parts))

    return pdf(pages(), "report_paper.css", lambda digest: thumbnail(report.kitchen, digest))


@transaction.atomic
def ask_for(kitchen: Kitchen, person: Person, first: dt.date, last: dt.date) -> Paper:
    """Request the report of a period as PDF; the person's older ones are deleted."""
    Paper.objects.of(kitchen).filter(asked_at__lt=timezone.now() - KEPT).delete()
    return Paper.objects.create(kitchen=kitchen, by=person, first=first, last=last)


Progress = Callable[[int, int], None]


def make(paper: Paper) -> None:
    """Render a kitchen's report; see `fill`."""
    fill(
        paper, lambda told: paper_of(report_of(paper.kitchen, paper.first, paper.last, paper.by.units), paper.by, told)
    )


def fill(paper: Paper, render: Callable[[Progress], bytes]) -> None:
    """Render a report into its row, which holds the progress meanwhile. Raises JobStopped."""
    wanted = Paper.objects.filter(pk=paper.pk, problem="")
    check = checked(wanted.exists, LONGEST_S)

    def told(done: int, parts: int) -> None:
        check()
        wanted.update(done=done, parts=parts)

    with timezone.override(paper.kitchen.zone):
        pdf_made = render(told)
    Paper.objects.filter(pk=paper.pk).update(pdf=pdf_made)
