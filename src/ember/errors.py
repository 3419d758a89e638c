"""The core's errors: each names the place in the input and what is wrong there."""

from __future__ import annotations

import math


class EmberError(Exception):
    """Base of every error the core raises on purpose.

    `code` is for programs, `message` for people, `at` the path in the input ("stages[1].minutes").
    """

    code = "error"

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.at = at

    def as_json(self) -> dict[str, object]:
        """The error as the JSON object of the command line."""
        body: dict[str, object] = {"code": self.code, "message": self.message}
        if self.at:
            body["at"] = self.at
        return {"error": body}


class BadInput(EmberError):
    """Invalid input: a number out of range, an unknown key, an unknown cut."""

    code = "bad-input"


class NeverReached(EmberError):
    """A stage that cannot reach its end; carries how far it got."""

    code = "never-reached"

    def __init__(self, message: str, at: str, highest_c: float) -> None:
        super().__init__(message, at)
        self.highest_c = highest_c

    def as_json(self) -> dict[str, object]:
        """The error with the highest (or lowest) value reached."""
        body = super().as_json()
        if math.isfinite(self.highest_c):
            body["error"]["reached_c"] = round(self.highest_c, 2)  # type: ignore[index]
        return body
