"""What a long job may take, and how a person stops it: asked between its parts."""

from __future__ import annotations

import time
from collections.abc import Callable


class JobStopped(Exception):
    """A job that a person stopped, or that took longer than it may; in words."""


def checked(still_wanted: Callable[[], bool], seconds: float) -> Callable[[], None]:
    """What a job calls between its parts. Raises JobStopped once nobody wants it any more, or its time is over."""
    end = time.monotonic() + seconds

    def check() -> None:
        if not still_wanted():
            raise JobStopped("Stopped.")
        if time.monotonic() > end:
            raise JobStopped(f"Not finished within {seconds / 60:.0f} minutes. Try a shorter period.")

    return check
