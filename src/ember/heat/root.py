"""A bracketed root of a monotone function whose every call costs a simulation.

Illinois false position (Dahlquist & Björck, Numerical Methods, section 6.2). scipy's brentq would do as well, but
importing scipy.optimize costs every command line call most of a second.
"""

from __future__ import annotations

from collections.abc import Callable


def bracketed_root(
    f: Callable[[float], float],
    low: float,
    high: float,
    f_tolerance: float,
    x_tolerance: float,
    calls: int = 60,
) -> float:
    """x in [low, high] with |f(x)| ≤ `f_tolerance`, or within `x_tolerance` of the sign change.

    Raises ValueError when f(low) and f(high) have the same sign.

    >>> round(bracketed_root(lambda x: x * x - 2.0, 0.0, 2.0, 1e-9, 1e-9), 6)
    1.414214
    """
    a, b = low, high
    fa, fb = f(a), f(b)
    if abs(fa) <= f_tolerance:
        return a
    if abs(fb) <= f_tolerance:
        return b
    if (fa > 0) == (fb > 0):
        raise ValueError("no sign change between the ends")
    x = a
    for _ in range(calls):
        x = (a * fb - b * fa) / (fb - fa)
        if not min(a, b) < x < max(a, b):
            x = 0.5 * (a + b)
        fx = f(x)
        if abs(fx) <= f_tolerance or abs(b - a) <= x_tolerance:
            return x
        if (fx > 0) != (fb > 0):
            a, fa = b, fb
        else:
            fa *= 0.5
        b, fb = x, fx
    return x
