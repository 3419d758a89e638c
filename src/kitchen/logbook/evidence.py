"""What a signature covers besides the record: the cook's documents and the readings of its time, by their digests.

The readings are copied into the record as it is signed, so that it stands when raw readings are thinned or go.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import zlib
from dataclasses import dataclass
from typing import Any

from kitchen.line.cook_readings import readings_of
from kitchen.line.cook_status import CookStatus
from kitchen.line.models import Cook
from kitchen.line.queries import status_of

from .models import SignedReadings, SignOff

LEVEL = 6


def documents_digest(cook: Cook) -> str:
    """SHA-256 of a cook's document and of its result as of the start."""
    text = json.dumps({"document": cook.document, "result": cook.result}, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def reading_rows(cook: Cook) -> list[list[Any]]:
    """The raw readings of a cook's time: [time, probe, °C, 1 if typed by hand], in order."""
    return [[at.isoformat(), probe, celsius, int(by_hand)] for at, probe, celsius, by_hand in _raw(cook)]


def _raw(cook: Cook) -> Any:
    return readings_of(cook).order_by("at", "id").values_list("at", "probe_id", "celsius", "by_hand")


@dataclass(frozen=True, slots=True)
class Taken:
    """A reading of a cook; `probe` is None for one that was typed or came from a file."""

    at: dt.datetime
    probe: int | None
    celsius: float
    by_hand: bool


def taken_readings(cook: Cook) -> list[Taken]:
    """The readings of a cook: of a signed one as they were signed, also when raw readings were thinned since."""
    signature = getattr(cook, "sign_off", None) if cook.finished_at else None
    copied = getattr(signature, "readings", None)
    if copied is None:
        return [Taken(*row) for row in _raw(cook)]
    return [
        Taken(dt.datetime.fromisoformat(at), probe, celsius, bool(by_hand[0]) if by_hand else probe is None)
        for at, probe, celsius, *by_hand in unpacked(
            bytes(copied.packed)
        )  # the first signatures did not copy who held the probe
    ]


def recorded_status(cook: Cook) -> CookStatus:
    """The course of a cook, of a signed one by the readings as they were signed."""
    is_signed = getattr(cook, "sign_off", None) is not None
    return status_of(cook, [(taken.at, taken.celsius) for taken in taken_readings(cook)] if is_signed else None)


def packed(rows: list[list[Any]]) -> bytes:
    """Readings as they are kept with a signature."""
    return zlib.compress(json.dumps(rows, separators=(",", ":")).encode(), LEVEL)


def unpacked(data: bytes) -> list[list[Any]]:
    """Kept readings as they were taken."""
    rows: list[list[Any]] = json.loads(zlib.decompress(data))
    return rows


def readings_digest(rows: list[list[Any]]) -> str:
    """SHA-256 of readings."""
    return hashlib.sha256(json.dumps(rows, separators=(",", ":")).encode()).hexdigest()


def evidence_of(cook: Cook, rows: list[list[Any]]) -> dict[str, Any]:
    """What is signed: digests of documents and readings, and how many there are."""
    return {"documents": documents_digest(cook), "readings": readings_digest(rows), "count": len(rows)}


def keep_readings(signature: SignOff, rows: list[list[Any]]) -> SignedReadings:
    """Copy readings into the record of a signature."""
    return SignedReadings.objects.create(sign_off=signature, packed=packed(rows))


def faults_of(signature: SignOff) -> list[str]:
    """What no longer is as it was signed; of a signature from before there was evidence nothing can be said."""
    cook, evidence = signature.cook, signature.evidence
    if not evidence:
        return []
    faults = []
    if documents_digest(cook) != evidence["documents"]:
        faults.append("its plan or result is not the one that was signed")
    copied = getattr(signature, "readings", None)
    if copied is None:
        return [*faults, "its readings are missing from the record"]
    try:
        rows = unpacked(bytes(copied.packed))
    except (ValueError, zlib.error):
        return [*faults, "its readings in the record cannot be read"]
    if readings_digest(rows) != evidence["readings"]:
        faults.append("its readings in the record are not the ones that were signed")
    now = reading_rows(cook)
    kitchen = cook.kitchen
    may_miss = kitchen.readings_kept_months is not None or kitchen.readings_thinned_days is not None
    columns = len(rows[0]) if rows else 0
    signed = {tuple(row) for row in rows}
    if any(tuple(row[:columns]) not in signed for row in now) or (not may_miss and len(now) != len(rows)):
        faults.append("its readings are not the ones that were signed")
    return faults
