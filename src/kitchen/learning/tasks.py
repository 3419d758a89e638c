"""Background jobs of calibration."""

from __future__ import annotations

import logging
import uuid

from procrastinate.contrib.django import app

from kitchen.worker.limits import JobStopped

from . import actions
from .models import Study

log = logging.getLogger(__name__)


@app.task(queue="slow", lock="slow")
def make_study(study_id: str) -> None:
    """Run one study. A failure is recorded in its row."""
    study = Study.objects.select_related("kitchen").filter(pk=uuid.UUID(study_id), found__isnull=True).first()
    if study is None:
        return
    try:
        actions.make(study)
    except JobStopped as why:
        Study.objects.filter(pk=study.pk, problem="").update(problem=str(why))
    except Exception:
        log.exception("the study %s was not made", study_id)
        Study.objects.filter(pk=study.pk).update(problem="The calibration could not be computed. Nothing was changed.")
