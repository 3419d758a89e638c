"""The report across a group's kitchens, rendered by the worker: it may be long."""

from __future__ import annotations

import uuid

from procrastinate.contrib.django import app

from kitchen.book.models import Paper
from kitchen.book.paper import fill
from kitchen.book.tasks import make_or_say

from .belonging import group_of, role_of
from .overview import group_paper


@app.task(queue="slow", lock="slow")
def make_group_paper(paper_id: str) -> None:
    """Render it for the person who asked, if they may still read it; a failure is recorded in its row."""
    paper = Paper.objects.select_related("kitchen", "by").filter(pk=uuid.UUID(paper_id), pdf=None, problem="").first()
    if paper is None:
        return
    group = group_of(paper.kitchen)
    if group is None or role_of(paper.by, group, paper.kitchen) is None:
        Paper.objects.filter(pk=paper.pk).update(problem="You no longer read across these kitchens.")
        return
    make_or_say(
        paper,
        lambda row: fill(row, lambda told: group_paper(group, row.by, row.first, row.last, told)),
    )
