"""Hearthline: design and verification of integrated circuits at transistor level.

`from hearthline import read_deck, read_bench, read_project, run, Dataset` is all that most scripts need; see `docs/python.md`.
"""

from __future__ import annotations

import os

from hearthline.core.version import VERSION

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
"""Our threads divide the work among them, and our matrices are small. It is said before linear algebra is loaded: to change it
while another thread calculates is not safe."""

__version__ = VERSION

_FRONT = (
    "Bench", "ConvergenceError", "Dataset", "Deck", "HearthlineError", "Result",
    "rare_failure", "read_bench", "read_deck", "read_project", "run",
)  # fmt: skip
__all__ = [*_FRONT, "__version__"]


def __getattr__(name: str) -> object:
    """What stands in `hearthline.front`, loaded when it is first asked for, so that the command starts fast."""
    if name in _FRONT:
        from hearthline import front

        return getattr(front, name)
    raise AttributeError(f"module 'hearthline' has no attribute '{name}'")
