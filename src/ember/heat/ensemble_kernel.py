"""Compiled kernel of an ensemble: each member has its own piece, media and heat transfer."""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .kernel import run_rimmed
from .terms import (
    CONTACT_C,
    EMISSIVITY,
    H_CONTACT,
    H_DRY,
    HC,
    MEDIUM_C,
    RADIANT_C,
    RIM_NODES,
    STOP_CORE,
    STOP_TIME,
    Around,
    Body,
    H,
    Rim,
    Stop,
)

# What a stretch is to the wanted core: nothing; looked at for it; gone on with until it is there; after it.
APART, LOOKED, ONWARD, AFTER = 0, 1, 2, 3
CROSSED_S, PEAK_C, END_S = 0, 1, 2
BETWEEN_ROWS = 4


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
def _between(history, t, index, x, node, nodes):
    """A node between two rows (x from 0 to 1), by their slopes."""
    h = t[index + 1] - t[index]
    before, after = history[index, node], history[index + 1, node]
    step = after - before
    up, down = history[index, nodes + node] * h, history[index + 1, nodes + node] * h
    if abs(up) > 3.0 * abs(step) + 0.5:  # the outermost cells answer in hundredths of a second
        up = step
    if abs(down) > 3.0 * abs(step) + 0.5:
        down = step
    return (
        before * (1 + 2 * x) * (1 - x) ** 2 + up * x * (1 - x) ** 2
        + after * x**2 * (3 - 2 * x) + down * x**2 * (x - 1)
    )  # fmt: skip


# One function, however long: numba shares no arrays on the stack between calls, and this is the innermost loop.
@compiled
def follow_members(  # noqa: C901
    size, shape, start_c, medium_k, transfer, body, food, rim, faces, arounds, rims, around_start_c, boil_c, duration_s,
    group, phase, kappa, want_c, rising, tolerance_k, max_steps, at_s, watched, found_c, ends,
):  # fmt: skip
    """Simulate every member through all stretches. Fills `found_c[member, time, watched]`, temperatures of the
    `watched` nodes at the ascending times `at_s`, and `ends[member, 3]`: when the core reached `want_c` (NaN if it did
    not), its peak, and the end of the course.

    By member: `size` (factor on the grid), `shape` (factor on conduction between cells), `start_c`, and by group
    `medium_k[member, group]` and `transfer[member, group]` (factor). By stretch: `faces`, `arounds[5]` (terms.Around),
    `rims[4]` (area, h, medium and share of the body around of terms.Rim; the rest from `rim`), `around_start_c` (NaN:
    continued), `boil_c`, `duration_s`, `group`, `phase`, `kappa` (factor on all heat flow).
    """
    nodes = body.volume.size
    core = body.core
    for m in range(size.size):
        own = Body(body.volume * size[m], body.conduct * (shape[m] / size[m]), body.face_area, core)
        state = np.zeros((4, nodes))
        state[:2] = start_c[m]
        around_c = 20.0
        across = np.full(RIM_NODES, start_c[m])
        begins = 0.0
        crossed = np.nan
        peak = start_c[m]
        j = 0
        for s in range(duration_s.size):
            kind = phase[s]
            if kind == ONWARD and not np.isnan(crossed):
                continue
            g = group[s]
            conditions = _varied(faces[s], medium_k[m, g], transfer[m, g])
            a = arounds[s]
            if not np.isnan(around_start_c[s]):
                around_c = around_start_c[s] + medium_k[m, g]
            lasts = duration_s[s]
            here = Body(own.volume, own.conduct * kappa[s], own.face_area * kappa[s], core)
            stop = Stop(lasts, STOP_CORE if kind == ONWARD else STOP_TIME, want_c, rising)
            r = rims[s]
            own_rim = Rim(
                rim.volume * size[m], rim.conduct * (shape[m] / size[m]), r[0], rim.half_m * size[m],
                r[1] * transfer[m, g], r[2] + medium_k[m, g], r[3],
            )  # fmt: skip
            t, history, sums, _ = run_rimmed(
                state, around_c, here, food, conditions, Around(a[0], a[1], a[2], a[3] + medium_k[m, g], a[4]),
                own_rim, across, boil_c[s], stop, tolerance_k, max(30.0, min(lasts / 12.0, 7200.0)), max_steps,
            )  # fmt: skip
            last = t.size - 1
            if not np.isfinite(history[last, core]):  # too violent to follow: it stays as it was
                break
            index = 0
            while last > 0 and j < at_s.size and at_s[j] <= begins + t[last] + 1e-9:
                local = at_s[j] - begins
                while index < last - 1 and t[index + 1] <= local:
                    index += 1
                x = min(max((local - t[index]) / (t[index + 1] - t[index]), 0.0), 1.0)
                for w in range(watched.size):
                    found_c[m, j, w] = _between(history, t, index, x, watched[w], nodes)
                j += 1
            if kind != APART:
                for i in range(last):
                    for part in range(1, BETWEEN_ROWS + 1):
                        peak = max(peak, _between(history, t, i, part / BETWEEN_ROWS, core, nodes))
                if np.isnan(crossed):
                    if history[0, core] >= want_c if rising else history[0, core] <= want_c:
                        crossed = begins
                    for i in range(last):
                        before, after = history[i, core], history[i + 1, core]
                        there = after >= want_c - 1e-3 if rising else after <= want_c + 1e-3
                        if np.isnan(crossed) and there:
                            share = (want_c - before) / (after - before) if after != before else 1.0
                            crossed = begins + t[i] + min(max(share, 0.0), 1.0) * (t[i + 1] - t[i])
            state[0] = history[last, :nodes]
            state[1] = history[last, 2 * nodes : 3 * nodes]
            state[2] = history[last, 3 * nodes : 4 * nodes]
            state[3] = history[last, 4 * nodes :]
            around_c = sums[last, 5]
            across = sums[last, 7:].copy()
            begins += t[last]
        while j < at_s.size:
            for w in range(watched.size):
                found_c[m, j, w] = state[0, watched[w]]
            j += 1
        ends[m, CROSSED_S] = crossed
        ends[m, PEAK_C] = peak
        ends[m, END_S] = begins
