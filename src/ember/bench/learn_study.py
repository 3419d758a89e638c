"""`./ember bench learn`: calibration of many simulated kitchens compared with their true offsets, as JSON."""

from __future__ import annotations

import json
import math
import os
import sys
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np

from ..learn.study import study
from .learn_doors import doors_study
from .learn_kitchens import OFF, a_kitchen, cooks_of

KITCHENS, EACH = 100, 12
Row = dict[str, Any]


def one_kitchen(seed: int, each: int = EACH) -> list[Row]:
    """A row for each offset of one kitchen: truth, estimate, interval, errors on held-out cooks before and after."""
    random = np.random.default_rng(seed)
    kitchen = a_kitchen(random)
    result = study(list(cooks_of(kitchen, each, random)))
    rows = []
    for proposal in result.proposals:
        estimate = proposal.estimate
        truth = kitchen.truth[(estimate.kind, estimate.name)]
        rows.append({
            "kind": estimate.kind, "truth": truth, "value": estimate.value, "half_width": estimate.half_width,
            "inside": estimate.low <= truth <= estimate.high, "cooks": estimate.cooks,
            "before_k": proposal.held_out.before_k, "after_k": proposal.held_out.after_k,
            "may_be_taken": not proposal.why_not,
        })  # fmt: skip
    return rows


def _of_kind(rows: list[Row]) -> Row:
    off = np.array([proposal["value"] - proposal["truth"] for proposal in rows])
    taken = [proposal for proposal in rows if proposal["may_be_taken"]]
    return {
        "things": len(rows), "inside_pct": round(100.0 * sum(proposal["inside"] for proposal in rows) / len(rows), 1),
        "bias": round(float(off.mean()), 3), "rms": round(float(math.sqrt((off**2).mean())), 3),
        "truth_rms": round(float(np.sqrt(np.mean([proposal["truth"] ** 2 for proposal in rows]))), 3),
        "half_width": round(float(np.mean([proposal["half_width"] for proposal in rows])), 3),
        "may_be_taken": len(taken),
        "held_out_before_k": _mean(taken, "before_k"), "held_out_after_k": _mean(taken, "after_k"),
        "held_out_fell_pct": None if not taken else round(
            100.0 * sum(proposal["after_k"] < proposal["before_k"] for proposal in taken) / len(taken), 1
        ),
    }  # fmt: skip


def _mean(rows: list[Row], key: str) -> float | None:
    return round(float(np.mean([proposal[key] for proposal in rows])), 2) if rows else None


def learn_study(kitchens: int = KITCHENS, each: int = EACH) -> Row:
    """All kitchens, by kind of equipment."""
    began = time.perf_counter()
    with ProcessPoolExecutor(os.cpu_count()) as workers:
        rows = [
            proposal
            for kitchen_rows in workers.map(one_kitchen, range(kitchens), [each] * kitchens)
            for proposal in kitchen_rows
        ]
    by_kind: dict[str, list[Row]] = defaultdict(list)
    for proposal in rows:
        by_kind[proposal["kind"]].append(proposal)
    return {
        "kitchens": kitchens, "cooks_of_a_plan": each, "off_one_deviation": OFF,
        "inside_pct": round(100.0 * sum(proposal["inside"] for proposal in rows) / len(rows), 1),
        "by_kind": {kind: _of_kind(kitchen_rows) for kind, kitchen_rows in sorted(by_kind.items())},
        "after_the_door": doors_study(kitchens),
        "seconds": round(time.perf_counter() - began, 1),
    }  # fmt: skip


def main(arguments: list[str]) -> int:
    """Print the study."""
    kitchens = int(arguments[0]) if arguments else KITCHENS
    print(json.dumps(learn_study(kitchens)))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
