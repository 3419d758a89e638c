"""A stream of bytes encrypted with a passphrase, so that a cut, a swap or a change anywhere is found.

Chunks of a megabyte by AES-256-GCM, numbered, the last one marked (the STREAM construction: Hoang, Reyhanitabar,
Rogaway and Vizár 2015); the key by scrypt (RFC 7914) with a salt of its own.
"""

from __future__ import annotations

import os
import struct
from collections.abc import Iterator
from typing import IO

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from cryptography.hazmat.primitives.kdf.scrypt import Scrypt

MAGIC = b"EMBERSEALED1\n"
SALT, NONCE, TAG = 16, 7, 16
CHUNK = 1_000_000
N, R, BLOCKS = 2**15, 8, 1  # scrypt: 32 MB, about 0.1 s


class SealError(Exception):
    """A sealed file that cannot be opened, with the reason."""


def _key(passphrase: str, salt: bytes) -> AESGCM:
    return AESGCM(Scrypt(salt=salt, length=32, n=N, r=R, p=BLOCKS).derive(passphrase.encode()))


def _nonce(prefix: bytes, number: int, is_last: bool) -> bytes:
    return prefix + struct.pack(">IB", number, is_last)


def seal(plain: IO[bytes], into: IO[bytes], passphrase: str) -> None:
    """Encrypt a stream into another."""
    salt, prefix = os.urandom(SALT), os.urandom(NONCE)
    key = _key(passphrase, salt)
    into.write(MAGIC + salt + prefix)
    number, chunk = 0, plain.read(CHUNK)
    while True:
        following = plain.read(CHUNK)
        into.write(key.encrypt(_nonce(prefix, number, not following), chunk, MAGIC))
        if not following:
            return
        number, chunk = number + 1, following


def is_sealed(start: bytes) -> bool:
    """Whether a file that begins so is encrypted."""
    return start.startswith(MAGIC)


def opened(sealed: IO[bytes], passphrase: str) -> Iterator[bytes]:
    """The chunks of an encrypted stream. Raises SealError for another passphrase, and where it was changed or cut."""
    head = sealed.read(len(MAGIC) + SALT + NONCE)
    if not is_sealed(head) or len(head) < len(MAGIC) + SALT + NONCE:
        raise SealError("This file is not encrypted by Open Ember.")
    salt, prefix = head[len(MAGIC) : len(MAGIC) + SALT], head[len(MAGIC) + SALT :]
    key = _key(passphrase, salt)
    number, chunk = 0, sealed.read(CHUNK + TAG)
    while True:
        following = sealed.read(CHUNK + TAG)
        try:
            yield key.decrypt(_nonce(prefix, number, not following), chunk, MAGIC)
        except InvalidTag:
            at_first = "The passphrase is another one, or the file was changed."
            why = at_first if number == 0 else "The file was changed or cut."
            raise SealError(why) from None
        if not following:
            return
        number, chunk = number + 1, following
