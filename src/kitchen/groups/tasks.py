"""The report across a group's kitchens, rendered by the worker: it may be long."""

from __future__ import annotations

import logging
import uuid

from django.utils import timezone
from procrastinate.contrib.django import app

from kitchen.book.models import Paper
from kitchen.book.paper import LONGEST_S
from kitchen.worker.limits import JobStopped, checked

from .belonging import group_of, role_of
from .overview import group_paper

log = logging.getLogger(__name__)


@app.task(queue="slow", lock="slow")
def make_group_paper(paper_id: str) -> None:
    """Render it for the person who asked, if they may still read it; a failure is recorded in its row."""
    paper = Paper.objects.select_related("kitchen", "by").filter(pk=uuid.UUID(paper_id), pdf=None, problem="").first()
    if paper is None:
        return
    wanted = Paper.objects.filter(pk=paper.pk, problem="")
    group = group_of(paper.kitchen)
    if group is None or role_of(paper.by, group, paper.kitchen) is None:
        wanted.update(problem="You no longer read across these kitchens.")
        return
    check = checked(wanted.exists, LONGEST_S)

    def told(done: int, parts: int) -> None:
        check()
        wanted.update(done=done, parts=parts)

    try:
        with timezone.override(paper.kitchen.zone):
            wanted.update(pdf=group_paper(group, paper.by, paper.first, paper.last, told))
    except JobStopped as why:
        wanted.update(problem=str(why))
    except Exception:
        log.exception("the group's report %s was not made", paper_id)
        wanted.update(problem="The report could not be made. Try a shorter period, or download the CSV.")
