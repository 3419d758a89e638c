"""Every write to running cooks, in a transaction, with who and when."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Collection, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from django.db import IntegrityError, transaction

from ember.evaluate import evaluate
from ember.files.plan import Plan as CorePlan
from ember.files.plan import parse_plan
from ember.files.result import Result
from ember.food.catalogue import cut
from ember.report.brines import refused
from ember.solve.when_met import rule_met_s
from ember.track.hands import hands_of
from ember.track.steps import Step, next_step, steps_aside
from kitchen.accounts.models import Kitchen, Person
from kitchen.brines.queries import confirmation_of
from kitchen.kit.models import Equipment, Probe
from kitchen.plans.models import Plan

from .models import Cook, CookEvent, ProbeUse, Reading
from .places import assign, told
from .queries import done_steps
from .tasks import soon
from .told import PAIRS, WHAT, open_ends

RESULT_KEPT = {"stages", "pull", "core", "curves", "doneness", "safety", "lethality", "yield_pct", "warnings", "brines"}


class LineError(Exception):
    """Something that cannot be done to a cook now, in words for the cook."""


def unused(token: uuid.UUID | None) -> uuid.UUID:
    """The token, or a new one where something else has it already."""
    if token is None or CookEvent.objects.filter(token=token).exists():
        return uuid.uuid4()
    return token


def kept_result(core: CorePlan, result: Result) -> dict[str, Any]:
    """What a cook keeps of its plan's result, with its steps: they stay what they were when it began."""
    kept: dict[str, Any] = result.model_dump(mode="json", include=RESULT_KEPT)
    steps = [asdict(step) for step in hands_of(core, result, cut(core.piece.cut))]
    return kept | {"steps": steps, "rule_met_s": rule_met_s(core)}


@transaction.atomic
def start(plan: Plan, person: Person, probe: Probe | None = None, token: uuid.UUID | None = None) -> Cook:
    """Start a cook from a plan. The same token starts it once.

    Raises LineError when the probe is in another piece, and for curing salt over its limit, weighed for other meat or
    not confirmed by a second person; EmberError when the plan cannot be cooked.
    """
    if known := CookEvent.objects.filter(token=token, cook__kitchen=plan.kitchen, kind=CookEvent.Kind.STARTED).first():
        return known.cook
    now = plan.kitchen.now()
    core = parse_plan(plan.document)
    result = evaluate(core)
    confirmed = _confirmed(plan, result)
    cook = Cook.objects.create(
        kitchen=plan.kitchen,
        plan=plan,
        name=plan.name,
        document=plan.document,
        result=kept_result(core, result) | confirmed,
        started_at=now,
        started_by=person,
    )
    CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.STARTED, step=0, at=now, by=person, token=unused(token),
        data={"kit": assign(plan.kitchen, core)},
    )  # fmt: skip
    if probe is not None:
        attach_probe(cook, probe, now)
    soon(cook)
    return cook


def _confirmed(plan: Plan, result: Result) -> dict[str, Any]:
    """Who confirmed the curing salt of a plan's brines; empty without any."""
    told = []
    for brine in result.brines:
        if why := refused(brine):
            raise LineError(f"Not started: {why}")
        if brine.nitrite_ppm is None:
            continue
        found = confirmation_of(plan.kitchen, plan.document["stages"][brine.stage]["recipe"])
        if found is None:
            raise LineError("Not started: curing salt. A second person confirms the brine on its own desk first.")
        told.append({"stage": brine.stage, "by": str(found.by), "at": found.at.isoformat()})
    return {"confirmed": told} if told else {}


def attach_probe(cook: Cook, probe: Probe, at: dt.datetime) -> ProbeUse:
    """Put a probe in a cook's piece. Raises LineError when it is in another one."""
    try:
        with transaction.atomic():
            return ProbeUse.objects.create(cook=cook, probe=probe, during=(at, None))
    except IntegrityError:
        other = ProbeUse.objects.filter(probe=probe, during__endswith=None).select_related("cook").first()
        where = f" in {other.cook.name}" if other else " in use"
        raise LineError(f"{probe.name} is already{where}. Take another, or finish that cook first.") from None


def _lock(cook: Cook) -> Cook:
    return Cook.objects.select_for_update().get(pk=cook.pk)


def _must_run(cook: Cook) -> None:
    if cook.finished_at is not None:
        raise LineError("This cook is finished.")


def _waiting(steps: Sequence[Step], done: Collection[int]) -> set[int]:
    """Numbers of the steps that may be done now."""
    following = next_step(steps, done)
    return {step.number for step in steps_aside(steps, done)} | ({following.number} if following else set())


@transaction.atomic
def do_step(
    cook: Cook, person: Person, step: int, token: uuid.UUID, steps: Sequence[Step], skipped: bool = False
) -> CookEvent:
    """Say that a step was done, or left out. Once for a token, and once for a step however many people say it.

    Raises LineError for a step that does not exist or that comes later than the next one.
    """
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    done = done_steps(cook)
    if step in done:
        return done[step]
    _must_run(cook)
    if step not in _waiting(steps, done):
        raise LineError("That step is not next; the screen was behind. Look again.")
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.DONE, step=step, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"skipped": True} if skipped else {},
    )  # fmt: skip


@transaction.atomic
def put_off(
    cook: Cook, person: Person, step: int, minutes: float, token: uuid.UUID, steps: Sequence[Step]
) -> CookEvent | None:
    """A step that waits comes later than planned. Once for a token; nothing for a step that does not wait."""
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    _must_run(cook)
    if step not in _waiting(steps, done_steps(cook)):
        return None
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.LATE, step=step, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"minutes": minutes},
    )  # fmt: skip


@transaction.atomic
def place(cook: Cook, person: Person, stage: int, equipment: Equipment) -> CookEvent:
    """A stage happens on another piece of equipment."""
    cook = _lock(cook)
    _must_run(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PLACED, at=cook.kitchen.now(), by=person,
        data={"kit": {str(stage): told(equipment)}},
    )  # fmt: skip


@transaction.atomic
def tell(
    cook: Cook, person: Person, what: str, token: uuid.UUID, stage: int, celsius: float | None = None,
    late_s: float | None = None,
) -> CookEvent | None:  # fmt: skip
    """Something happened beside the plan's steps (told.WHAT). Once for a token; nothing where it holds already.

    Raises LineError for what cannot be told of this cook.
    """
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    _must_run(cook)
    if what not in WHAT or (what == "setting") != (celsius is not None):
        raise LineError("That cannot be told of this cook.")
    begun = {ended: begun for begun, ended in PAIRS.items()}
    holds = open_ends(cook)
    if what in holds or (what in begun and begun[what] not in holds):
        return None
    data: dict[str, Any] = {"what": what, "stage": stage} | ({"c": celsius} if celsius is not None else {})
    if late_s is not None:
        data["late_s"] = late_s
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.TOLD, at=cook.kitchen.now(), by=person, token=unused(token), data=data
    )


PIECE_DID = ("lay", "turn", "lift", "undo")


@transaction.atomic
def do_piece(cook: Cook, person: Person, stage: int, piece: int, did: str, token: uuid.UUID) -> CookEvent:
    """A piece in a pan was laid, turned or lifted; "undo" takes back the last of these of that piece. Once for a token.

    Raises LineError for a piece that is not there.
    """
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    _must_run(cook)
    if did not in PIECE_DID or not 1 <= piece <= cook.pieces or not 0 <= stage < len(cook.document["stages"]):
        raise LineError("There is no such piece in this pan.")
    _must_follow(cook, stage, piece, did)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.PIECE, at=cook.kitchen.now(), by=person, token=unused(token),
        data={"stage": stage, "piece": piece, "did": did},
    )  # fmt: skip


def piece_events(cook: Cook, stage: int, pieces: Collection[int]) -> list[CookEvent]:
    """What was done to these pieces in a stage, in order, without what was taken back."""
    found: list[CookEvent] = []
    for event in cook.events.all():
        if event.kind != CookEvent.Kind.PIECE or event.data["stage"] != stage or event.data["piece"] not in pieces:
            continue
        if event.data["did"] != "undo":
            found.append(event)
            continue
        last = max((i for i, e in enumerate(found) if e.data["piece"] == event.data["piece"]), default=None)
        if last is not None:
            del found[last]
    return found


def _must_follow(cook: Cook, stage: int, piece: int, did: str) -> None:
    """A piece is laid once, turned while it is down, lifted once; only what was done is undone. Raises LineError."""
    done = [event.data["did"] for event in piece_events(cook, stage, [piece])]
    if did == "undo":
        if not done:
            raise LineError("There is nothing to take back.")
        return
    if "lift" in done:
        raise LineError(f"Piece {piece} is out already.")
    if did == "lay" and done:
        raise LineError(f"Piece {piece} is down already; the screen was behind. Look again.")
    if did != "lay" and not done:
        raise LineError(f"Piece {piece} is not in the pan yet.")


@transaction.atomic
def undo_step(cook: Cook, person: Person, token: uuid.UUID) -> CookEvent | None:
    """Take back the last step that was done; the start itself cannot be taken back."""
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    _must_run(cook)
    first = 0 if cook.goes_by_steps else 1  # a plan's first step is its start
    done = [(event.pk, number) for number, event in done_steps(cook).items() if number >= first]
    if not done:
        return None
    last = max(done)[1]
    soon(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.UNDONE, step=last, at=cook.kitchen.now(), by=person, token=unused(token)
    )


@transaction.atomic
def type_reading(cook: Cook, person: Person, celsius: float, at: dt.datetime | None = None) -> Reading:
    """A reading somebody took by hand."""
    cook = _lock(cook)
    _must_run(cook)
    when = at or cook.kitchen.now()
    soon(cook)
    return Reading.objects.create(
        kitchen=cook.kitchen, cook=cook, at=when, claimed_at=when, celsius=celsius, entered_by=person
    )


@transaction.atomic
def check(cook: Cook, person: Person, found: dict[str, Any], token: uuid.UUID) -> CookEvent:
    """Keep a check: `found` has sense, word or core_c, and a note."""
    cook = _lock(cook)
    if known := CookEvent.objects.filter(token=token, cook=cook).first():
        return known
    _must_run(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.CHECKED, at=cook.kitchen.now(), by=person, data=found, token=unused(token)
    )


@transaction.atomic
def correct(cook: Cook, person: Person, note: str) -> CookEvent:
    """Write down what was done about something that went wrong. Refused by the database once signed."""
    cook = _lock(cook)
    return CookEvent.objects.create(
        cook=cook, kind=CookEvent.Kind.CORRECTED, at=cook.kitchen.now(), by=person, data={"note": note}
    )


@transaction.atomic
def finish(cook: Cook, person: Person, stopped_why: str = "") -> Cook:
    """End a cook, served or stopped; its probes are free again. Ending it twice does nothing."""
    cook = _lock(cook)
    if cook.finished_at is not None:
        return cook
    now = cook.kitchen.now()
    kind = CookEvent.Kind.STOPPED if stopped_why else CookEvent.Kind.FINISHED
    CookEvent.objects.create(cook=cook, kind=kind, at=now, by=person, data={"note": stopped_why} if stopped_why else {})
    cook.finished_at = now
    cook.save(update_fields=["finished_at"])
    for use in cook.probe_uses.filter(during__endswith=None):
        use.during = (use.during.lower, max(now, use.during.lower + dt.timedelta(milliseconds=1)))
        use.save(update_fields=["during"])
    return cook


@dataclass(frozen=True)
class ProbeReading:
    """A reading as a device sent it: the kitchen's time, the device's own, °C, and its set point where it tells it."""

    probe: Probe
    at: dt.datetime
    claimed_at: dt.datetime
    celsius: float
    set_c: float | None = None


def keep_readings(kitchen: Kitchen, rows: Sequence[ProbeReading]) -> int:
    """Keep a device's readings. Returns how many were new; repeats are left out."""
    all_ = [Reading(kitchen=kitchen, **vars(row)) for row in rows]
    readings = list({(r.probe_id, r.claimed_at, r.celsius): r for r in all_}.values())
    try:  # nearly always all of them are new
        with transaction.atomic():
            Reading.objects.bulk_create(readings, batch_size=1000)
        return len(readings)
    except IntegrityError:
        before = _known(readings)
        Reading.objects.bulk_create(readings, ignore_conflicts=True, batch_size=1000)
    return len({(r.probe_id, r.claimed_at, r.celsius) for r in readings} - before)


@transaction.atomic
def take_in_readings(cook: Cook, person: Person, rows: Sequence[tuple[dt.datetime, float]]) -> int:
    """Readings from a file, as somebody's. Returns how many were new: taken in again they are not doubled.

    Raises LineError for one from before the cook began or from the future.
    """
    cook = _lock(cook)
    _must_run(cook)
    now = cook.kitchen.now()
    for at, _ in rows:
        if not cook.started_at <= at <= now:
            raise LineError(f"{at.astimezone(cook.kitchen.zone):%H:%M:%S} is not within this cook.")
    there = set(cook.typed_readings.values_list("at", "celsius"))
    new = [row for row in dict.fromkeys(rows) if row not in there]
    Reading.objects.bulk_create(
        Reading(kitchen=cook.kitchen, cook=cook, at=at, claimed_at=at, celsius=celsius, entered_by=person)
        for at, celsius in new
    )
    soon(cook)
    return len(new)


def _known(readings: list[Reading]) -> set[tuple[int | None, dt.datetime, float]]:
    if not readings:
        return set()
    times = [r.claimed_at for r in readings]
    found = Reading.objects.filter(
        probe_id__in={r.probe_id for r in readings}, claimed_at__gte=min(times), claimed_at__lte=max(times)
    )
    return set(found.values_list("probe_id", "claimed_at", "celsius"))
