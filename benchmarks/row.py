"""One row of the table, and how a duration is taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """A figure [s], what it is held against [s], and the ratio that is wanted."""

    figure: str
    ours: float
    floor: float
    target: float
    against: str
    unit: str = "s"

    @property
    def ratio(self) -> float:
        """Ours over the floor."""
        return self.ours / self.floor


def best(action: Callable[[], object], times: int = 5) -> float:
    """The shortest of several runs [s]: what the machine can do when nothing else disturbs it."""
    return min(timed(action) for _ in range(times))


def timed(action: Callable[[], object]) -> float:
    """How long one call takes [s]."""
    begin = time.perf_counter()
    action()
    return time.perf_counter() - begin


def paired(ours: Callable[[], object], floor: Callable[[], object], times: int = 9) -> tuple[float, float]:
    """Both in turn, so that a drift of the machine hits both; the pair with the middle ratio."""
    pairs = [(timed(ours), timed(floor)) for _ in range(times)]
    return sorted(pairs, key=lambda pair: pair[0] / pair[1])[times // 2]


def write(seconds: float, unit: str = "s") -> str:
    """A duration in the unit that reads best, or a number in its unit."""
    if unit != "s":
        return f"{seconds:.3g} {unit}"
    for unit, size in (("s", 1.0), ("ms", 1e-3), ("µs", 1e-6)):
        if seconds >= size:
            return f"{seconds / size:.3g} {unit}"
    return f"{seconds / 1e-9:.3g} ns"
