"""Compiles every kernel into its cache, so that no later start and no click has to."""

from __future__ import annotations

import time
from collections.abc import Callable
from importlib import import_module

MODULES = (
    ("junctions and limits", "hearthline.core.engine.kernels.limiting"),
    ("linear parts", "hearthline.core.engine.kernels.linear"),
    ("diode", "hearthline.core.engine.kernels.diode"),
    ("MOS level 1", "hearthline.core.engine.kernels.mos1"),
    ("linear solver", "hearthline.core.engine.dense"),
    ("Newton's method", "hearthline.core.engine.newton"),
    ("continuations", "hearthline.core.engine.continuation"),
    ("lanes", "hearthline.core.engine.drive"),
)


def prepare(say: Callable[[str], None]) -> None:
    """Imports, and so compiles, one module after the other; `say` gets a line for each."""
    begin = time.perf_counter()
    for number, (what, module) in enumerate(MODULES, 1):
        say(f"[{number}/{len(MODULES)}] {what}")
        import_module(module)
    say(f"kernels ready in {time.perf_counter() - begin:.1f} s")
