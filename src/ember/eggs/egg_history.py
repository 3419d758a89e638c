"""An egg simulated through its media: water that it cools, a bath, steam, ice, air."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from ..heat import terms
from ..heat.faces import both, film
from ..heat.grid import FloatArray
from ..heat.numerics import between
from .body import EggBody

TOLERANCE_K = 0.03
MAX_STEPS = 20_000
NO_BOILING_C = 150.0  # an egg's own water does not boil off
FOURTHS = np.array([0.0, 0.25, 0.5, 0.75])


@cache
def media() -> dict[str, dict[str, Any]]:
    """The rows of media.toml."""
    return tomllib.loads(resources.files(__package__).joinpath("data/media.toml").read_text("utf-8"))


@dataclass(frozen=True)
class Medium:
    """A medium around an egg: a film of `h` W/m²K to `celsius`, or to a pot whose temperature follows its eggs."""

    h: float
    celsius: float
    pot: terms.Around | None = None
    pot_starts_c: float | None = None

    def behind(self, m2k_w: float) -> Medium:
        """The same medium behind a shell, film or cup with a resistance of `m2k_w`."""
        return replace(self, h=1.0 / (1.0 / self.h + m2k_w))


@dataclass(frozen=True)
class Course:
    """Temperatures of an egg over time: `temperature_c[row, node]` with slopes; `water_c[row]` of the pot."""

    body: EggBody
    t_s: FloatArray
    temperature_c: FloatArray
    slope_k_s: FloatArray
    water_c: FloatArray

    @property
    def end_s(self) -> float:
        """Duration, s."""
        return float(self.t_s[-1])

    def profile(self, at_s: FloatArray | float) -> FloatArray:
        """Temperatures [time, node] at any times."""
        return between(self.t_s, self.temperature_c, self.slope_k_s, np.atleast_1d(np.asarray(at_s, dtype=float)))

    def fine(self) -> tuple[FloatArray, FloatArray]:
        """Times with every step cut in four, and the temperatures then, for integrals over time."""
        steps = np.diff(self.t_s)
        t = np.unique(np.concatenate([(self.t_s[:-1, None] + steps[:, None] * FOURTHS).ravel(), [self.end_s]]))
        return t, self.profile(t)

    def water_at(self, at_s: FloatArray | float) -> FloatArray:
        """The pot's water at any times, °C."""
        return np.asarray(np.interp(at_s, self.t_s, self.water_c))

    def until(self, end_s: float) -> Course:
        """The part up to `end_s`."""
        if end_s >= self.end_s - 1e-9:
            return self
        rows = max(int(np.searchsorted(self.t_s, end_s, side="left")), 1)
        last = self.profile(end_s)
        slope = np.array([np.interp(end_s, self.t_s, column) for column in self.slope_k_s.T])[None]
        return Course(
            self.body, np.append(self.t_s[:rows], end_s), np.concatenate([self.temperature_c[:rows], last]),
            np.concatenate([self.slope_k_s[:rows], slope]),
            np.append(self.water_c[:rows], float(self.water_at(end_s))),
        )  # fmt: skip

    def then(self, medium: Medium, seconds: float) -> Course:
        """Continued for `seconds` in another medium."""
        if seconds <= 0.0:
            return self
        more = follow(self.body, self.temperature_c[-1], medium, seconds)
        return Course(
            self.body, np.concatenate([self.t_s, more.t_s + self.end_s]),
            np.concatenate([self.temperature_c, more.temperature_c]),
            np.concatenate([self.slope_k_s, more.slope_k_s]), np.concatenate([self.water_c, more.water_c]),
        )  # fmt: skip


def follow(body: EggBody, start_c: FloatArray, medium: Medium, seconds: float) -> Course:
    """Simulate an egg in one medium from the temperatures `start_c[node]`."""
    from ..heat.kernel import run

    state = body.start()
    state[:2] = start_c
    face = film(medium.celsius, medium.behind(body.shell_m2k_w).h)
    around = terms.NOTHING_AROUND
    if medium.pot is not None:
        around = medium.pot
        face[terms.FROM_AROUND] = terms.FILM
    pot_c = medium.celsius if medium.pot_starts_c is None else medium.pot_starts_c
    nodes = len(body.grid.x_m)
    t, history, sums, _ = run(
        state, pot_c, body.body, body.food, both(face), around, NO_BOILING_C,
        terms.Stop(seconds, terms.STOP_TIME, 0.0, True), TOLERANCE_K, float(np.clip(seconds / 60.0, 2.0, 30.0)),
        MAX_STEPS,
    )  # fmt: skip
    water = sums[:, 5] if medium.pot is not None else np.full(len(t), medium.celsius)
    return Course(body, t, history[:, :nodes], history[:, nodes : 2 * nodes], water)
