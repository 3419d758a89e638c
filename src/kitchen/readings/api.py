"""The readings API, version 1: JSON over HTTP with a device token.

POST /api/v1/readings  {"sent_at": ISO time, "readings": [{"probe": "1", "at": ISO time, "celsius": 54.2}, …]}
GET  /api/v1/clock     the kitchen's time, so that a device can set its own
GET  /api/v1/cooks     the cooks that this device's probes are in
"""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.core.cache import cache
from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from prometheus_client import Counter
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from ember.files.wrong import describe_validation
from kitchen.accounts.models import Kitchen, hash_token
from kitchen.errors import problem
from kitchen.kit.actions import boot_of, note_behind, set_clock
from kitchen.kit.models import Device, Probe
from kitchen.line import reading_actions
from kitchen.line.models import LEAST_READ_C, MOST_READ_C, Cook, CookEvent
from kitchen.web import LAST_YEAR

MOST_READINGS = 5000
OLDEST = dt.timedelta(days=30)
SEEN_EVERY = dt.timedelta(seconds=20)  # a device that posts every second need not be written down as often
CLOCK_SLACK_S = 5.0  # a device clock this far off is left alone
EPOCH = 1970  # where the clock of a device that has none begins
LONG_BEHIND_S = 300.0  # what is told of a device without sent_at whose newest reading is older
POSTS_A_MINUTE = 600
READINGS = Counter("ember_readings", "Readings stored")
WRONG_CLOCK = f"The year has to be {EPOCH} to {LAST_YEAR}: check the device's clock."


class _In(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ReadingIn(_In):
    """One temperature of one probe."""

    probe: str = Field(max_length=20)
    at: AwareDatetime
    celsius: float = Field(ge=LEAST_READ_C, le=MOST_READ_C)
    set_c: float | None = Field(
        None, ge=LEAST_READ_C, le=MOST_READ_C, description="The set point, of a controller that tells it."
    )
    n: int | None = Field(None, ge=0, lt=2**63, description="The device's own number of the reading, one up each time.")


class ReadingsIn(_In):
    """A batch. `sent_at` is the device's own clock when it sends, by which a wrong clock is corrected."""

    sent_at: AwareDatetime | None = None
    boot: str = Field("", max_length=32, description="Another text after each start of the device.")
    readings: list[ReadingIn] = Field(max_length=MOST_READINGS)


class _Envelope(_In):
    """A batch before its readings are validated one by one: an invalid one is refused alone."""

    sent_at: AwareDatetime | None = None
    boot: str = Field("", max_length=32)
    readings: list[Any] = Field(max_length=MOST_READINGS)


class ClockIn(_In):
    """A rate for a demonstration kitchen's clock."""

    rate: float = Field(gt=0, le=3600)


def _error(status: int, code: str, message: str, at: str = "") -> JsonResponse:
    return problem(status, code, message, at)


def _body_of(request: HttpRequest) -> bytes | None:
    """The body; None if it is larger than the server accepts."""
    try:
        return request.body
    except RequestDataTooBig:
        return None


def _out_of_time(moment: dt.datetime | None) -> bool:
    """Whether a clock shows an impossible year."""
    return moment is not None and not EPOCH <= moment.year <= LAST_YEAR


def _device_of(token: str) -> Device | None:
    """The device with this token and its kitchen; None for an unknown or revoked token."""
    return Device.objects.select_related("kitchen").filter(token_hash=hash_token(token), revoked_at=None).first()


_probes: dict[int, dict[str, Probe]] = {}  # by device: they hardly ever change, and a device posts every few seconds
PROBES_REMEMBERED = 5000  # devices


def probes_of(device: Device, codes: set[str]) -> dict[str, Probe]:
    """The device's probes by code, cached, and read again for an unknown code."""
    known = _probes.get(device.pk)
    if known is None or not codes <= known.keys():
        if len(_probes) >= PROBES_REMEMBERED:
            _probes.clear()
        known = _probes[device.pk] = {probe.code: probe for probe in device.probes.all()}
    return known


def _too_many(device: Device, now: dt.datetime) -> int:
    """Seconds until a device may send again; 0 if it may now."""
    minute, second = divmod(int(now.timestamp()), 60)
    key = f"device-requests-{device.pk}-{minute}"
    cache.add(key, 0, 120)
    return 60 - second if cache.incr(key) > POSTS_A_MINUTE else 0


def device_api(*methods: str) -> Callable[..., Any]:
    """Decorator of a view for devices with a token; every failure is JSON."""

    def decorate(view: Callable[[HttpRequest, Device], JsonResponse]) -> Callable[[HttpRequest], JsonResponse]:
        @csrf_exempt
        @login_not_required
        @wraps(view)
        def guarded(request: HttpRequest) -> JsonResponse:
            if request.method not in methods:
                return _error(405, "method", f"Use {' or '.join(methods)}.")
            scheme, _, token = request.headers.get("Authorization", "").partition(" ")
            device = _device_of(token.strip()) if scheme == "Bearer" and token else None
            if device is None:
                return _error(401, "token", "Unknown or revoked device token. Send “Authorization: Bearer TOKEN”.")
            now = timezone.now()
            if wait_s := _too_many(device, now):
                answer = _error(
                    429, "too-often", f"At most {POSTS_A_MINUTE} requests a minute. Try again in {wait_s} s."
                )
                answer.headers["Retry-After"] = str(wait_s)
                return answer
            if device.last_seen_at is None or now - device.last_seen_at > SEEN_EVERY:
                Device.objects.filter(pk=device.pk).update(last_seen_at=now)
            return view(request, device)

        return guarded

    return decorate


@dataclass(frozen=True)
class _Clock:
    """How a batch's times are read: the kitchen's now, the offset of the device's clock, and the slack allowed."""

    now: dt.datetime
    shift: dt.timedelta
    slack_s: float

    @classmethod
    def of(cls, kitchen: Kitchen, sent_at: dt.datetime | None) -> _Clock:
        """The clock by `sent_at`; without it the device's clock is taken as right."""
        now = kitchen.now()
        slack_s = CLOCK_SLACK_S * max(kitchen.clock_rate, 1.0)
        is_off = sent_at is not None and abs((now - sent_at).total_seconds()) > slack_s
        return cls(now, now - sent_at if sent_at is not None and is_off else dt.timedelta(0), slack_s)


@device_api("POST")
def readings(request: HttpRequest, device: Device) -> JsonResponse:
    """Store a batch. Readings may come late, out of order or twice; an invalid one is refused alone, the rest are
    stored.
    """
    batch = _batch_in(request)
    if isinstance(batch, JsonResponse):
        return batch
    clock = _Clock.of(device.kitchen, batch.sent_at)
    accepted, refused = _sorted_out(device, batch, clock)
    new = reading_actions.keep_readings(device.kitchen, accepted)
    READINGS.inc(new)
    answer: dict[str, object] = {"kept": new, "repeated": len(accepted) - new, "refused": refused}
    if clock.shift:
        answer["clock_off_s"] = round(clock.shift.total_seconds(), 1)
    if batch.sent_at is None and accepted:
        behind_s = (clock.now - max(reading.claimed_at for reading in accepted)).total_seconds()
        is_behind = behind_s > LONG_BEHIND_S
        answer |= {"newest_behind_s": round(behind_s, 1)} if is_behind else {}
        note_behind(device, behind_s if is_behind else None)
    if refused and not accepted:
        first = refused[0]
        return problem(422, "bad-input", str(first["message"]), str(first["at"]), answer)
    return JsonResponse(answer)


def _batch_in(request: HttpRequest) -> _Envelope | JsonResponse:
    """The batch, or the response to an invalid one."""
    body = _body_of(request)
    if body is None:
        return _error(413, "too-large", f"The body is too large: at most {MOST_READINGS} readings a post.")
    try:
        batch = _Envelope.model_validate_json(body)
    except ValidationError as error:
        if any(wrong["type"] == "too_long" for wrong in error.errors(include_url=False)):
            return _error(413, "too-many", f"At most {MOST_READINGS} readings a post; send them in parts.", "readings")
        bad = describe_validation(error)
        return _error(422, "bad-input", bad.message, bad.at)
    return _error(422, "bad-input", WRONG_CLOCK, "sent_at") if _out_of_time(batch.sent_at) else batch


def _sorted_out(
    device: Device, batch: _Envelope, clock: _Clock
) -> tuple[list[reading_actions.ProbeReading], list[dict[str, object]]]:
    """Valid readings, and for each other one its index and the reason."""
    boot = boot_of(device, batch.boot, clock.shift)
    codes = {
        given["probe"] for given in batch.readings if isinstance(given, dict) and isinstance(given.get("probe"), str)
    }
    probes = probes_of(device, codes)
    accepted: list[reading_actions.ProbeReading] = []
    refused: list[dict[str, object]] = []
    for index, given in enumerate(batch.readings):
        reading, why, at_key = _reading(given)
        if reading is not None:
            why = _refusal(reading, probes, reading.at + clock.shift, clock.now, clock.slack_s)
        if reading is None or why:
            refused.append({"index": index, "message": why, "at": f"readings[{index}]{at_key}"})
            continue
        at = min(reading.at + clock.shift, clock.now)
        accepted.append(
            reading_actions.ProbeReading(
                probes[reading.probe], at, reading.at, reading.celsius, reading.set_c, boot, reading.n or 0
            )
        )
    return accepted, refused


def _reading(given: Any) -> tuple[ReadingIn | None, str | None, str]:
    """One reading; or the reason why it is invalid, and its key."""
    try:
        reading = ReadingIn.model_validate_json(json.dumps(given))
    except ValidationError as error:
        bad = describe_validation(error)
        return None, bad.message, f".{bad.at}" if bad.at else ""
    if _out_of_time(reading.at):
        return None, WRONG_CLOCK, ".at"
    return reading, None, ""


def _refusal(
    reading_in: ReadingIn, probes: dict[str, Probe], at: dt.datetime, now: dt.datetime, slack_s: float
) -> str | None:
    """Why a reading is refused; None if it is not."""
    if reading_in.probe not in probes:
        return f"This device has no probe “{reading_in.probe}”; it has {', '.join(sorted(probes))}."
    ahead = (at - now).total_seconds()
    if ahead > slack_s:
        return f"This reading is {ahead:.0f} s in the future. Set the device's clock, or send sent_at."
    if now - at > OLDEST:
        return "This reading is more than 30 days old. Set the device's clock, or send sent_at."
    return None


@device_api("GET", "POST")
def clock(request: HttpRequest, device: Device) -> JsonResponse:
    """The kitchen's time. POST changes its rate, in a demonstration kitchen only."""
    kitchen = device.kitchen
    if request.method == "POST":
        try:
            wanted = ClockIn.model_validate_json(request.body)
        except ValidationError as error:
            bad = describe_validation(error)
            return _error(422, "bad-input", bad.message, bad.at)
        if not kitchen.is_demo:
            return _error(403, "not-a-demo", "Only a demonstration kitchen's clock can run at another pace.")
        set_clock(kitchen, wanted.rate)
    return JsonResponse({"now": kitchen.now().isoformat(), "rate": kitchen.clock_rate if kitchen.is_demo else 1.0})


def _told_kind(event: CookEvent, steps: list[dict[str, Any]]) -> str:
    """The kind of a step for devices, to which a cook starts with its first stage, whether it waited on the line or
    not.
    """
    step = steps[event.step] if event.step is not None and event.step < len(steps) else None
    begins = event.kind == CookEvent.Kind.DONE and step is not None and step["kind"] == "start"
    return CookEvent.Kind.STARTED.value if begins else str(event.kind)


@device_api("GET")
def cooks(request: HttpRequest, device: Device) -> JsonResponse:
    """Running cooks with this device's probes, once they have begun: plan, steps done, probe."""
    running = (
        Cook.objects.of(device.kitchen)
        .of_plans()
        .filter(finished_at=None, waits=False, probe_uses__probe__device=device, probe_uses__during__endswith=None)
        .with_history()
        .distinct()
    )
    answer_rows = []
    for cook in running:
        steps = cook.result.get("steps", [])
        events = [
            {"kind": _told_kind(e, steps), "step": e.step, "at": e.at.isoformat()}
            for e in cook.history
            if e.kind in (CookEvent.Kind.STARTED, CookEvent.Kind.DONE, CookEvent.Kind.UNDONE) and e.step is not None
        ]
        reports = [
            {"what": e.data.get("what", ""), "at": e.at.isoformat()}
            for e in cook.history
            if e.kind == CookEvent.Kind.TOLD
        ]
        codes = [u.probe.code for u in cook.probe_history if u.during.upper is None and u.probe.device_id == device.pk]
        answer_rows.append(
            {
                "id": str(cook.id),
                "name": cook.name,
                "plan": cook.document,
                "steps": steps,
                "started_at": cook.started_at.isoformat(),
                "events": events,
                "reports": reports,
                "probes": codes,
            }
        )
    return JsonResponse({"now": device.kitchen.now().isoformat(), "cooks": answer_rows})
