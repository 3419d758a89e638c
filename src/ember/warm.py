"""Compile the kernels ahead of time, so that no click and no command waits for it.

`python -m ember.warm`; with --all the ensembles too. --sections and --without-sections: two processes share the work.
"""

from __future__ import annotations

import sys

import numpy as np

from .files.outline import Outline
from .files.plan import parse_plan
from .heat.ensemble_runner import ensemble, members_of
from .heat.simulate import simulate

_EVERY_KERNEL = {
    "format": "open-ember/plan",
    "version": 1,
    "piece": {"cut": "beef/strip-loin", "shape": {"kind": "slab", "thickness_mm": 20}, "start_c": 5},
    "stages": [{"kind": "oven", "air_c": 180, "until": {"core_c": 30}}, {"kind": "rest", "minutes": 1}],
}


def main(one_body: bool = True, sections: bool = True, with_ensemble: bool = False) -> None:
    """Run a small plan through the compiled code; the compiler caches it on disk."""
    plan = parse_plan(_EVERY_KERNEL)
    if one_body:
        simulate(plan)
    if sections:
        outline = Outline(family="traced", trace=((0.0, 20.0), (30.0, 18.0), (60.0, 8.0)))
        simulate(plan.model_copy(update={"piece": plan.piece.model_copy(update={"outline": outline})}))
    if with_ensemble:
        one = np.ones(1)
        ensemble(plan, members_of(one, 5.0 * one, 0.0 * one, one), np.array([60.0]))


if __name__ == "__main__":
    main("--sections" not in sys.argv, "--without-sections" not in sys.argv, "--all" in sys.argv)
