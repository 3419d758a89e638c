"""How the solver is compiled: cached on disk, without the interpreter's lock, dividing as NumPy does.

Python's own division tests for zero every time, which prevents vectorised loops.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import sha256
from pathlib import Path

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
    import numba
    import numba.np.arraymath
    import numba.np.linalg
    from numba import njit


def _state_of_the_sources() -> str:
    """A name for the state of the compiled sources: the cache on disk does not notice a change in a file that a
    function calls into.
    """
    seen = sha256()
    for path in sorted(Path(__file__).parent.glob("*.py")):
        text = path.read_bytes()
        if b"@compiled" in text or path.name in ("terms.py", "compiled.py"):
            seen.update(text)
    return seen.hexdigest()[:16]


if _kept_in := getattr(numba.config, "CACHE_DIR", ""):
    numba.config.CACHE_DIR = str(Path(_kept_in) / _state_of_the_sources())  # type: ignore[attr-defined]

compiled = njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
# Opened up where it is called: a call that hands over records of many arrays costs more than their arithmetic.
opened = njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"}, inline="always")
