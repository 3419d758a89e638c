"""What a signature covers besides the record: the cook's documents and the readings of its time, by their digests.

The readings are copied into the record as it is signed, so that it stands when raw readings are thinned or go.
"""

from __future__ import annotations

import hashlib
import json
import zlib
from typing import Any

from kitchen.line.cook_readings import readings_of
from kitchen.line.models import Cook

from .models import SignedReadings, SignOff

LEVEL = 6


def documents_digest(cook: Cook) -> str:
    """SHA-256 of a cook's document and of its result as of the start."""
    text = json.dumps({"document": cook.document, "result": cook.result}, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def reading_rows(cook: Cook) -> list[list[Any]]:
    """The readings of a cook's time: [time, probe, °C], in order."""
    rows = readings_of(cook).order_by("at", "id").values_list("at", "probe_id", "celsius")
    return [[at.isoformat(), probe, celsius] for at, probe, celsius in rows.iterator(5000)]


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
    is_thinned = cook.kitchen.readings_kept_months is not None
    signed = {tuple(row) for row in rows}
    if any(tuple(row) not in signed for row in now) or (not is_thinned and len(now) != len(rows)):
        faults.append("its readings are not the ones that were signed")
    return faults
