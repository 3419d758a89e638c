"""Results of plans, remembered: what is calculated before a transaction is not calculated again within it."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

from ember.errors import EmberError
from ember.evaluate import evaluate
from ember.files.plan import Plan
from ember.files.result import Result
from kitchen.errors import Busy

REMEMBERED = 32


@dataclass(frozen=True)
class _Question:
    """A plan as a key: equal if its text is."""

    text: str
    plan: Plan = field(compare=False)


@lru_cache(maxsize=REMEMBERED)
def _answer(question: _Question) -> Result | EmberError:
    try:
        return evaluate(question.plan)
    except Busy:
        raise  # of this moment, not of this plan
    except EmberError as error:
        return error


def evaluated(plan: Plan) -> Result:
    """The result of a plan, not to be changed. Raises EmberError if it cannot be cooked."""
    answer = _answer(_Question(plan.model_dump_json(), plan))
    if isinstance(answer, EmberError):
        raise answer
    return answer
