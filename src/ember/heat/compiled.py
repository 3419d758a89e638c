"""How the solver is compiled: kept on disk, without the interpreter's lock, dividing as numpy does.

Python's own division looks for a zero every time, which keeps loops from using the processor's wide registers.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager

# Numba loads these for matrix products and for calls to C; there are neither here, and they take a third of a second.
NOT_NEEDED = ("scipy.linalg", "cffi")


@contextmanager
def _without(names: tuple[str, ...]) -> Iterator[None]:
    hidden = [name for name in names if name not in sys.modules]
    for name in hidden:
        sys.modules[name] = None  # type: ignore[assignment]
    try:
        yield
    finally:
        for name in hidden:
            del sys.modules[name]


with _without(NOT_NEEDED):
    import numba.np.arraymath
    import numba.np.linalg  # noqa: F401
    from numba import njit

compiled = njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
