"""The service request: dishes with plate-up times, tasks, and the equipment and cooks they share.

Times of day are ISO 8601 with an offset, durations in minutes, temperatures in °C.
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Any, Literal, Self

from pydantic import AwareDatetime, Field, ValidationError, model_validator

from ..errors import BadInput
from .base import FileModel, Text
from .wrong import describe_validation

FORMAT = "open-ember/service"
LONGEST_DAYS = 14
MOST_DISHES, MOST_TASKS, MOST_REPEATS = 200, 2000, 200

Id = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[^\x00-\x1f\x7f]*$")]
Minutes = Annotated[float, Field(ge=0, le=LONGEST_DAYS * 1440)]
Celsius = Annotated[float, Field(ge=-60, le=1000)]


class EquipmentIn(FileModel):
    """Shared equipment: ovens, baths, rings, shelves, hands. `capacity` places at once.

    `start_c`: its present temperature. Without rates a change of setting takes no time. Without `shifts` it is always
    available.
    """

    id: Id
    kind: Id
    name: Text = Field("", max_length=80)
    capacity: int = Field(1, ge=1, le=10_000)
    start_c: Celsius | None = None
    heat_c_per_min: float | None = Field(None, gt=0, le=1000)
    cool_c_per_min: float | None = Field(None, gt=0, le=1000)
    setting_tolerance_c: float = Field(0, ge=0, le=100)
    shifts: list[tuple[AwareDatetime, AwareDatetime]] = Field(default_factory=list, max_length=60)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if any(end <= begin for begin, end in self.shifts):
            raise ValueError("a shift ends after it begins")
        return self

    @property
    def title(self) -> str:
        """Display name."""
        return self.name or self.id


class UseIn(FileModel):
    """A place on equipment while a task runs; with `first_min` or `last_min` only at its beginning or end."""

    equipment: Id
    amount: int = Field(1, ge=1, le=10_000)
    setting_c: Celsius | None = None
    first_min: Minutes | None = None
    last_min: Minutes | None = None

    @model_validator(mode="after")
    def _one_part(self) -> Self:
        if self.first_min is not None and self.last_min is not None:
            raise ValueError("give first_min or last_min, one of them")
        return self


class DuringIn(FileModel):
    """Repeated while another task runs, each time up to `slack_min` earlier or later."""

    task: Id
    every_min: float = Field(ge=1, le=LONGEST_DAYS * 1440)
    slack_min: Minutes = 0


class OtherSetting(FileModel):
    """The same task at another setting, and its duration then."""

    setting_c: Celsius
    minutes: Minutes


class TaskIn(FileModel):
    """A task. `after`, `starts_with`, `ends_with` name tasks of the same dish, or "dish:task".

    Its food waits from its end until the first task that follows, or until plate-up: at most `max_wait_min` hot, or
    `chilled_wait_max_min` chilled. `at`: a start set by a person, `was`: the start in an earlier plan; `started` and
    `ended`: what has happened.
    """

    id: Id
    name: Text = Field("", max_length=120)
    minutes: Minutes
    uses: list[UseIn] = Field(default_factory=list, max_length=12)
    after: list[Id] = Field(default_factory=list, max_length=40)
    max_gap_min: Minutes | None = None
    max_wait_min: Minutes | None = None
    chilled_wait_max_min: Minutes | None = None
    during: DuringIn | None = None
    starts_with: Id | None = None
    ends_with: Id | None = None
    not_before: AwareDatetime | None = None
    at: AwareDatetime | None = None
    started: AwareDatetime | None = None
    ended: AwareDatetime | None = None
    was: AwareDatetime | None = None
    freshness: float = Field(1, ge=0, le=100)
    other_settings: list[OtherSetting] = Field(default_factory=list, max_length=8)

    @model_validator(mode="after")
    def _of_a_piece(self) -> Self:
        if self.during is not None and (self.after or self.starts_with or self.ends_with):
            raise ValueError("a task during another has its times from it: no after, starts_with or ends_with")
        if self.ended is not None and (self.started is None or self.ended < self.started):
            raise ValueError("ended comes after started")
        return self

    @property
    def title(self) -> str:
        """Display name."""
        return self.name or self.id


class DishIn(FileModel):
    """A dish: its tasks, all finished at `plate_up`."""

    id: Id
    name: Text = Field("", max_length=120)
    plate_up: AwareDatetime
    tasks: list[TaskIn] = Field(min_length=1, max_length=200)

    @property
    def title(self) -> str:
        """Display name."""
        return self.name or self.id


class ServiceRequest(FileModel):
    """A service to be planned backwards from its plate-up times, from `now` on."""

    format: Literal["open-ember/service"]
    version: Literal[1]
    now: AwareDatetime
    equipment: list[EquipmentIn] = Field(default_factory=list, max_length=200)
    dishes: list[DishIn] = Field(min_length=1, max_length=MOST_DISHES)
    seconds: float = Field(3, ge=0.2, le=60)
    explain: bool = True

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        _once([e.id for e in self.equipment], "equipment")
        _once([d.id for d in self.dishes], "dishes")
        known = {e.id: e for e in self.equipment}
        count = 0
        for i, dish in enumerate(self.dishes):
            _once([t.id for t in dish.tasks], f"dishes[{i}].tasks")
            count += len(dish.tasks)
            if dish.plate_up - self.now > dt.timedelta(days=LONGEST_DAYS):
                raise ValueError(f"{dish.title} is more than {LONGEST_DAYS} days away")
            for task in dish.tasks:
                for use in task.uses:
                    _fits(task, use, known)
        if count > MOST_TASKS:
            raise ValueError(f"{count} tasks: at most {MOST_TASKS}")
        return self


def _once(ids: list[str], where: str) -> None:
    twice = next((one for i, one in enumerate(ids) if one in ids[:i]), None)
    if twice is not None:
        raise ValueError(f"{where}: “{twice}” is there twice")


def _fits(task: TaskIn, use: UseIn, known: dict[str, EquipmentIn]) -> None:
    equipment = known.get(use.equipment)
    if equipment is None:
        raise ValueError(f"{task.title} uses “{use.equipment}”, which is not among the equipment")
    if use.amount > equipment.capacity:
        raise ValueError(f"{task.title} wants {use.amount} of {equipment.title}, which has {equipment.capacity}")


class TaskOut(FileModel):
    """A scheduled task; `n` counts repetitions."""

    dish: str
    id: str
    name: str
    start: dt.datetime
    end: dt.datetime
    uses: list[UseIn]
    n: int = 0
    waits_min: float = 0.0
    slack_min: float = 0.0


class SettingOut(FileModel):
    """A setting of equipment: from when it must be there, and from when it is changing."""

    equipment: str
    setting_c: float
    on_the_way: dt.datetime
    there: dt.datetime
    until: dt.datetime


class WouldFit(FileModel):
    """A tested change that makes it fit. `change` for programs, `text` for people; `price_min`: its cost; `settles_all`
    is False if another clash remains; `large` if nothing small was found.
    """

    change: dict[str, Any]
    text: str
    price_min: float
    settles_all: bool = True
    large: bool = False


class Conflict(FileModel):
    """Why there is no plan: the tasks ("dish:task") and equipment that clash, and what would make it fit.

    `drawn`: the tasks without the limits of that equipment, for pictures; empty if there is no plan even then.
    """

    tasks: list[str]
    equipment: list[str]
    text: str
    would_fit: list[WouldFit]
    drawn: list[TaskOut] = Field(default_factory=list)


class ServiceAnswer(FileModel):
    """The plan of a service. `objective`: minutes that food waits, weighted by freshness; `bound`: no plan has less;
    `gap`: the most that could still be saved, as a share. `first_s`: when the first plan was found.
    """

    status: Literal["optimal", "feasible", "infeasible"]
    objective: float | None
    bound: float | None
    gap: float | None
    seconds: float
    first_s: float | None
    setting_changes: int
    hands_peak: int
    moved_min: float | None
    tasks: list[TaskOut]
    settings: list[SettingOut]
    conflict: Conflict | None


def parse_service(data: object) -> ServiceRequest:
    """Validate a request. Raises BadInput with the place of the first error."""
    try:
        return ServiceRequest.model_validate(data)
    except ValidationError as error:
        raise describe_validation(error) from None
    except OverflowError:
        raise BadInput("a time is out of range", "now") from None
