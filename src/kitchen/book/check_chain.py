"""Check an exported chain of records: python3 check_chain.py chain.jsonl [anchors.jsonl [PUBLIC KEY]]. Needs nothing
but Python.

Each line of the chain is {"number", "before", "payload", "digest"}. A digest is SHA-256 of the previous digest, a line
feed and the payload as it stands; the first uses sixty-four zeros. An anchor is the head of the chain at some time,
signed (Ed25519); with the public key from a printed report its signature is checked as well. Prints the result; exits
with 1 if the chain is broken, shorter than an anchor says, or an anchor is not signed by that key.
"""

from __future__ import annotations

import base64
import hashlib
import json
import sys
from collections.abc import Iterable, Mapping
from typing import Any

NOTHING = "0" * 64


def digest_of(before: str, payload: str) -> str:
    """Digest of a record, given the digest before it."""
    return hashlib.sha256(f"{before}\n{payload}".encode()).hexdigest()


def first_break(links: Iterable[Mapping[str, Any]], before: str = NOTHING, number: int = 0) -> tuple[int, str] | None:
    """Number and fault of the first broken record; None if the chain holds."""
    for link in links:
        number += 1
        if link["number"] != number:
            return number, f"record {number} is missing: {link['number']} comes next"
        if link["before"] != before:
            return number, "it does not follow the record before it"
        if link["digest"] != digest_of(before, link["payload"]):
            return number, "it was changed after it was written"
        before = link["digest"]
    return None


def anchored(kitchen: int, number: int, digest: str, at: str) -> str:
    """The text that an anchor signs."""
    return f"open-ember anchor\n{kitchen}\n{number}\n{digest}\n{at}"


def against(anchor: Mapping[str, Any], digests: Mapping[int, str], records: int) -> str:
    """What an anchor says against a chain of so many records; empty if it agrees."""
    number = anchor["number"]
    if number > records:
        return f"records after {records} are missing: on {anchor['at'][:10]} there were {number}"
    if digests.get(number, anchor["digest"]) != anchor["digest"]:
        return f"the chain was written anew: record {number} is not the one of {anchor['at'][:10]}"
    return ""


# Ed25519 after RFC 8032, section 5.1, to check a signature without any library ---------------------------------------

P = 2**255 - 19
ORDER = 2**252 + 27742317777372353535851937790883648493
D = -121665 * pow(121666, P - 2, P) % P
ROOT = pow(2, (P - 1) // 4, P)

Point = tuple[int, int, int, int]


def _add(one: Point, other: Point) -> Point:
    a, b = (one[1] - one[0]) * (other[1] - other[0]) % P, (one[1] + one[0]) * (other[1] + other[0]) % P
    c, d = 2 * one[3] * other[3] * D % P, 2 * one[2] * other[2] % P
    e, f, g, h = b - a, d - c, d + c, b + a
    return e * f % P, g * h % P, f * g % P, e * h % P


def _times(factor: int, point: Point) -> Point:
    total: Point = (0, 1, 1, 0)
    while factor > 0:
        if factor & 1:
            total = _add(total, point)
        point, factor = _add(point, point), factor >> 1
    return total


def _point(encoded: bytes) -> Point:
    """A point from its encoding. Raises ValueError if there is none."""
    y = int.from_bytes(encoded, "little")
    sign, y = y >> 255, y & ((1 << 255) - 1)
    square = (y * y - 1) * pow(D * y * y + 1, P - 2, P) % P
    x = pow(square, (P + 3) // 8, P)
    if (x * x - square) % P:
        x = x * ROOT % P
    if y >= P or (x * x - square) % P or (x == 0 and sign):
        raise ValueError("no point of the curve")
    x = P - x if x & 1 != sign else x
    return x, y, 1, x * y % P


BASE = _point((4 * pow(5, P - 2, P) % P).to_bytes(32, "little"))


def is_signed(public: bytes, message: bytes, signature: bytes) -> bool:
    """Whether a signature of 64 bytes is by this key of 32."""
    try:
        key, nonce = _point(public), _point(signature[:32])
    except ValueError:
        return False
    s = int.from_bytes(signature[32:], "little")
    if len(public) != 32 or len(signature) != 64 or s >= ORDER:
        return False
    h = int.from_bytes(hashlib.sha512(signature[:32] + public + message).digest(), "little") % ORDER
    left, right = _times(s, BASE), _add(nonce, _times(h, key))
    return (left[0] * right[2] - right[0] * left[2]) % P == 0 and (left[1] * right[2] - right[1] * left[2]) % P == 0


# The script ----------------------------------------------------------------------------------------------------------


def _lines(path: str) -> list[Any]:
    with open(path, encoding="utf-8") as lines:
        return [json.loads(line) for line in lines if line.strip()]


def _fault_of(anchor: Mapping[str, Any], digests: Mapping[int, str], key: str) -> str:
    message = anchored(anchor["kitchen"], anchor["number"], anchor["digest"], anchor["at"]).encode()
    signature = base64.b64decode(anchor["signature"])
    if key and anchor["public_key"] != key:
        return f"the anchor of record {anchor['number']} is by another key: {anchor['public_key']}"
    if not is_signed(bytes.fromhex(anchor["public_key"]), message, signature):
        return f"the anchor of record {anchor['number']} is not signed by its key"
    return against(anchor, digests, len(digests))


def main() -> int:
    """Read the files, check them, print the result."""
    if not 2 <= len(sys.argv) <= 4:
        print(__doc__)
        return 2
    links = _lines(sys.argv[1])
    broken = first_break(links)
    if broken is not None:
        print(f"Broken at record {broken[0]}: {broken[1]}.")
        return 1
    digests = {link["number"]: link["digest"] for link in links}
    anchors = _lines(sys.argv[2]) if len(sys.argv) > 2 else []
    faults = [fault for each in anchors if (fault := _fault_of(each, digests, "".join(sys.argv[3:])))]
    if faults:
        print(f"Broken: {faults[0]}.")
        return 1
    print(f"{len(links)} records hold. The last digest is {links[-1]['digest'] if links else NOTHING}.")
    if anchors:
        keys = sorted({each["public_key"] for each in anchors})
        print(f"{len(anchors)} anchors agree, signed by {', '.join(keys)}.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
