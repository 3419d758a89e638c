"""The clock of cooling: each stage of a rule, from its start until the food stays below its end."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import BadInput
from .record import NEAR, TemperatureRecord, first_below_s, stays_below_s
from .standards import PhaseRule, Standard
from .states import State
from .verdict import Verdict

UNFINISHED_MIN = -0.1  # the margin of a record that ends before it has reached anything
FROM_HEAT_C = 57.0  # where a standard has no rule for cooling: hotter than this is heat; the US limit, 135 °F
ENDLESS_MIN = 1e6  # of a step that has no time of its own


@dataclass(frozen=True)
class CoolingStep:
    """One stage of cooling: start and end (None: not yet), s, duration and time allowed, min.

    `allowed_min` is None if the stage has no limit of its own.
    """

    from_c: float
    to_c: float
    allowed_min: float | None
    begins_s: float | None
    ends_s: float | None
    spent_min: float

    @property
    def minutes(self) -> float | None:
        """Duration, min, if it is finished."""
        return self.spent_min if self.ends_s is not None else None

    @property
    def margin_min(self) -> float:
        """Minutes to spare; negative if it is late, or unfinished."""
        spare = ENDLESS_MIN if self.allowed_min is None else self.allowed_min - self.spent_min
        return spare if self.ends_s is not None else min(spare, UNFINISHED_MIN)

    @property
    def met(self) -> bool:
        """Whether it was finished in time."""
        return self.margin_min >= -NEAR


def cools_from_c(rules: Standard) -> float:
    """Temperature below which a standard's cooling clock runs, °C."""
    rule = rules.phases.get("cool")
    return max((rule.least_c(start) for start, _, _ in rule.steps), default=FROM_HEAT_C) if rule else FROM_HEAT_C


def whole_time_h(rule: PhaseRule) -> float:
    """Hours allowed for a whole cooling: stages with one start run in parallel, others in sequence."""
    ends: dict[float, float] = {}
    for start, end, hours in rule.steps:
        begins = ends.get(rule.most_c(start), 0.0)
        ends[rule.most_c(end)] = begins + hours
    return max(ends.values(), default=0.0)


def cooling_steps(rule: PhaseRule, record: TemperatureRecord) -> list[CoolingStep]:
    """Each stage of a rule for the warmest point.

    Its clock runs from when the food first falls below the stage's upper limit, or from the record's start if the rule
    counts from the end of cooking, until it stays below the lower one. Across a gap the earliest start and the latest
    end count.
    """
    steps = []
    for start, end, hours in rule.steps:
        from_c, to_c = rule.least_c(start), rule.most_c(end)
        begins = float(record.time_s[0]) if rule.counts_from_cooking else first_below_s(record.colder, from_c)
        ends = None if begins is None else stays_below_s(record.warmer, to_c)
        if ends is not None and begins is not None:
            ends = max(ends, begins)
        until = ends if ends is not None else float(record.time_s[-1])
        spent = 0.0 if begins is None else (until - begins) / 60.0
        steps.append(CoolingStep(from_c, to_c, 60.0 * hours if hours else None, begins, ends, spent))
    return steps


def cooling(rule: PhaseRule, record: TemperatureRecord) -> Verdict:
    """The verdict on cooling, by the stage with the least to spare."""
    steps = cooling_steps(rule, record)
    if not steps:
        raise BadInput("This standard has no cooling stages.", "standard")
    worst = min(steps, key=lambda step: step.margin_min)
    last_c = float(record.temperature_c[-1])
    needed = {"to_c": round(worst.to_c, 1)}
    if not rule.counts_from_cooking:
        needed["from_c"] = round(worst.from_c, 1)
    if worst.allowed_min is not None:
        needed["minutes"] = worst.allowed_min
    reached = {
        "minutes": round(worst.spent_min, 1), "end_c": round(last_c, 1), "over": float(worst.ends_s is not None),
    }  # fmt: skip
    reason = "" if worst.begins_s is not None else f"the record never falls to {{c:{worst.from_c:.1f}}}"
    return Verdict(
        rule, State.of(worst.met), worst.margin_min, "min", needed, reached, needs_probe=False, reason=reason
    )  # fmt: skip
