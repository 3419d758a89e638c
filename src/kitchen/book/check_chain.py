"""Check an exported chain of records: python3 check_chain.py chain.jsonl. Needs nothing but Python.

Each line is {"number", "before", "payload", "digest"}. A digest is SHA-256 of the previous digest, a line feed and the
payload as it stands; the first uses sixty-four zeros. Prints the result; exits with 1 if the chain is broken.
"""

from __future__ import annotations

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


def main() -> int:
    """Read the file, check it, print the result."""
    if len(sys.argv) != 2:
        print(__doc__)
        return 2
    with open(sys.argv[1], encoding="utf-8") as lines:
        links = [json.loads(line) for line in lines if line.strip()]
    broken = first_break(links)
    if broken is not None:
        print(f"Broken at record {broken[0]}: {broken[1]}.")
        return 1
    last = links[-1]["digest"] if links else NOTHING
    print(f"{len(links)} records hold. The last digest is {last}.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
