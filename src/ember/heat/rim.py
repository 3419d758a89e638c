"""The line across a flat piece, compiled: heat that enters by its rim, as felt along its line through the thickness.

Two lines cross at the core. The one through the thickness is the solver's own grid; the one across lies in the middle
plane, from the core to the rim, in a body whose area grows as r^s: s = 0 where the piece is much longer than wide,
1 where it is round. Under one medium all around the temperature is a product, T - T_m = Z(z, t) W(r, t) (Carslaw &
Jaeger 1959, section 1.15), so that what one line gives the core reaches every place of the other in proportion to how
far that place still is from the medium:

    ∂T/∂t(z) = [through] + a ∇²Y(0) (T_m - T(z))/(T_m - T_core)
    ∂Y/∂t(r) = a ∇²Y(r) + [through at the core] (T_m - Y(r))/(T_m - T_core)          Y(0) = T_core

Elsewhere (a pan, a rest) T_m is what is around the rim. The line across takes its own short steps within each of the
solver's; what it will give the core is worked out before, as a straight line in what the core gains meanwhile, so that
both are solved together. Against exact series of bars and discs within 1 % of the time; against sections, with water,
within 4 % and 1.5 K of the peak (2.5 where less than twice as wide as thick); tests/core/test_rim.py.
"""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .properties import COLDEST_C, HOTTEST_C
from .surface import face_flux
from .terms import FILM as BY_FILM
from .terms import FROM_AROUND
from .terms import MEDIUM_C as AIR_C

# Values of `now.rim` (moisture.Now).
GIVES, LESS, FOLLOWED, AROUND_C, FILM, FLESH_K, FLESH_C, WARMS_K_S, MEDIUM_C, THROUGH_K = range(10)
PARTS = 2  # of a step of the solver's: so many the line across takes
COLDER_THAN_ANY_C = -300.0  # a line across that has not begun
STEP = 0.05  # of the time R²/a that heat takes along the line across
AT_REST_K = 0.02  # of its mean, over such a step
ANY_S = 1e9
STILL_GAINS = 0.76  # fitted to the peaks of pieces in sections
LEAST_FILM = 1.0  # W/m²K
IMPLICIT = 0.55  # a little more than half: second order, and what is stiff dies out
LEAST_GAP_K = 0.4  # nearer to its medium than this all places count alike
NEAR_K, FAR_K = 0.1, 10.0
COOLER_K = 20.0  # assumed: than a core that is still colder than the air in which its hot rim cools


@compiled
def cubic(p, t):
    return p[0] + t * (p[1] + t * (p[2] + t * p[3]))


@compiled
def begin(rim_start, core_c):
    """The line across: as it was left, or all as warm as the core."""
    across = rim_start.copy()
    if across[0] < COLDER_THAN_ANY_C:
        across[:] = core_c
    return across


@compiled
def around_rim(now, rim, face, around_c, rim_c, core_c):
    """What is around a rim of `rim_c` into `now.rim`: its own, or that of the top `face`. The film is that of the
    face's flux here; the temperature that shares are measured by, of its flux over some degrees, which is steadier.
    """
    if rim.h > 0.0:
        now.rim[MEDIUM_C] = now.rim[AROUND_C] = rim.medium_c + rim.of_around * (around_c - rim.medium_c)
        now.rim[FILM] = rim.h
        return
    into = face_flux(face, rim_c, now.wet[1], around_c)[0]
    below = face_flux(face, rim_c - NEAR_K, now.wet[1], around_c)[0]
    above = face_flux(face, rim_c + NEAR_K, now.wet[1], around_c)[0]
    far = face_flux(face, rim_c + FAR_K, now.wet[1], around_c)[0]
    now.rim[FILM] = max(0.5 * (below - above) / NEAR_K, LEAST_FILM)
    now.rim[MEDIUM_C] = rim_c + into / now.rim[FILM]
    if into < 0.0:
        air_c = around_c if face[FROM_AROUND] == BY_FILM else face[AIR_C]
        now.rim[AROUND_C] = air_c if core_c > air_c + LEAST_GAP_K else core_c - COOLER_K
    else:
        now.rim[AROUND_C] = rim_c + into / max((into - far) / FAR_K, LEAST_FILM)


@compiled
def share_of(celsius, core_c, medium_c):
    """What a place feels of the other line's heat to the core, as a share."""
    gap = medium_c - core_c
    share = 1.0 + (core_c - celsius) * gap / (gap * gap + LEAST_GAP_K * LEAST_GAP_K)
    return min(max(share, 0.0), 1.0)


@compiled
def _along(now, celsius, core_c, through_k):
    """What a place on the line across feels of the heat through the thickness at the core, as a share: where both cool,
    what is hotter than the core gains less while the core still does.
    """
    if through_k > 0.0 and celsius > core_c > now.rim[AROUND_C]:
        return STILL_GAINS
    return share_of(celsius, core_c, now.rim[AROUND_C])


@compiled
def _factor(now, rim, h, work):
    """Factors of one step of h of the line across, with its core known, into `work`."""
    m = rim.volume.size
    c, k, film = now.rim[FLESH_C] / h, now.rim[FLESH_K], now.rim[FILM]
    for j in range(1, m):
        left = IMPLICIT * k * rim.conduct[j - 1]
        onward = IMPLICIT * (k * rim.conduct[j] if j < m - 1 else rim.area * film)
        diagonal = c * rim.volume[j] + left + onward
        if j > 1:
            diagonal -= left * work[0, j - 1]
        work[0, j] = onward / diagonal if j < m - 1 else 0.0
        work[1, j] = 1.0 / diagonal


@compiled
def _go_on(now, rim, line, core_c, source, medium_c, h, work):
    """One factored step of `line` in place: its core at `core_c`, `source[j]` K given to each place meanwhile."""
    m = line.size
    c, k, film = now.rim[FLESH_C] / h, now.rim[FLESH_K], now.rim[FILM]
    flux_left = k * rim.conduct[0] * (line[0] - line[1])
    for j in range(1, m):
        last = j == m - 1
        flux = rim.area * film * (line[j] - medium_c) if last else k * rim.conduct[j] * (line[j] - line[j + 1])
        right = c * rim.volume[j] * (line[j] + source[j]) + (1.0 - IMPLICIT) * (flux_left - flux)
        flux_left = flux
        right += IMPLICIT * k * rim.conduct[j - 1] * (core_c if j == 1 else work[2, j - 1])
        if last:
            right += IMPLICIT * rim.area * film * medium_c
        work[2, j] = right * work[1, j]
    line[0] = core_c
    line[m - 1] = work[2, m - 1]
    for j in range(m - 2, 0, -1):
        line[j] = work[2, j] + work[0, j] * line[j + 1]


@compiled
def begin_step(now, rim, across, T, food, top, around_c, h):
    """What holds over a step of the solver from T: the surroundings of the rim, and the flesh of the line across as it
    is half-way through.
    """
    around_rim(now, rim, top, around_c, across[across.size - 1], across[0])
    mean_c = min(max(across.mean() + 0.5 * h * now.rim[WARMS_K_S], COLDEST_C), HOTTEST_C)
    now.rim[FOLLOWED] = 1.0
    now.rim[FLESH_K], now.rim[FLESH_C] = cubic(food.k[0], mean_c), cubic(food.c[0], mean_c)
    now.rim_from[:] = T


@compiled
def longest_of(now, rim):
    """The longest step with which the line across is followed well, s; any while it hardly changes."""
    longest_s = STEP * rim.half_m * rim.half_m * now.rim[FLESH_C] / now.rim[FLESH_K]
    return longest_s if abs(now.rim[WARMS_K_S]) * longest_s > AT_REST_K else ANY_S


@compiled
def reaches(now, T, i, core):
    """What the line across gives a cubic metre at node i, W/m³."""
    share = share_of(T[i], T[core], now.rim[AROUND_C])
    return share * (now.rim[GIVES] - now.rim[LESS] * (T[core] - now.rim_from[core]))


@compiled
def foresee(now, rim, across, h, work):
    """Work out what the line across will give the core over a step of h, and by how much less for each kelvin that the
    core gains meanwhile, into `now.rim`. `work[7, m]` is scratch.

    Its answers to a core that warms evenly and to heat that comes through the thickness are worked out first; what the
    line itself gives has not come through.
    """
    m = across.size
    part_s = h / PARTS
    core_c, k, rho_c = across[0], now.rim[FLESH_K], now.rim[FLESH_C]
    _factor(now, rim, part_s, work)
    held, answer, through, source = work[3], work[4], work[5], work[6]
    for j in range(m):
        held[j] = across[j]
        answer[j] = through[j] = 0.0
    nothing = np.zeros(m)
    beside, answers, throughs = 0.5 * held[1], 0.0, 0.0
    for part in range(1, PARTS + 1):
        for j in range(m):
            source[j] = _along(now, held[j], core_c, now.rim[THROUGH_K]) / PARTS
        _go_on(now, rim, held, core_c, nothing, now.rim[MEDIUM_C], part_s, work)
        _go_on(now, rim, answer, part / PARTS, nothing, 0.0, part_s, work)
        _go_on(now, rim, through, 0.0, source, 0.0, part_s, work)
        weight = 1.0 if part < PARTS else 0.5
        beside += weight * held[1]
        answers += weight * answer[1]
        throughs += weight * through[1]
    gives = k * rim.conduct[0] / rim.volume[0]
    gives /= 1.0 + gives * h / rho_c * throughs / PARTS
    now.rim[GIVES] = gives * (beside / PARTS - core_c)
    now.rim[LESS] = gives * (1.0 - 2.0 * (answers + throughs) / PARTS)


@compiled
def end_step(now, rim, across, T, new, body, h, work):
    """The line across after a step from T to `new`, in place; returns the heat it gave, J for a square metre of the
    grid's face.
    """
    core = body.core
    gained = new[core] - T[core]
    came = h * (now.rim[GIVES] - 0.5 * now.rim[LESS] * gained)
    heat = 0.0
    middle_c = 0.5 * (T[core] + new[core])
    for i in range(T.size):
        share = share_of(0.5 * (T[i] + new[i]), middle_c, now.rim[AROUND_C])
        heat += h * body.volume[i] * share * (now.rim[GIVES] - 0.5 * now.rim[LESS] * gained)
    before_c = across.mean()
    through_k = gained - came / now.rim[FLESH_C]
    part_s = h / PARTS
    _factor(now, rim, part_s, work)
    source = work[6]
    for part in range(1, PARTS + 1):
        for j in range(across.size):
            source[j] = through_k / PARTS * _along(now, across[j], across[0], through_k)
        _go_on(now, rim, across, T[core] + gained * part / PARTS, source, now.rim[MEDIUM_C], part_s, work)
    now.rim[THROUGH_K] = through_k
    now.rim[WARMS_K_S] = (across.mean() - before_c) / h
    return heat
