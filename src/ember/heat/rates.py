"""dT/dt of every node of one grid and of the body around it, and their Jacobian. Compiled."""

from __future__ import annotations

from .compiled import compiled, opened
from .moisture import BOIL_RATE, above_boiling
from .properties import properties
from .rim import FOLLOWED, LESS, reaches
from .surface import face_flux, from_around
from .terms import BAND_K


@compiled
def burner(around, around_c):
    """Power of the burner, W/m², and its slope: the empty body's loss at its setting, and more the colder it is."""
    wanted = around.loss_w_m2k * (around.set_c - around.ambient_c)
    wanted += around.power_w_m2 * (around.set_c - around_c) / BAND_K
    if wanted >= around.power_w_m2:
        return around.power_w_m2, 0.0
    if wanted <= 0.0:
        return 0.0, 0.0
    return wanted, -around.power_w_m2 / BAND_K


@opened
def rate_of(T, around_c, out, k, c, body, food, faces, now):
    """dT/dt at every node into `out`, K/s; returns that of the body around. Leaves the properties in `k` and `c`."""
    n = T.size
    properties(T, k, c, food, now)
    flux_left = 0.0
    if body.face_area[0] > 0.0:
        flux_left = body.face_area[0] * face_flux(faces[0], T[0], now.wet[0], around_c)[0]
    for i in range(n - 1):
        flux = body.conduct[i] * (T[i] - T[i + 1]) / (k[i] + k[i + 1])
        out[i] = flux_left - flux
        flux_left = flux
    out[n - 1] = flux_left + body.face_area[1] * face_flux(faces[1], T[n - 1], now.wet[1], around_c)[0]
    if now.rim[FOLLOWED] > 0.0:
        for i in range(n):
            out[i] += body.volume[i] * reaches(now, T, i, body.core)
    for i in range(n):
        out[i] /= c[i] * body.volume[i]
    for i in range(n):
        if T[i] > now.boil_c:
            out[i] -= BOIL_RATE * now.boil[i] * above_boiling(T[i], now.boil_c)[0]
    around = now.around
    if around.heat_j_m2k <= 0.0:
        return 0.0
    given = around.loss_w_m2k * (around_c - around.ambient_c) - burner(around, around_c)[0]
    for side in range(2):
        if body.face_area[side] > 0.0:
            given += body.face_area[side] * from_around(faces[side], T[side * (n - 1)], now.wet[side], around_c)[0]
    return -given / around.heat_j_m2k


@compiled
def jacobian(T, around_c, low, mid, up, border, k, c, body, faces, now):
    """Tridiagonal Jacobian of `rate_of` with the properties it left in `k` and `c`.

    The slopes of k and c are neglected, which the method tolerates. `border`: derivatives of the two face nodes by the
    body around, of the body around by the two face nodes, and by itself.
    """
    n = T.size
    for i in range(n):
        mid[i] = 0.0
        if T[i] > now.boil_c:
            mid[i] = -BOIL_RATE * now.boil[i] * above_boiling(T[i], now.boil_c)[1]
    for i in range(n):
        mid[i] -= now.rim[LESS] / c[i]
        c[i] *= body.volume[i]
    for i in range(1, n):
        g = body.conduct[i - 1] / (k[i - 1] + k[i])
        up[i - 1] = g / c[i - 1]
        low[i] = g / c[i]
    for i in range(n - 1):
        mid[i] -= up[i]
    for i in range(1, n):
        mid[i] -= low[i]
    border[:] = 0.0
    around = now.around
    for side in range(2):
        area = body.face_area[side]
        if area > 0.0:
            i = side * (n - 1)
            slope = face_flux(faces[side], T[i] + 0.01, now.wet[side], around_c)[0]
            slope -= face_flux(faces[side], T[i] - 0.01, now.wet[side], around_c)[0]
            mid[i] += area * slope / 0.02 / c[i]
            if around.heat_j_m2k > 0.0:
                h = from_around(faces[side], T[i], now.wet[side], around_c)[1]
                border[side] = area * h / c[i]
                border[2 + side] = area * h / around.heat_j_m2k
                border[4] -= area * h / around.heat_j_m2k
    if around.heat_j_m2k > 0.0:
        border[4] += (burner(around, around_c)[1] - around.loss_w_m2k) / around.heat_j_m2k


@compiled
def rate_once(T, around_c, out, k, c, body, food, faces, now):
    """The same outside of a step, where it is rare: what is opened up takes long to compile."""
    return rate_of(T, around_c, out, k, c, body, food, faces, now)
