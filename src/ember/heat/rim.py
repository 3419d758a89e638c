"""The line across a flat piece, compiled: heat that enters by its rim, as felt along its line through the thickness.

Two lines cross at the core. The one through the thickness is the solver's own grid; the one across lies in the middle
plane, from the core to the rim, in a body whose area grows as r^s: s = 0 where the piece is much longer than wide,
1 where it is round. Under one medium all around the temperature is a product, T - T_m = Z(z, t) W(r, t) (Carslaw & Jaeger
1959, section 1.15), so that what one line gives the core reaches every place of the other in proportion to how far that
place still is from the medium:

    ∂T/∂t(z) = [through] + a ∇²Y(0) (T_m - T(z))/(T_m - T_core)
    ∂Y/∂t(r) = a ∇²Y(r) + [through at the core] (T_m - Y(r))/(T_m - T_core)          Y(0) = T_core

Elsewhere (a pan, a rest) T_m is what is around the rim. One implicit Euler step of the line across follows each step of
the solver.
"""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .surface import face_flux

PARTS = 4  # steps of the line across in one of the solver
LEAST_GAP_K = 2.0  # nearer to its medium than this all places count alike
ABOUT_K = 10.0  # on both sides of a surface's temperature: the film of a face in air
FOLLOWED_FROM_C = -100.0  # a line across that has not begun stands below


@compiled
def begin(rim_start, core_c):
    """The line across: as it was left, or all as warm as the core."""
    across = rim_start.copy()
    if across[0] < FOLLOWED_FROM_C:
        across[:] = core_c
    return across


@compiled
def around_rim(rim, face, wet, around_c, rim_c):
    """Film W/m²K and temperature of what is around a rim of `rim_c`: its own, or that of the top `face`."""
    if rim.h > 0.0:
        return rim.h, rim.medium_c + rim.of_around * (around_c - rim.medium_c)
    into = face_flux(face, rim_c, wet, around_c)[0]
    film = (into - face_flux(face, rim_c + ABOUT_K, wet, around_c)[0]) / ABOUT_K
    film = max(film, 1.0)
    return film, rim_c + into / film


@compiled
def share_of(celsius, core_c, medium_c):
    """What a place feels of the other line's heat to the core, as a share."""
    gap = medium_c - core_c
    if abs(gap) < LEAST_GAP_K:
        return 1.0
    return min(max((medium_c - celsius) / gap, 0.0), 1.0)


@compiled
def _factor(rim, k, rho_c, film, h, work):
    """Factors of one implicit Euler step of h of the line across, with its core known, into `work`."""
    m = rim.volume.size
    c = rho_c / h
    for j in range(1, m):
        left = k * rim.conduct[j - 1]
        onward = k * rim.conduct[j] if j < m - 1 else rim.area * film
        diagonal = c * rim.volume[j] + left + onward
        if j > 1:
            diagonal -= left * work[0, j - 1]
        work[0, j] = k * rim.conduct[j] / diagonal if j < m - 1 else 0.0
        work[1, j] = 1.0 / diagonal


@compiled
def _euler(rim, k, rho_c, line, core_c, source, medium_w, h, work):
    """One factored step of `line` in place: its core at `core_c`, `source[j]` K given to each place meanwhile."""
    m = line.size
    c = rho_c / h
    for j in range(1, m):
        right = c * rim.volume[j] * (line[j] + source[j])
        if j == 1:
            right += k * rim.conduct[0] * core_c
        else:
            right += k * rim.conduct[j - 1] * work[2, j - 1]
        if j == m - 1:
            right += medium_w
        work[2, j] = right * work[1, j]
    line[0] = core_c
    line[m - 1] = work[2, m - 1]
    for j in range(m - 2, 0, -1):
        line[j] = work[2, j] + work[0, j] * line[j + 1]


@compiled
def reaches(rim, k, rho_c, across, core_c, film, medium_c, h, work):
    """What the line across gives a cubic metre at the core over a step of h, W/m³, and by how much less for each kelvin
    that the core warms meanwhile. `work[7, m]` is scratch.

    Its answers to a core that warms evenly by ΔT and to heat that comes through the thickness are worked out first, and
    of ΔT what the line itself gives is not come through: so the coupling is implicit.
    """
    m = across.size
    part_s = h / PARTS
    _factor(rim, k, rho_c, film, part_s, work)
    held, answer, through, source = work[3], work[4], work[5], work[6]
    for j in range(m):
        held[j] = across[j]
        answer[j] = through[j] = 0.0
        source[j] = share_of(across[j], core_c, medium_c) / PARTS
    nothing = np.zeros(m)
    beside, answers, throughs = 0.5 * held[1], 0.0, 0.0
    for part in range(1, PARTS + 1):
        _euler(rim, k, rho_c, held, core_c, nothing, rim.area * film * medium_c, part_s, work)
        _euler(rim, k, rho_c, answer, part / PARTS, nothing, 0.0, part_s, work)
        _euler(rim, k, rho_c, through, 0.0, source, 0.0, part_s, work)
        weight = 1.0 if part < PARTS else 0.5
        beside += weight * held[1]
        answers += weight * answer[1]
        throughs += weight * through[1]
    beside, answers, throughs = beside / PARTS, answers / PARTS, throughs / PARTS
    gives = k * rim.conduct[0] / rim.volume[0]
    whole = gives / (1.0 + gives * h / rho_c * throughs)
    return whole * (beside - core_c), whole * (1.0 - 2.0 * (answers + throughs))


@compiled
def step_across(rim, k, rho_c, across, core_c, through_k, film, medium_c, h, work):
    """One step of the line across in place: its core at `core_c` at the step's end, of which `through_k` came through
    the thickness.
    """
    part_s = h / PARTS
    _factor(rim, k, rho_c, film, part_s, work)
    before_c = across[0]
    source = work[6]
    for part in range(1, PARTS + 1):
        core_now_c = before_c + (core_c - before_c) * part / PARTS
        for j in range(across.size):
            source[j] = through_k / PARTS * share_of(across[j], core_now_c, medium_c)
        _euler(rim, k, rho_c, across, core_now_c, source, rim.area * film * medium_c, part_s, work)
