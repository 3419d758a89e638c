"""A photograph from somewhere else, decoded in a process of its own with little memory and time: a file that breaks a
decoder breaks nothing else.
"""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
from dataclasses import dataclass

from ..errors import BadInput
from .picture import MOST_BYTES

MEMORY_B, CPU_S, WALL_S = 3 << 30, 20, 30
REFUSED = 3
TOO_MUCH = "This file could not be read within the limits. Take the photograph anew, as JPEG."


@dataclass(frozen=True)
class Kept:
    """A photograph as it is kept: JPEG without metadata, and its size in px."""

    jpeg: bytes
    width: int
    height: int


def decoded_apart(data: bytes) -> Kept:
    """The photograph in a file, as `picture.decoded` does it. Raises BadInput."""
    if len(data) > MOST_BYTES:
        raise BadInput(f"This file is larger than {MOST_BYTES // 1_000_000} MB. Take the photograph smaller.", "photo")
    env = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path), "OPENBLAS_NUM_THREADS": "1"}
    command = [sys.executable, "-m", __name__]
    try:
        done = subprocess.run(command, input=data, capture_output=True, timeout=WALL_S, env=env, check=False)  # noqa: S603
    except subprocess.TimeoutExpired:
        raise BadInput(TOO_MUCH, "photo") from None
    if done.returncode == REFUSED:
        raise BadInput(done.stdout.decode(), "photo")
    if done.returncode != 0:
        raise BadInput(TOO_MUCH, "photo")
    head, _, jpeg = done.stdout.partition(b"\n")
    size = json.loads(head)
    return Kept(jpeg, size["width"], size["height"])


def _main() -> int:
    """Decode what comes in; the size as JSON on a line of its own goes out, then the JPEG."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_B, MEMORY_B))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_S, CPU_S))
    from .picture import decoded

    out = sys.stdout.buffer
    try:
        picture = decoded(sys.stdin.buffer.read())
    except BadInput as error:
        out.write(error.message.encode())
        return REFUSED
    tall, wide = picture.rgb.shape[:2]
    out.write(json.dumps({"width": wide, "height": tall}).encode() + b"\n" + picture.jpeg)
    return 0


if __name__ == "__main__":
    sys.exit(_main())
