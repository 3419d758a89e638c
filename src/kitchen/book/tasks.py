"""Background jobs of the book: long reports, and signed heads of the chains."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable

from procrastinate.contrib.django import app

from kitchen.worker.limits import JobStopped

from . import paper as papers
from .anchor import anchor_all
from .models import Paper

log = logging.getLogger(__name__)


@app.periodic(cron="7 * * * *", periodic_id="anchor")
@app.task(queue="slow", queueing_lock="anchor")
def anchor_hourly(timestamp: int) -> None:
    """Sign the head of each chain that has moved, and keep it outside the database."""
    anchor_all()


@app.task(queue="slow", lock="slow")
def make_paper(paper_id: str) -> None:
    """Render one report as PDF; a failure is recorded in its row."""
    paper = Paper.objects.select_related("kitchen", "by").filter(pk=uuid.UUID(paper_id), pdf=None).first()
    if paper is None:
        return
    make_or_say(paper, papers.make)


def make_or_say(paper: Paper, make: Callable[[Paper], None]) -> None:
    """Make a report; a failure is recorded in its row."""
    try:
        make(paper)
    except JobStopped as why:
        Paper.objects.filter(pk=paper.pk, problem="").update(problem=str(why))
    except Exception:
        log.exception("the report %s was not made", paper.pk)
        Paper.objects.filter(pk=paper.pk).update(
            problem="The report could not be made. Try a shorter period, or download the CSV."
        )
