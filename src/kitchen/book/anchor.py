"""Anchors: the head of a kitchen's chain, signed with a key that is not in the database, and kept outside it too.

Whoever can rewrite the whole database can rewrite a chain of digests; they cannot sign its head again (Ed25519, RFC
8032), nor reach the second place.
"""

from __future__ import annotations

import base64
import json
import logging
import os
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.serialization import (
    Encoding,
    NoEncryption,
    PrivateFormat,
    PublicFormat,
    load_pem_private_key,
)
from django.conf import settings
from django.utils import timezone

from kitchen.accounts.models import Kitchen

from .check_chain import anchored
from .models import Anchor, Link

log = logging.getLogger(__name__)

SENT_WITHIN_S = 10.0
FIELDS = {"kitchen", "number", "digest", "at", "signature", "public_key"}


def signing_key() -> Ed25519PrivateKey:
    """The key of this installation, made once; its file is for the application alone, and its public half is added to
    the trusted keys.
    """
    path = Path(settings.ANCHOR_KEY)
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        made = Ed25519PrivateKey.generate()
        pem = made.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
        try:
            with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
                file.write(pem)
            with Path(settings.ANCHOR_KEYS).open("a", encoding="utf-8") as trusted:
                trusted.write(public_of(made) + "\n")
        except FileExistsError:
            pass  # another process was quicker
    key = load_pem_private_key(path.read_bytes(), None)
    if not isinstance(key, Ed25519PrivateKey):
        raise TypeError(f"{path} holds no Ed25519 key")
    return key


def public_of(key: Ed25519PrivateKey) -> str:
    """The public half in hexadecimal."""
    return key.public_key().public_bytes(Encoding.Raw, PublicFormat.Raw).hex()


def trusted_keys() -> set[str]:
    """Public keys of this installation, present and past, from its file."""
    path = Path(settings.ANCHOR_KEYS)
    return {line.strip() for line in path.read_text("utf-8").splitlines() if line.strip()} if path.exists() else set()


def anchor(kitchen: Kitchen) -> Anchor | None:
    """Sign the head of the chain, if it has moved since the last anchor, and keep it in the second place as well.
    Returns the newest anchor; None for an empty chain.
    """
    head = Link.objects.of(kitchen).order_by("-number").first()
    if head is None:
        return None
    last: Anchor | None = Anchor.objects.of(kitchen).order_by("-number").first()
    if last is not None and (last.number, last.digest) == (head.number, head.digest):
        return last
    key, at = signing_key(), timezone.now().isoformat(timespec="seconds")
    signature = key.sign(anchored(kitchen.pk, head.number, head.digest, at).encode())
    made: Anchor = Anchor.objects.create(
        kitchen=kitchen, number=head.number, digest=head.digest, at=at,
        signature=base64.b64encode(signature).decode("ascii"), public_key=public_of(key),
    )  # fmt: skip
    _keep_outside(made)
    return made


def anchor_all() -> list[Anchor]:
    """The newest anchor of every kitchen with a chain, made where its head has moved."""
    return [made for kitchen in Kitchen.objects.order_by("pk") if (made := anchor(kitchen)) is not None]


def as_row(made: Anchor) -> dict[str, Any]:
    """An anchor as a line of a file."""
    return {
        "kitchen": made.kitchen_id, "number": made.number, "digest": made.digest, "at": made.at,
        "signature": made.signature, "public_key": made.public_key,
    }  # fmt: skip


def is_signed(row: dict[str, Any], trusted: set[str]) -> bool:
    """Whether the signature of an anchor is by the key it names, and that key is one of the trusted."""
    if row["public_key"] not in trusted:
        return False
    try:
        public = Ed25519PublicKey.from_public_bytes(bytes.fromhex(row["public_key"]))
        message = anchored(row["kitchen"], row["number"], row["digest"], row["at"])
        public.verify(base64.b64decode(row["signature"]), message.encode())
    except (InvalidSignature, ValueError):
        return False
    return True


def anchors_of(kitchen: Kitchen) -> Iterator[dict[str, Any]]:
    """Every anchor of a kitchen that can be found: in the database, and in the second place."""
    yield from (as_row(made) for made in Anchor.objects.of(kitchen).order_by("number"))
    yield from (row for row in outside() if row["kitchen"] == kitchen.pk)


def outside() -> Iterator[dict[str, Any]]:
    """Anchors in the file outside the database; a torn last line is left out."""
    path = Path(settings.ANCHOR_FILE)
    if not path.exists():
        return
    for line in path.read_text("utf-8").splitlines():
        try:
            values = json.loads(line)
        except ValueError:
            continue
        if isinstance(values, dict) and values.keys() >= FIELDS:
            yield values


def _keep_outside(made: Anchor) -> None:
    """Write an anchor to the file, and send it where that is wished; what fails is logged, and the next one follows."""
    line = json.dumps(as_row(made))
    try:
        with Path(settings.ANCHOR_FILE).open("a", encoding="utf-8") as file:
            file.write(line + "\n")
        if settings.ANCHOR_URL:
            headers = {"Content-Type": "application/json"}
            request = urllib.request.Request(settings.ANCHOR_URL, line.encode(), headers, method="POST")  # noqa: S310
            urllib.request.urlopen(request, timeout=SENT_WITHIN_S).close()  # noqa: S310  (HTTPS, checked in settings)
    except OSError:
        log.exception("an anchor was not kept outside the database")
