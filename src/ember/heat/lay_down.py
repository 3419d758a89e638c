"""Several pieces laid into one pan one after the other: the pan's temperature.

The pan is one body: M c dT/dt = burner - loss - heat to each piece. A piece is a half-space from its own initial
temperature: with a contact h it takes h (T_pan - T_0) exp(x²) erfc(x), x = h √(a t) / k, t since this face was laid
(Incropera & DeWitt, Fundamentals of Heat and Mass Transfer, section 5.7, case 3: surface convection). The pan's present
temperature is used, which is accurate while it changes slowly.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import BadInput
from ..files.plan import Plan
from ..files.stages import Pan
from .faces import media
from .grid import FloatArray
from .pan import floor_area_m2, footprint_m2
from .problem import composition_of, settings_of

STEP_S = 0.5
FAR = 5.0  # from here on erfc's own asymptote
FOOD_C = 30.0  # properties of a half-warm face
HOLDS_WITHIN_S = 10.0  # how fast a burner puts a small fall right


@dataclass(frozen=True)
class LayDown:
    """A pan and its pieces, all alike. W, J, m², s, °C."""

    heat_j_k: float
    loss_w_k: float
    power_w: float
    set_c: float
    ambient_c: float
    floor_m2: float
    piece_m2: float
    piece_c: float
    h_w_m2k: float
    k_w_mk: float
    diffusivity_m2_s: float

    @property
    def crowded_from(self) -> int:
        """Number of pieces that crowd the pan."""
        return int(media()["vessel"]["covered_at_most"] * self.floor_m2 / self.piece_m2) + 1


def lay_down_of(plan: Plan, stage: int) -> LayDown:
    """The pan of a plan's stage, and its pieces. Raises BadInput if the stage is not a pan."""
    pan = plan.stages[stage]
    if not isinstance(pan, Pan):
        raise BadInput("This stage is not in a pan.", f"stages[{stage}]")
    vessel, contact = media()["vessel"], media()["pan"]
    setting, food = settings_of(plan)[stage], composition_of(plan)
    k, rho, c = (float(of(FOOD_C)) for of in (food.conductivity, food.density, food.heat_capacity))
    mass_kg = pan.pan.mass_kg if pan.pan else vessel["mass_kg"]
    floor = floor_area_m2(pan.pan)
    return LayDown(
        heat_j_k=mass_kg * vessel["heat_j_kgk"][pan.pan.material if pan.pan else "steel"],
        loss_w_k=vessel["loss_w_m2k"] * floor,
        power_w=pan.power_w if pan.power_w is not None else vessel["power_w"],
        set_c=pan.pan_c if pan.pan_c is not None else pan.starts_at_c,
        ambient_c=vessel["air_c"],
        floor_m2=floor,
        piece_m2=footprint_m2(setting),
        piece_c=laid_c(plan, stage),
        h_w_m2k=contact["h"] if pan.fat else contact["h_no_fat"],
        k_w_mk=k,
        diffusivity_m2_s=k / (rho * c),
    )


def laid_c(plan: Plan, stage: int) -> float:
    """Temperature of a piece's face as it is laid: as delivered, or as the bath before left it, °C.

    After anything else, and on its other side, it counts as cold: the predicted drop is then too large.
    """
    before = plan.stages[stage - 1] if stage else None
    warm = getattr(before, "water_c", None)
    return plan.piece.start_c if warm is None else float(warm)


def conductance(job: LayDown, since_s: float) -> float:
    """Conductance of a face, W/m²K of the difference to its initial temperature, at a time after it was laid.

    >>> half = LayDown(1, 1, 1, 200, 20, 1, 1, 5, 100.0, 0.5, 1.25e-7)
    >>> round(conductance(half, 200.0) / 100.0, 3)  # x = 1: exp(1) erfc(1) = 0.428
    0.428
    """
    x = job.h_w_m2k * math.sqrt(job.diffusivity_m2_s * since_s) / job.k_w_mk
    share = math.exp(x * x) * math.erfc(x) if x < FAR else (1.0 - 0.5 / (x * x)) / (x * math.sqrt(math.pi))
    return job.h_w_m2k * share


def pan_temperatures(
    job: LayDown, faces: Sequence[tuple[float, float]], end_s: float, start_c: float | None = None, start_s: float = 0.0
) -> tuple[FloatArray, FloatArray]:
    """Times and the pan's temperature from `start_s` to `end_s`. `faces`: (laid, taken up) of each face, s."""
    t = np.arange(start_s, max(end_s, start_s) + STEP_S / 2, STEP_S)
    temperatures = np.empty(len(t))
    celsius = job.set_c if start_c is None else start_c
    for i, now in enumerate(t):
        temperatures[i] = celsius
        taken = sum(
            conductance(job, max(now - laid, STEP_S / 2)) * job.piece_m2 * (celsius - job.piece_c)
            for laid, up in faces
            if laid <= now < up
        )
        lost = job.loss_w_k * (celsius - job.ambient_c)
        wanted = lost + taken + job.heat_j_k * (job.set_c - celsius) / HOLDS_WITHIN_S
        celsius += STEP_S * (min(max(wanted, 0.0), job.power_w) - lost - taken) / job.heat_j_k
    return t, temperatures
