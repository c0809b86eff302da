"""Marks the functions that are compiled. Only a process that makes machine code hands them to Numba (`making`); everywhere
else they stay plain Python that nobody calls, and `entry` ones are what Python calls: their machine code, see `entry`."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

from hearthline.core.compiled.codes import INT, SIGN, Form
from hearthline.core.compiled.entry import Entry

COMPILES = os.environ.get(SIGN) == "1"
OPTIONS: dict[str, Any] = {"nogil": True, "error_model": "numpy", "no_cpython_wrapper": True, "no_cfunc_wrapper": True}
"""How every compiled function of the engine is compiled."""
ENTRIES: dict[str, tuple[Any, tuple[Form, ...], Form | None]] = {}
"""By `module:name`: what Numba made of it, what it takes, and gives."""


def inner(function: Callable) -> Any:
    """A function that compiled ones call."""
    if not COMPILES:
        return function
    from hearthline.core.compiled.numba_start import njit

    return njit(**OPTIONS)(function)


def summing(function: Callable) -> Any:
    """The same, whose sums may be taken in any order: several terms at a time."""
    if not COMPILES:
        return function
    from hearthline.core.compiled.numba_start import njit

    return njit(**OPTIONS, fastmath={"reassoc", "nsz", "contract"})(function)


def intrinsic(function: Callable) -> Any:
    """A piece of machine code that compiled functions use."""
    if not COMPILES:
        return function
    from numba.extending import intrinsic as real

    return real(function)


def entry(*codes: Form, gives: Form | None = INT) -> Callable[[Callable], Any]:
    """A function that Python calls, with arguments of these codes; `gives` a number, or None."""

    def mark(function: Callable) -> Any:
        if not COMPILES:
            return Entry(function, codes, gives)
        made = inner(function)
        ENTRIES[f"{function.__module__}:{function.__name__}"] = made, codes, gives
        return made

    return mark
