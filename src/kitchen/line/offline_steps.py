"""The steps of a cook still to come, stored on a screen so that it can go on without the server."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from ember.files.actions import PLACE_WORDS
from ember.track.rounds import round_of
from ember.track.steps import ASIDE, Step

from .cook_status import CookStatus
from .step_cooks import StepCookStatus, recorded_words

MOST = 40


def plan_coming(status: CookStatus, step: Step) -> str:
    """JSON rows {number, words, how, after_s} of the steps after one of a plan's cook: s after that was tapped."""
    again = round_of(status.steps, step.number)
    last, at_s = (again.last, again.times_s[-1]) if again else (step.number, step.at_s)
    rows = []
    for each in status.steps[last + 1 : last + 1 + MOST]:
        if each.kind in ASIDE:
            continue
        if each.is_check:  # that is written down on a page of the server's
            break
        how = each.how or f"{PLACE_WORDS[each.from_place]} to {status.place_name(each.stage, each.to_place)}"
        words = f"{each.verb} {status.cook.name}"
        rows.append({"number": each.number, "words": words, "how": how, "after_s": max(each.at_s - at_s, 0.0)})
        at_s = each.at_s
    return json.dumps(rows)


def steps_coming(status: StepCookStatus) -> str:
    """The same for a cook that goes by steps; a step not timed from the one before has its time, ms."""
    return json.dumps(list(_rows(status))[:MOST])


def _rows(status: StepCookStatus) -> Iterator[dict[str, Any]]:
    before = status.next
    for step in status.coming[1:]:
        step_row = {
            "number": step.number,
            "words": f"{step.verb} {step.what}",
            "how": step.how,
            "records": recorded_words(step),
        }
        if before is not None and step.after == before.number:
            yield step_row | {"after_s": step.seconds}
        else:
            yield step_row | {"due": round(status.due_at(step).timestamp() * 1000)}
        before = step
