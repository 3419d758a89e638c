"""The four states of a verdict, from the judge to the page."""

from __future__ import annotations

from enum import StrEnum


class State(StrEnum):
    """The outcome of judging a record or a plan by a rule."""

    MET = "met"
    NOT_MET = "not-met"
    ADVISORY = "advisory"
    NO_VERDICT = "no-verdict"

    @property
    def met(self) -> bool | None:
        """Whether the rule is met; None without a verdict."""
        return None if self is State.NO_VERDICT else self is State.MET

    @property
    def label(self) -> str:
        """The state in words for lists."""
        return {"met": "rule met", "not-met": "rule not met", "advisory": "served on advisory"}.get(self, "no verdict")

    @classmethod
    def of(cls, met: bool | None) -> State:
        """The state of a rule that was met, missed or not judged."""
        return cls.NO_VERDICT if met is None else cls.MET if met else cls.NOT_MET
