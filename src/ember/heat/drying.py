"""A wet face in air, compiled: its juice evaporates first, then the food's own water, which diffuses.

As long as juice reaches the wet share of a face it stays as wet as it was; then the outermost cells dry, and the face
loses what diffuses to them.
"""

from __future__ import annotations

from .compiled import compiled, opened
from .moisture import BOUND_WATER, RESIDUAL_WATER
from .surface import face_flux
from .terms import H_CONTACT, HC, JUICE, WETNESS

LEAST_ROOM = 1e-3  # kg/m³, so that a cell without water still has a dryness
FLOODED = 1e3  # kg/m²s: so much holds a face as wet as it can be
DRIES_FINER = 4.0  # times as fine as a crust: a face that dries steers the heat of a whole roast


@compiled
def evaporates(face):
    """Whether this face evaporates water to air."""
    return face[WETNESS] > 0.0 and face[HC] > 0.0


@compiled
def clings(face):
    """Share of its juice that a face keeps for its crust: on a pan the rest runs out beside it."""
    return face[JUICE] if face[H_CONTACT] > 0.0 and not evaporates(face) else 1.0


@compiled
def _spread(T, sink, hold, h, room, boiled, dry, lead, body, food, now):
    """One implicit step of the dryness of each cell, 0 to 1 of its `room`, into `dry`.

    The faces lose `sink` kg/m²s, less `hold` times their dryness. Water moves down the gradient of dryness, through the
    smaller room of two cells, so that no cell gives more than it holds; steam keeps it out of a boiling cell.
    """
    n = boiled.size
    onward = 0.0
    for i in range(n):
        diagonal = body.volume[i] * room[i]
        right = body.volume[i] * boiled[i]
        back = onward
        diagonal += back
        onward = 0.0
        if i < n - 1 and max(T[i], T[i + 1]) <= now.boil_c:
            through = 0.5 * (now.boil[i] + now.boil[i + 1]) * min(room[i], room[i + 1])
            onward = h * food.water_d * body.conduct[i] * through
            diagonal += onward
        for side in range(2):
            if i == side * (n - 1):
                right += h * body.face_area[side] * sink[side]
                diagonal += h * body.face_area[side] * hold[side]
        if i > 0:
            diagonal -= back * lead[i - 1]
            right += back * dry[i - 1]
        lead[i] = onward / diagonal
        dry[i] = right / diagonal
    for i in range(n - 2, -1, -1):
        dry[i] += lead[i] * dry[i + 1]


# One function, however long: numba shares no arrays on the stack between calls, and this is the innermost loop.
@opened
def dry_off(T, h, around_c, supply, pressed, boiled, work, body, food, faces, now, wet, off, drifts):
    """Evaporation from the faces in a step: their juice first, then their own water, which diffuses from within.

    `supply[side]`, kg/m²: juice that reaches each face; the rest is left for the front of a hot crust. `wet[side]`: the
    face's wetness before. `off[side]` becomes the evaporation, kg/m²s, `drifts[side]` the rate of change of the
    wetness, 1/s. `work[7, node]` is scratch. Returns the largest change of a face's hold on its last water, which
    limits the next step.
    """
    n = T.size
    room = work[0]
    dry = work[1]
    for i in range(n):
        room[i] = max(food.water[i] - pressed[i] - RESIDUAL_WATER * food.rho[i], LEAST_ROOM)
    full, juice, sink, hold = work[3], work[4], work[5], work[6]
    for side in range(2):
        full[side] = juice[side] = sink[side] = hold[side] = 0.0
        off[side] = 0.0
        drifts[side] = 0.0
        i = side * (n - 1)
        if body.face_area[side] > 0.0 and evaporates(faces[side]):
            full[side] = face_flux(faces[side], T[i], 1.0, around_c)[1]
            off[side] = full[side] if full[side] < 0.0 else 0.0
            full[side] = full[side] if full[side] > 0.0 else 0.0
            juice[side] = faces[side, JUICE] * supply[side] / (h * body.face_area[side])
            supply[side] = 0.0
            # What a face gives off when nothing of it has dried: less than it could where juice has left it little.
            most = full[side] * min(room[i] / (BOUND_WATER * food.rho[i]), 1.0)
            if T[i] > now.boil_c:  # what is more wets the front inside
                supply[side] = max(juice[side] - most, 0.0) * h * body.face_area[side]
                juice[side] = min(juice[side], most)
            sink[side] = most - juice[side]
    _spread(T, sink, hold, h, room, boiled, dry, work[2], body, food, now)
    again = False
    for side in range(2):
        i = side * (n - 1)
        last = BOUND_WATER * food.rho[i]
        if full[side] <= 0.0:
            continue
        if dry[i] < 0.0:  # as wet as it can be: the rest of its juice drips
            again = True
            hold[side] = FLOODED
            sink[side] = 0.0
        elif room[i] * (1.0 - dry[i]) < last:
            again = True
            hold[side] = full[side] * room[i] / last
            sink[side] = hold[side] - juice[side]
    if again:
        _spread(T, sink, hold, h, room, boiled, dry, work[2], body, food, now)
    change = 0.0
    for side in range(2):
        if full[side] > 0.0:
            i = side * (n - 1)
            last = BOUND_WATER * food.rho[i]
            left = room[i] * (1.0 - dry[i]) / last
            dried = abs(room[i] * dry[i] - boiled[i]) / last / max(left, 1.0) if room[i] > LEAST_ROOM else 0.0
            left = min(max(left, 0.0), 1.0)
            off[side] = full[side] * left
            change = max(change, DRIES_FINER * max(abs(left - wet[side]), dried))
            drifts[side] = (left - wet[side]) / h
    for i in range(n):
        boiled[i] = min(max(room[i] * dry[i], 0.0), room[i]) if room[i] > LEAST_ROOM else boiled[i]
    return change
