"""The kind of a service's task, encoded in its id in the open format, which is written and parsed only here.

`s2` is the third stage of a dish's plan and `s2-baste` its basting, `p1` the preparation before its second stage, `c1`
a companion, `eggs` eggs by the minute, `plate` plating, `set-e5-s0` setting machine e5 for a task. A request from
elsewhere may use any ids: those are `OTHER`.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum


class TaskKind(StrEnum):
    """The kind of work in a task."""

    STAGE = "stage"
    BASTE = "baste"
    PREP = "prep"
    SIDE = "side"
    EGGS = "eggs"
    PLATE = "plate"
    SETTING = "setting"
    OTHER = "other"


_NUMBERED = {
    TaskKind.STAGE: re.compile(r"s(0|[1-9]\d{0,3})"), TaskKind.BASTE: re.compile(r"s(0|[1-9]\d{0,3})-baste"),
    TaskKind.PREP: re.compile(r"p(0|[1-9]\d{0,3})"), TaskKind.SIDE: re.compile(r"c(0|[1-9]\d{0,3})"),
}  # fmt: skip
_SETTING = re.compile(r"set-.+")


@dataclass(frozen=True)
class TaskRef:
    """A task by kind. `number`: the stage of a plan, or which companion; None for kinds without numbers.

    `text`: the whole id if kind and number do not determine it; otherwise empty.

    >>> TaskRef.of("s2").number, str(TaskRef(TaskKind.BASTE, 2)), TaskRef.of("sauce").kind.value
    (2, 's2-baste', 'other')
    """

    kind: TaskKind
    number: int | None = None
    text: str = ""

    @classmethod
    def of(cls, task_id: str) -> TaskRef:
        """Parse a task's id."""
        for kind, pattern in _NUMBERED.items():
            if match := pattern.fullmatch(task_id):
                return cls(kind, int(match[1]))
        if task_id in (TaskKind.EGGS, TaskKind.PLATE):
            return cls(TaskKind(task_id))
        return cls(TaskKind.SETTING if _SETTING.fullmatch(task_id) else TaskKind.OTHER, None, task_id)

    def __str__(self) -> str:
        letter = {TaskKind.STAGE: "s", TaskKind.BASTE: "s", TaskKind.PREP: "p", TaskKind.SIDE: "c"}.get(self.kind)
        if letter is None:
            return self.text or self.kind.value
        return f"{letter}{self.number}{'-baste' if self.kind is TaskKind.BASTE else ''}"

    @property
    def stage(self) -> int | None:
        """The stage of a plan; None for other tasks."""
        return self.number if self.kind is TaskKind.STAGE else None

    @property
    def starts_a_cook(self) -> bool:
        """Whether starting it sends a cook to the line: the first stage of a plan, or eggs."""
        return self.stage == 0 or self.kind is TaskKind.EGGS

    @property
    def is_done_by_a_cook(self) -> bool:
        """Whether a cook on the line performs it: everything after the first stage of a plan."""
        return self.kind in (TaskKind.STAGE, TaskKind.BASTE, TaskKind.PREP) and (
            self.number != 0 or self.kind is TaskKind.BASTE
        )


def stage_task(stage: int) -> str:
    """The id of a stage of a plan."""
    return str(TaskRef(TaskKind.STAGE, stage))
