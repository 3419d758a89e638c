"""Conductivity and heat capacity of the food as it is now, compiled."""

from __future__ import annotations

from .compiled import compiled
from .frost import with_ice

DRY_K = 0.15  # W/mK of a dry crust (unsure)
# The cubics of the properties are held at the ends of their range.
COLDEST_C, HOTTEST_C = -5.0, 150.0


@compiled
def properties(T, k, c, food, now):
    """Half the resistivity (mK/W: values between two nodes add up) and heat capacity of a cubic metre at every node,
    into `k` and `c`. Layers within one cell are in series.
    """
    k0, k1, k2, k3 = food.k[0, 0], food.k[0, 1], food.k[0, 2], food.k[0, 3]
    c0, c1, c2, c3 = food.c[0, 0], food.c[0, 1], food.c[0, 2], food.c[0, 3]
    for i in range(T.size):
        t = T[i]
        t = t if t < HOTTEST_C else HOTTEST_C
        t = t if t > COLDEST_C else COLDEST_C
        k[i] = k0 + t * (k1 + t * (k2 + t * k3))
        c[i] = c0 + t * (c1 + t * (c2 + t * c3))
    for layer in range(1, food.k.shape[0]):
        # Coefficients in names of their own: compiled, a loop that looks them up gathers them anew for every node.
        a0, a1, a2, a3 = food.k[layer, 0], food.k[layer, 1], food.k[layer, 2], food.k[layer, 3]
        b0, b1, b2, b3 = food.c[layer, 0], food.c[layer, 1], food.c[layer, 2], food.c[layer, 3]
        for i in range(T.size):
            share = food.share[layer, i]
            if share > 0.0:
                t = min(max(T[i], COLDEST_C), HOTTEST_C)
                other = a0 + t * (a1 + t * (a2 + t * a3))
                k[i] = k[i] * other / (other + share * (k[i] - other))
                c[i] += share * (b0 + t * (b1 + t * (b2 + t * b3)) - c[i])
    if food.ice.size > 0:
        with_ice(T, k, c, food, now)
    for i in range(T.size):
        k[i] = 0.5 / (k[i] * now.k_left[i] + now.dry[i] * (DRY_K - k[i] * now.k_left[i]))
        c[i] -= now.c_gone[i]
