"""The next actions of all running cooks, in order; those at one place within seconds are one."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from ember.files.actions import ACTION_WORDS, PLACE_WORDS, Action, Place
from ember.files.stages import Oven
from ember.food.catalogue import cut
from ember.report.cautions import cautions_of
from ember.track.full_steps import PAN_READY, early_s, into_a_pan
from ember.track.rounds import Round
from ember.track.steps import MOVES, PLACES, Step
from kitchen.accounts.models import Kitchen

from .cook_status import CookStatus
from .models import Cook
from .offline_steps import plan_coming
from .taps import slip_s
from .words import ROUND_DONE, STOP_ROUND

TOGETHER_S = 20.0  # actions this near to each other are one
HANDLE_HOT_MIN = 25.0  # of a pan that comes from the oven (common practice)
LEAVES = ("pull", "move", "end")  # kinds of steps that end a stage
GROUPED = ("turn", "baste", "wash")
LIE_ON = (Place.WORKTOP, Place.PLANCHA, Place.GRILL, Place.REST_SHELF)  # pieces lie on these, and are in all others


@dataclass(frozen=True)
class NextAction:
    """An action for one cook or, with `others`, for several at once."""

    status: CookStatus
    step: Step | None
    due_at: dt.datetime
    in_s: float
    token: uuid.UUID
    others: tuple[NextAction, ...] = field(default=())

    @property
    def is_check(self) -> bool:
        """Whether it is the check that ends the cook: it opens the check page, without a tap before."""
        return self.step is None or self.step.is_check

    @property
    def key(self) -> str:
        """Identity of the action on a page, which sounds once for each."""
        number = "end" if self.step is None else self.step.number
        return f"{self.status.cook.pk}:{number}" + (f":{self.round_at}" if self.round else "")

    @property
    def verb(self) -> str:
        """The verb shown."""
        return self.step.verb if self.step else ACTION_WORDS[Action.CHECK]

    @property
    def together(self) -> tuple[NextAction, ...]:
        """This action and the others."""
        return (self, *self.others)

    @property
    def round(self) -> Round | None:
        """Its round: the timer runs by itself, and one tap ends it."""
        again = self.status.round
        return again if again and self.step and again.first <= self.step.number <= again.last else None

    @property
    def round_at(self) -> int:
        """Number of the next time within the round, from 1; the last once all are due."""
        return 0 if self.round is None else min(self.status.round_passed + 1, self.round.count)

    @property
    def is_round_over(self) -> bool:
        """Whether all times of the round have passed, so that the page asks whether each was done."""
        return self.round is not None and self.status.round_passed >= self.round.count

    @property
    def round_first_at(self) -> dt.datetime | None:
        """When the first of the round was due."""
        if self.round is None:
            return None
        at = min(self.status.round_passed, self.round.count - 1)
        return self.due_at - dt.timedelta(seconds=self.round.times_s[at] - self.round.times_s[0])

    @property
    def round_last_at(self) -> dt.datetime | None:
        """When the last of the round is due."""
        first = self.round_first_at
        return None if first is None or self.round is None else first + dt.timedelta(seconds=self.round.lasts_s)

    @property
    def what(self) -> str:
        """The object of the verb: "Pork chops 1–4", or the names of several."""
        if not self.others:
            pieces = self.status.pieces
            many = pieces > 1 and self.step is not None and self.step.kind in ("turn", "lay")
            return f"{self.status.cook.name} 1\u2013{pieces}" if many else self.status.cook.name
        names = [action.status.cook.name for action in self.together]
        return ", ".join(names[:-1]) + " and " + names[-1]

    @property
    def give_or_take_s(self) -> float | None:
        """Uncertainty of the time, s, if it is forecast."""
        f, step = self.status, self.status.pull_step
        forecast_view = f.forecast_view
        pulls = self.step is not None and step is not None and self.step.number == step.number
        return (
            forecast_view.give_or_take_s
            if pulls and forecast_view is not None and forecast_view.is_by_readings
            else None
        )

    @property
    def early_s(self) -> float:
        """How long before it is announced, s."""
        return early_s(self.step) if self.step else 0.0

    @property
    def is_early(self) -> bool:
        """Whether it is time to get ready."""
        return self.in_s <= self.early_s

    @property
    def far_too_early_s(self) -> float | None:
        """How early a tap would be, s, if that is so much that it may be a mistake; else None.

        More than a quarter of the stage, or half an hour, whichever is less.
        """
        step = self.step
        if step is None or step.kind not in LEAVES or not 0 < step.stage <= len(self.status.result["stages"]):
            return None
        stage = self.status.result["stages"][step.stage - 1]
        return slip_s(self.in_s, stage["end_s"] - stage["start_s"])

    @property
    def from_place(self) -> str:
        """Where the piece is, by the kitchen's name."""
        if self.step is None:
            return ""
        before = self.step.stage - (1 if self.step.kind in ("move", "pull", "end") else 0)
        return self.status.place_name(before, self.step.from_place)

    @property
    def to_place(self) -> str:
        """Where it goes, by the kitchen's name."""
        return self.status.place_name(self.step.stage, self.step.to_place) if self.step else ""

    @property
    def coming(self) -> str:
        """The actions after it as JSON, for a screen without the server (`offline_steps.plan_coming`)."""
        return plan_coming(self.status, self.step) if self.step else "[]"

    @property
    def did(self) -> str:
        """What was done in a round: "Turned"."""
        return ROUND_DONE.get(self.round.kind, "") if self.round else ""

    @property
    def stop_words(self) -> str:
        """The button that ends a round early: "Stop turning"."""
        return STOP_ROUND.get(self.round.kind, "") if self.round else ""

    @property
    def begun_words(self) -> str:
        """The button that begins the first stage: "In the pan now"."""
        where = self.step.to_place if self.step else None
        if where is None or where not in PLACES.values():
            return "Begun"
        return f"{'On' if where in LIE_ON else 'In'} the {PLACE_WORDS[where]} now"

    @property
    def station(self) -> str:
        """The station of the place it goes to, else of where it is."""
        if self.step is None:
            return ""
        stages = (self.step.stage, self.step.stage - 1)
        return next((str(s) for i in stages if (s := self.status.kit.get(i, {}).get("station"))), "")

    @property
    def ready(self) -> str:
        """What to make sure of before: a hot pan."""
        return PAN_READY if self.step is not None and into_a_pan(self.step) else ""

    @property
    def caution(self) -> str:
        """The hazard of the stage this action begins; empty for a turn."""
        if self.step is None or self.step.kind in ("turn", "wash", "prep"):
            return ""
        plan = self.status.plan
        cautions = cautions_of(plan, cut(plan.piece.cut))
        return next((caution.text for caution in cautions if caution.stage == self.step.stage), "")


def next_actions_of(statuses: Sequence[CookStatus], now: dt.datetime) -> list[NextAction]:
    """The next action of each cook, in order; turns and bastings at one place within seconds are merged."""
    actions = sorted((action for f in statuses for action in _of(f, now)), key=lambda action: action.due_at)
    queue: list[NextAction] = []
    for action in actions:
        if queue and _belongs(queue[-1], action):
            queue[-1] = replace(queue[-1], others=(*queue[-1].others, action))
        else:
            queue.append(action)
    return queue


def _of(status: CookStatus, now: dt.datetime) -> Iterator[NextAction]:
    """A cook's next action, and the ones waiting beside it."""
    due = status.due_at
    action = NextAction(status, status.progress.next, due, (due - now).total_seconds(), uuid.uuid4())
    yield action
    if action.round is not None and action.is_round_over and action.round.last + 1 < len(status.steps):
        after = status.steps[action.round.last + 1]  # what ends the round is there beside it
        due += dt.timedelta(seconds=after.at_s - action.round.times_s[-1])
        yield NextAction(status, after, due, (due - now).total_seconds(), uuid.uuid4())
    for step in status.aside:
        later = dt.timedelta(seconds=step.at_s, minutes=status.put_off_min(step))
        due = status.cook.started_at + later
        yield NextAction(status, step, due, (due - now).total_seconds(), uuid.uuid4())


def _belongs(first: NextAction, action: NextAction) -> bool:
    if first.step is None or action.step is None or first.step.kind not in GROUPED or first.round or action.round:
        return False
    if first.step.kind == "wash":  # once is enough, whenever it was asked for
        return action.step.kind == "wash"
    alike = (first.step.action, first.to_place) == (action.step.action, action.to_place)
    return alike and (action.due_at - first.due_at).total_seconds() <= TOGETHER_S


@dataclass(frozen=True)
class HotHandle:
    """A pan that came out of an oven, and until when its handle burns."""

    pan: str
    until: dt.datetime


def hot_handles(kitchen: Kitchen, now: dt.datetime, statuses: Sequence[CookStatus]) -> list[HotHandle]:
    """Pans recently out of an oven, of the running cooks `statuses` and of those just finished."""
    since = now - dt.timedelta(minutes=HANDLE_HOT_MIN)
    over = Cook.objects.of(kitchen).of_plans().filter(finished_at__gte=since).with_events()
    hot: dict[str, dt.datetime] = {}
    for status in (*statuses, *(CookStatus(cook, now) for cook in over)):
        for pan, at in _out_of_the_oven(status):
            until = at + dt.timedelta(minutes=HANDLE_HOT_MIN)
            hot[pan] = max(until, hot.get(pan, until))
    return [HotHandle(pan, until) for pan, until in hot.items() if until > now]


def _out_of_the_oven(status: CookStatus) -> Iterator[tuple[str, dt.datetime]]:
    """Pans of a cook that came out of an oven, and when."""
    stages = status.plan.stages
    for number, event in status.done.items():
        step = status.steps[number]
        before = stages[step.stage - 1] if step.stage and step.kind in MOVES else None
        if isinstance(before, Oven) and before.where == "pan":
            pans = [i for i in range(step.stage) if stages[i].kind == "pan"]
            yield status.kit.get(pans[-1] if pans else -1, {}).get("name", "the pan"), event.at
