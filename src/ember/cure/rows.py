"""The rows of limits.toml and salt.toml."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Limits(_Row):
    """Limits of a standard, ppm of sodium nitrite: by product; for smoked cured fish by species (lower, upper)."""

    authority: str
    section: str
    confidence: str
    limits: dict[str, float]
    fish: dict[str, tuple[float, float]] = {}
    fish_section: str
    minimum_ppm: float | None = None
    least_words: str = ""


class Flesh(_Row):
    """Diffusion of salt in a kind of flesh: m²/s at 5 °C and factor for 10 K, its share of water, and its own salt,
    %.
    """

    d_5c: float
    q10: float
    water_share: float
    salt_pct: float
    source: str
    confidence: str

    def diffusivity(self, temp_c: float) -> float:
        """m²/s at a temperature."""
        return self.d_5c * float(self.q10 ** ((temp_c - 5.0) / 10.0))


class Spoon(_Row):
    """A level tablespoon, g, and the range between spoons."""

    name: str
    g_tbsp: float
    off_g: float


class Strength(_Row):
    """A curing salt as it is sold."""

    pct: float
    name: str


class SaltData(_Row):
    """All of salt.toml."""

    diffusivity: dict[str, Flesh]
    spoon: dict[str, Spoon]
    strength: tuple[Strength, ...]


def _read(name: str) -> dict[str, object]:
    return tomllib.loads(resources.files(__package__).joinpath(f"data/{name}.toml").read_text("utf-8"))


@cache
def limits() -> dict[str, Limits]:
    """Limits by standard."""
    return {key: Limits.model_validate(values) for key, values in _read("limits").items()}


@cache
def salt_data() -> SaltData:
    """Diffusivities, spoons and strengths."""
    return SaltData.model_validate(_read("salt"))


FLESH_OF = {
    "chicken": "poultry", "turkey": "poultry", "duck": "poultry", "goose": "poultry", "quail": "poultry",
    "pheasant": "poultry", "fish": "fish", "shellfish": "shellfish", "molluscs": "shellfish",
}  # fmt: skip
