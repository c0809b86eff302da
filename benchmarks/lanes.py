"""What a lane costs, in time and memory, with one of them and with a thousand."""

from __future__ import annotations

import tracemalloc
from functools import partial

import numpy as np

from benchmarks.circuits import amplifier, system_of
from benchmarks.row import Row, paired
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.solve import solve
from hearthline.core.engine.system import System

COUNTS = (1, 10, 100, 1000)


def rows() -> list[Row]:
    """Operating points of 20 transistors at as many temperatures, and memory from lowering on; held against one alone."""
    alone = _system(1)
    _ = alone.static
    solve(alone)
    found = []
    for count in COUNTS:
        system = _system(count)
        _ = system.static
        bursts = max(1, 200 // count)

        turns = bursts * min(count, 20)
        taken, by_itself = paired(partial(_repeated, system, bursts), partial(_repeated, alone, turns))
        share = by_itself / turns
        each = type(taken).of(taken / bursts / count, [])
        each.spread = taken.spread
        found.append(Row(f"operating point, each of {count} lanes", each, share, 1.0, "a lane alone, solved by itself"))
        found.append(
            Row(f"memory of each of {count} lanes", _bytes(count) / 1e3, _bytes(1) / 1e3, 1.0, "of one alone", "kB")
        )
    return found


def _repeated(system: System, times: int) -> None:
    for _ in range(times):
        solve(system)


def _system(count: int) -> System:
    return system_of(amplifier(), Lanes().spread(celsius=np.linspace(-40.0, 125.0, count)))


def _bytes(count: int) -> float:
    """Most that a lane of `count` takes while they are lowered and solved."""
    tracemalloc.start()
    system = _system(count)
    solve(system)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    return most / count
