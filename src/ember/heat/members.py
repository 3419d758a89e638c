"""Many members of one chain in compiled code: each with its own size, start, media and heat transfer. Only the core is
kept, at given times.
"""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .kernel import run
from .terms import (
    CONTACT_C,
    EMISSIVITY,
    H_CONTACT,
    H_DRY,
    HC,
    MEDIUM_C,
    RADIANT_C,
    STOP_TIME,
    Around,
    Body,
    H,
    Stop,
)


@compiled
def _varied(faces, medium_k, transfer):
    """Conditions of one member."""
    changed = faces.copy()
    for side in range(2):
        for column in (MEDIUM_C, RADIANT_C, CONTACT_C):
            changed[side, column] += medium_k
        for column in (H, HC, EMISSIVITY, H_CONTACT, H_DRY):
            changed[side, column] *= transfer
    return changed


@compiled
def run_members(
    size, start_c, medium_k, transfer, body, food, faces, arounds, around_start_c, boil_c, duration_s, heats,
    tolerance_k, max_steps, at_s, core_c,
):  # fmt: skip
    """Follow every member through all segments; `core_c[member, time]` is filled at the times `at_s` (ascending).

    By member: `size` (a factor on the grid), `start_c`, `medium_k` and `transfer` (a factor), which count in the
    segments that `heats`. By segment: `faces`, `arounds[5]` (terms.Around), `around_start_c` (not a number: as it was
    left), `boil_c`, `duration_s`.
    """
    nodes = body.volume.size
    for m in range(size.size):
        own = Body(body.volume * size[m], body.conduct / size[m], body.face_area, body.core)
        state = np.zeros((4, nodes))
        state[:2] = start_c[m]
        around_c = 20.0
        begins = 0.0
        j = 0
        for s in range(duration_s.size):
            conditions = _varied(faces[s], medium_k[m], transfer[m]) if heats[s] else faces[s]
            a = arounds[s]
            if not np.isnan(around_start_c[s]):
                around_c = around_start_c[s]
            lasts = duration_s[s]
            t, history, sums, _ = run(
                state, around_c, own, food, conditions, Around(a[0], a[1], a[2], a[3], a[4]), boil_c[s],
                Stop(lasts, STOP_TIME, 0.0, True), tolerance_k, max(30.0, min(lasts / 12.0, 7200.0)), max_steps,
            )  # fmt: skip
            last = t.size - 1
            row = 0
            final = s == duration_s.size - 1
            while j < at_s.size and (at_s[j] < begins + lasts or final):
                local = min(at_s[j] - begins, t[last])
                while row < last - 1 and t[row + 1] <= local:
                    row += 1
                h = t[row + 1] - t[row]
                x = (local - t[row]) / h
                before, after = history[row, body.core], history[row + 1, body.core]
                up, down = history[row, nodes + body.core] * h, history[row + 1, nodes + body.core] * h
                core_c[m, j] = (
                    before * (1 + 2 * x) * (1 - x) ** 2 + up * x * (1 - x) ** 2
                    + after * x**2 * (3 - 2 * x) + down * x**2 * (x - 1)
                )  # fmt: skip
                j += 1
            state[0] = history[last, :nodes]
            state[1] = history[last, 2 * nodes : 3 * nodes]
            state[2] = history[last, 3 * nodes : 4 * nodes]
            state[3] = history[last, 4 * nodes :]
            around_c = sums[last, 5]
            begins += lasts
