"""The effect of a plan's ovens on its time, a line for each choice, in a cook's words."""

from __future__ import annotations

from collections.abc import Sequence

from ember.files.stages import Oven, Stage
from ember.quantities import Units
from ember.solve.oven_shape import Effect
from kitchen.units.number_text import figure, fixed, minutes_text

COVERS = {"cloth": "Buttered cloth", "foil": "Foil", "lid": "Lid"}
PLACES = {"tray": "On a tray", "pan": "In its hot pan", "water_bath": "In a water bath"}


def oven_lines(stages: Sequence[Stage], effects: Sequence[Effect], units: Units) -> list[str]:
    """One line for each effect: "Foil: 31 min longer than open"."""
    lines = []
    for effect in effects:
        stage = stages[effect.stage]
        if isinstance(stage, Oven):
            what, plain = _words(stage, effect.choice, units)
            lines.append(f"{what}: {_did(effect, units)} than {plain}.")
    return lines


def _did(effect: Effect, units: Units) -> str:
    if effect.minutes is not None:
        return f"{_rounded(abs(effect.minutes))} {'longer' if effect.minutes > 0 else 'quicker'}"
    kelvin = effect.kelvin or 0.0
    size = fixed(abs(units.temperature_step(kelvin)), 1)
    return f"the core comes out {size} {units.degree} {'hotter' if kelvin > 0 else 'colder'}"


def _rounded(minutes: float) -> str:
    text = minutes_text(max(round(minutes), 1))
    return text if "h" in text else f"{text} min"


def _words(stage: Oven, choice: str, units: Units) -> tuple[str, str]:
    """The choice, and what it is compared with."""
    match choice:
        case "humidity":
            return f"Humidity {figure(100 * (stage.humid_share or 0.0), 0)} %", "with the oven's own vapour"
        case "water_tray":
            return "Water tray", "without"
        case "cover":
            return COVERS[stage.cover], "open"
        case "door":
            doing = "Basted" if stage.baste_every_min is not None else "Door opened"
            return f"{doing} every {figure(stage.door_every_min or 0.0, 0)} min", "with the door kept shut"
        case "in":
            return PLACES[stage.where], "on a rack"
        case "offset":
            runs = "hot" if stage.offset_k > 0 else "cool"
            by = figure(abs(units.temperature_step(stage.offset_k)), 0)
            return f"Oven runs {by} {units.degree} {runs}", "one that is true"
        case _:
            return {"fan": "Fan", "combi": "Combi air", "smoker": "Smoker"}[choice], "still air"
