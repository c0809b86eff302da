"""Imports Numba without BLAS. It looks for that by importing much of SciPy, which takes long at each start, and no compiled
function of ours uses it. Where SciPy is there already it may look."""

from __future__ import annotations

import sys
from importlib import import_module
from typing import Any

HIDDEN = ("scipy", "scipy.linalg", "scipy.linalg.cython_blas")

if "scipy" not in sys.modules and "numba" not in sys.modules:
    nothing: Any = dict.fromkeys(HIDDEN)  # None there is an ImportError, which Numba expects
    sys.modules.update(nothing)
    try:
        import_module("numba")
    finally:
        for name in HIDDEN:
            sys.modules.pop(name, None)

njit: Any = import_module("numba").njit
