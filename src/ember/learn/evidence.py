"""The evidence of one finished cook about its size, medium and heat transfer, by its readings and its cut face,
whatever was assumed before.

The cook's posterior around its mode (track.fit) is normal with mean m and covariance V in coordinates with prior N(0,
I). Dividing out the prior leaves the likelihood, normal as well: information V^-1 - I, shift V^-1 m. All other unknowns
of the cook (start, shape, position of the probe) are integrated out under their priors first.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..files.piece import FromMass
from ..files.plan import Plan
from ..files.stages import Bath, Oven, Pan
from ..files.track import Event, ProbeReading
from ..heat.grid import FloatArray
from ..track.estimate import Fitted, Planned, fitted
from ..track.unknowns import MEDIUM, SIZE, SIZE_SHARE, TRANSFER, TRANSFER_LOG
from .face_evidence import FaceSeen, with_face

OF_A_COOK = (SIZE, MEDIUM, TRANSFER)
NAMES = ("size", "medium", "transfer")
LAST_SHARE = 0.1  # of the time up to the pull, over which readings are compared
LEAST_READINGS = 8


@dataclass(frozen=True)
class Evidence:
    """A normal likelihood of (logarithm of the size factor, K hotter than set, logarithm of the transfer factor).

    `information[3, 3]`, `shift[3]` = information @ mean; both relative to the settings, not to the offsets a plan
    assumed (`believed[3]`).
    """

    information: FloatArray
    shift: FloatArray
    believed: FloatArray


@dataclass(frozen=True)
class Watching:
    """A finished cook with its course: its evidence, and the prediction error of a belief. `has_probe`: whether it has
    readings that a belief can be held against; a face alone teaches, but is no test.
    """

    found: Fitted
    evidence: Evidence
    pulled_s: float
    has_probe: bool = True

    def error_k(self, belief: FloatArray) -> float:
        """Measured less predicted towards the pull, K, with this belief [3] (relative to the settings)."""
        fitting = self.found.fitting
        z = np.zeros((1, fitting.unknowns.count))
        z[0, list(OF_A_COOK)] = (belief - self.evidence.believed) / _scales(self.found)
        shown = fitting.readings(z, fitting.temperatures(z))[0]
        data = fitting.data
        last = (data.s <= self.pulled_s) & (data.s >= (1.0 - LAST_SHARE) * self.pulled_s)
        if not last.any():
            last = np.arange(data.count) == np.searchsorted(data.s, self.pulled_s, side="right") - 1
        return float(np.mean((data.celsius - shown)[last]))


def _scales(fit: Fitted) -> FloatArray:
    return np.array([SIZE_SHARE, fit.fitting.unknowns.medium_k[0], TRANSFER_LOG])


def believed_of(plan: Plan) -> FloatArray:
    """The offsets a plan assumes for its piece and pull stage: [log size, K, log transfer]."""
    shape = plan.piece.shape
    size = math.log(shape.size_factor) if isinstance(shape, FromMass) else 0.0
    stage = plan.stages[plan.pull_stage] if plan.pull_stage is not None else None
    medium = stage.offset_k if isinstance(stage, Oven | Bath) else 0.0
    contact = stage.pan.contact if isinstance(stage, Pan) and stage.pan is not None else 1.0
    return np.array([size, medium, math.log(contact)])


def watching(
    plan: Plan, known: Planned, events: Sequence[Event], readings: Sequence[ProbeReading], end_s: float,
    face: FaceSeen | None = None,
) -> Watching | None:  # fmt: skip
    """A finished cook as evidence; None if nothing was pulled, or neither its probe can be trusted nor there is a face.

    `readings`: (s, °C) of one probe, `end_s`: when it ended. `face`: a photograph of the cut face, as read. Raises like
    simulate.
    """
    if plan.pull_stage is None or not (readings or face):
        return None
    last_s = min(end_s, max(s for s, _ in readings) + 1.0) if readings else end_s  # a probe is taken out at the end
    fit = fitted(plan, known, events, readings, last_s, as_told=True, to_teach=True)
    pulled = next((stay.to_s for stay in fit.stays if stay.stage == plan.pull_stage and stay.ended), None)
    has_probe = fit.probe.state == "ok" and len(fit.probe.believed) >= LEAST_READINGS
    if has_probe is False and face is not None:
        fit = fitted(plan, known, events, [], end_s, as_told=True, to_teach=True)  # an unreliable probe says nothing
    if pulled is None or not (has_probe or face):
        return None
    z, covariance = _posterior(fit, face)
    keep = list(OF_A_COOK)
    inverse = np.linalg.inv(covariance[np.ix_(keep, keep)])
    information = _nowhere_negative(inverse - np.eye(len(keep)))
    shift = inverse @ z[keep]
    scale = _scales(fit)
    information = information / scale[:, None] / scale[None, :]
    believed = believed_of(plan)
    return Watching(fit, Evidence(information, shift / scale + information @ believed, believed), pulled, has_probe)


def _posterior(fit: Fitted, face: FaceSeen | None) -> tuple[FloatArray, FloatArray]:
    """Mode and covariance of the cook's own unknowns, the probe's integrated out, with the face if there is one."""
    unknowns = fit.fitting.unknowns
    own = unknowns.of_members
    z, covariance = fit.fit.z[:own], fit.fit.covariance[:own, :own]
    return (z, covariance) if face is None else with_face(fit.course, unknowns, z, covariance, face)


def _nowhere_negative(information: FloatArray) -> FloatArray:
    values, axes = np.linalg.eigh(0.5 * (information + information.T))
    return np.asarray((axes * np.maximum(values, 0.0)) @ axes.T)
