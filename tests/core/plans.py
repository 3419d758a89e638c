"""Plans the core's tests share."""

from __future__ import annotations

from typing import Any

from ember.files.plan import Plan, parse_plan

K, RHO, CP = 0.5, 1050.0, 3500.0  # constant properties of a lean meat, for exact checks


def document(stages: list[dict[str, Any]], cut: str = "beef/strip-loin", **piece: Any) -> dict[str, Any]:
    """A plan as JSON; a 30 mm slab from 5 °C unless told otherwise."""
    target = piece.pop("target", None)
    top = {key: piece.pop(key) for key in ("guests", "advisory", "standard", "depth_map") if key in piece}
    found = {"cut": cut, "shape": {"kind": "slab", "thickness_mm": 30}, "start_c": 5, **piece}
    plan = {"format": "open-ember/plan", "version": 1, "name": "t", "piece": found, "stages": stages, **top}
    return plan | ({"target": target} if target else {})


def plan(stages: list[dict[str, Any]], cut: str = "beef/strip-loin", **piece: Any) -> Plan:
    """The same, validated."""
    return parse_plan(document(stages, cut, **piece))


def exact(kind: str, Bi: float, minutes: float, size_mm: float = 40.0, medium_c: float = 80.0) -> Plan:
    """A body of constant properties in a medium with the coefficient that gives this Biot number."""
    shape = {"kind": kind, ("thickness_mm" if kind == "slab" else "diameter_mm"): size_mm}
    h = Bi * K / (size_mm / 2 * 1e-3)
    return plan(
        [{"kind": "medium", "medium_c": medium_c, "h_w_m2k": h, "minutes": minutes}],
        shape=shape,
        start_c=10,
        properties={"k_w_mk": K, "rho_kg_m3": RHO, "cp_j_kgk": CP},
    )
